// What is stored of a picked face or edge, made from the names that come with a body's mesh.
import { pickables } from '../view/scene.js';

const text = atoms => [...atoms].sort().join('+');
const atomsOf = (body, face) => body.faces[face].pick.atoms;
export const facePick = (body, index) => body.faces[index].pick;

function endsOf(body, edge) {
  const own = new Set(edge.faces.map(f => text(atomsOf(body, f))));
  return edge.ends.map(v =>
    v < 0 ? [] : [...new Set((body.corners[v] ?? []).map(f => text(atomsOf(body, f))))].filter(n => !own.has(n)).sort(),
  );
}
function sidesOf(body, edge) {
  const names = edge.faces.map(f => text(atomsOf(body, f)));
  const order = edge.faces.map((f, i) => [names[i], f]).sort((a, b) => (a[0] < b[0] ? -1 : 1));
  return [atomsOf(body, order[0][1]), atomsOf(body, order.at(-1)[1])].map(a => [...a].sort());
}
function middle(body, edge) {
  const p = i => body.lines.subarray(3 * (edge.at[0] + i), 3 * (edge.at[0] + i) + 3);
  let long = 0;
  const steps = [];
  for (let i = 1; i < edge.at[1]; i += 1) {
    const a = p(i - 1),
      b = p(i),
      d = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
    steps.push([a, b, d]);
    long += d;
  }
  let left = long / 2;
  for (const [a, b, d] of steps) {
    if (left <= d && d > 0) return [0, 1, 2].map(k => a[k] + ((b[k] - a[k]) * left) / d);
    left -= d;
  }
  return [...(edge.at[1] ? p(0) : [0, 0, 0])];
}
export function edgePick(body, index) {
  const edge = body.edges[index],
    [first, second] = sidesOf(body, edge),
    key = `${text(first)}|${text(second)}`;
  const siblings = body.edges
    .filter((e, i) => i !== index && e.faces.length && (([a, b]) => `${text(a)}|${text(b)}` === key)(sidesOf(body, e)))
    .map(e => endsOf(body, e));
  const [low, high] = body.box,
    at = middle(body, edge);
  return {
    first,
    second,
    ends: endsOf(body, edge),
    siblings,
    centre: at.map((v, k) => +((v - low[k]) / Math.max(high[k] - low[k], 1e-9)).toFixed(6)),
  };
}
export const pickOf = hit => (hit.what === 'edge' ? edgePick(hit.body, hit.index) : facePick(hit.body, hit.index));
// a face, an edge or a corner as a thing that is measured or placed by; null for a corner without an edge
export function thingOf(hit) {
  if (hit.what === 'face') return { face: facePick(hit.body, hit.index) };
  if (hit.what === 'edge') return { edge: edgePick(hit.body, hit.index) };
  const index = hit.body.edges.findIndex(e => e.ends.includes(hit.index) && e.faces.length > 1);
  if (index < 0) return null;
  const [low, high] = hit.body.box;
  return {
    edge: edgePick(hit.body, index),
    at: hit.body.vertices[hit.index].map((v, k) => (v - low[k]) / Math.max(high[k] - low[k], 1e-9)),
  };
}
export const samePick = (a, b) =>
  a.first
    ? Boolean(b.first) &&
      text(a.first) === text(b.first) &&
      text(a.second) === text(b.second) &&
      JSON.stringify(a.ends) === JSON.stringify(b.ends) &&
      near(a, b)
    : Boolean(b.atoms) && text(a.atoms) === text(b.atoms) && near(a, b);
const near = (a, b) => Math.max(...a.centre.map((v, i) => Math.abs(v - b.centre[i]))) < 0.02;

// which of the faces and edges on the screen some picks are
export function located(picks) {
  const found = [];
  for (const item of pickables()) {
    for (const pick of picks) {
      const list = pick.first ? item.body.edges : item.body.faces,
        what = pick.first ? 'edge' : 'face';
      list.forEach((thing, index) => {
        if (what === 'edge' && !thing.faces.length) return;
        if (samePick(pick, what === 'edge' ? edgePick(item.body, index) : facePick(item.body, index)))
          found.push({ ...item, what, index });
      });
    }
  }
  return found;
}
// everything of some sorts, for walking through by keyboard
export const everything = takes =>
  pickables().flatMap(item =>
    [
      ...(takes.includes('edge')
        ? item.body.edges.map((e, index) => ({ ...item, what: 'edge', index, skip: e.faces.length < 2 }))
        : []),
      ...(takes.includes('face') ? item.body.faces.map((f, index) => ({ ...item, what: 'face', index })) : []),
    ].filter(h => !h.skip),
  );
