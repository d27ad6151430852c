// While a step is tried, what is drawn is the part after it, and what is picked belongs to the part before it. A face,
// edge or corner that is in both is one thing: it is picked where it is drawn, and marked where it is drawn.
/** @type {WeakMap<Body, { face: string[], edge: string[], alike: string }>} */
const named = new WeakMap();
/** @param {any} pick */
const nameOfEdge = pick => [pick.first.join('+'), pick.second.join('+')].sort().join('|');
/** @param {any} pick */
const endsOfEdge = pick =>
  pick.ends
    .map((/** @type {string[]} */ e) => e.join('+'))
    .sort()
    .join('|');
/** @param {Body} body */
function namesOf(body) {
  let found = named.get(body);
  if (!found) {
    const face = body.faces.map(f => f.pick.atoms.join('+')),
      edge = body.edges.map(e => nameOfEdge(e.pick));
    found = { face, edge, alike: [face.join(), edge.join(), body.vertices.length].join(';') };
    named.set(body, found);
  }
  return found;
}
/** @param {any} a @param {any} b */
const apart = (a, b) => Math.hypot(...a.map((/** @type {number} */ v, /** @type {number} */ i) => v - b[i]));

/**
 * The same thing on another state of its body; null where that has none.
 * @param {Hit} hit @param {any[]} items the bodies of the other state
 * @returns {Hit | null}
 */
export function counterpart(hit, items) {
  const mine = namesOf(hit.body),
    own = items.filter(item => item.facts.id === hit.facts.id);
  for (const item of [...own, ...items.filter(one => !own.includes(one))]) {
    if (item.facts.key === hit.facts.key) return { ...hit, ...item };
    const theirs = namesOf(item.body);
    // moved as a whole: everything stands in the same order
    if (item.facts.id === hit.facts.id && theirs.alike === mine.alike) return { ...hit, ...item };
    if (hit.what === 'vertex') {
      const at = hit.body.vertices[hit.index],
        index = item.body.vertices.findIndex((/** @type {number[]} */ p) => apart(p, at) < 1e-6);
      if (index >= 0) return { ...hit, ...item, index };
      continue;
    }
    const what = /** @type {'face' | 'edge'} */ (hit.what),
      name = mine[what][hit.index],
      all = theirs[what].flatMap((other, index) => (other === name ? [index] : []));
    if (!all.length) continue;
    const things = what === 'face' ? item.body.faces : item.body.edges,
      pick = (what === 'face' ? hit.body.faces : hit.body.edges)[hit.index].pick,
      ends = what === 'edge' ? endsOfEdge(pick) : '',
      sure = what === 'edge' ? all.filter(index => endsOfEdge(things[index].pick) === ends) : all,
      among = sure.length ? sure : all;
    const index = among.reduce((a, b) =>
      apart(things[a].pick.centre, pick.centre) <= apart(things[b].pick.centre, pick.centre) ? a : b,
    );
    return { ...hit, ...item, index };
  }
  return null;
}
