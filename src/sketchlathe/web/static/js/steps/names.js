// What things of the solid are called, in words: faces and edges by their form and the steps that made them, bodies.
import { S, kinds, part } from '../core/state.js';
import { withUnit } from '../core/units.js';

/** @type {Record<string, string>} */
const SAY = {
  flat: 'flat face',
  cylindrical: 'cylindrical face',
  conical: 'conical face',
  spherical: 'spherical face',
  'ring-shaped': 'ring-shaped face',
  curved: 'curved face',
  straight: 'straight edge',
  circular: 'circular edge',
  point: 'point',
};
// the steps a face comes from, and what it is there; who first made it may have a word of its own for it
/** @param {MeshFace} face */
function origin(face) {
  const steps = S.model.parts.flatMap(p => p.steps);
  /** @param {any} made */
  const said = made => {
    const own = steps.find(s => s.id === made.first)?.faces[made.as],
      i = part().steps.findIndex(s => s.id === made.by);
    return i < 0 ? '' : `${own ?? (made.role ? (kinds.roles[made.role] ?? 'face') : 'copy')} of step ${i + 1}`;
  };
  return [...new Set(face.made.map(said).filter(Boolean))].join(' and ');
}
// which of several that are called alike: where along the direction in which they differ most
/** @param {Body} body @param {number} index */
function which(body, index) {
  const named = (/** @type {MeshFace} */ f) => `${f.form} ${origin(f)}`,
    mine = named(body.faces[index]),
    alike = body.faces.filter((/** @type {MeshFace} */ f) => named(f) === mine);
  if (alike.length < 2) return '';
  const spread = [0, 1, 2].map(k => {
      const all = alike.map((/** @type {MeshFace} */ f) => f.centre[k]);
      return Math.max(...all) - Math.min(...all);
    }),
    axis = spread.indexOf(Math.max(...spread));
  if (spread[axis] < 1e-6) return '';
  return `, at ${'xyz'[axis]} ${withUnit(body.faces[index].centre[axis], 4)}`;
}
// where an edge is: what all its points have in common, else its middle; a whole circle by its size and centre
/** @param {Body} body @param {MeshEdge} e */
function whereIs(body, e) {
  const [first, count] = e.at,
    points = Array.from({ length: count }, (_, i) => [...body.lines.subarray(3 * (first + i), 3 * (first + i + 1))]),
    ends = [0, 1, 2].map(k => [Math.min(...points.map(p => p[k])), Math.max(...points.map(p => p[k]))]),
    size = Math.max(...ends.map(([low, high]) => high - low)),
    fixed = ends.map(([low, high]) => high - low < 1e-5 * size),
    /** @type {(k: number) => string} */
    at = k => `${'xyz'[k]} ${withUnit((ends[k][0] + ends[k][1]) / 2, 4)}`,
    round = e.form === 'circular' && e.ends[0] === e.ends[1];
  const named = [0, 1, 2].filter(k => round || fixed[k] || fixed.filter(Boolean).length < 1),
    along = e.form === 'straight' && fixed.filter(Boolean).length === 2 ? `along ${'xyz'[fixed.indexOf(false)]}, ` : '';
  return `${round ? `⌀ ${withUnit(size, 4)}, ` : ''}${along}at ${named.map(at).join(', ')}`;
}
// short enough for a list: edges by where they are, faces by what they are of
/** @param {any} hit */
export function inShort(hit) {
  if (hit.what !== 'edge') return nameOf(hit);
  const e = hit.body.edges[hit.index],
    where = whereIs(hit.body, e);
  return where.startsWith('along') ? where : `${(SAY[e.form] ?? 'curved edge').replace(' edge', '')} ${where}`;
}
/** @param {any} hit @param {boolean} where whether it is said of an edge where it is: a blank in a sentence does not */
export function nameOf(hit, where = true) {
  if (hit.what === 'face') {
    const f = hit.body.faces[hit.index];
    return `${SAY[f.form] ?? f.form}, ${origin(f)}${which(hit.body, hit.index)}`;
  }
  if (hit.what === 'edge') {
    const e = hit.body.edges[hit.index],
      of = origin(hit.body.faces[e.faces[0]]),
      form = e.form === 'curved' ? 'curved edge' : (SAY[e.form] ?? 'curved edge');
    return where ? `${form} ${whereIs(hit.body, e)}, of the ${of}` : `${form}, ${of}`;
  }
  return 'corner';
}
/** @param {string} id */
export function titleOfBody(id) {
  const built = S.build?.bodies.find(b => b.id === id)?.title;
  const title = part().steps.find(s => s.id === id.split('.')[0])?.title;
  return part().bodyNames?.[id] ?? built ?? `body of ${title ?? 'an earlier step'}`;
}
