// What is stored of a picked face or edge: it comes with a body's mesh, ready made.
import { pickables } from '../view/scene.js';

/** @param {Body} body @param {number} index */
export const facePick = (body, index) => body.faces[index].pick;
/** @param {Body} body @param {number} index */
export const edgePick = (body, index) => body.edges[index].pick;
/** @param {any} hit */
export const pickOf = hit => (hit.what === 'edge' ? edgePick(hit.body, hit.index) : facePick(hit.body, hit.index));
// a face, an edge or a corner as a thing that is measured or placed by; null for a corner without an edge
/** @param {Hit} hit */
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
/** @param {any} a @param {any} b */
const alike = (a, b) => JSON.stringify(a) === JSON.stringify(b);
/** @param {any} a @param {any} b */
export const samePick = (a, b) =>
  a.first
    ? Boolean(b?.first) && alike(a.first, b.first) && alike(a.second, b.second) && alike(a.ends, b.ends) && near(a, b)
    : Boolean(b?.atoms) && alike(a.atoms, b.atoms) && near(a, b);
/** @param {{ centre: number[] }} a @param {{ centre: number[] }} b */
const near = (a, b) => Math.max(...a.centre.map((v, i) => Math.abs(v - b.centre[i]))) < 0.02;

// which of the faces and edges on the screen some picks are
/** @param {any[]} picks */
export function located(picks) {
  /** @type {any[]} */
  const found = [];
  for (const item of pickables()) {
    for (const pick of picks) {
      const list = pick.first ? item.body.edges : item.body.faces,
        what = pick.first ? 'edge' : 'face';
      list.forEach((/** @type {{ pick: any }} */ thing, /** @type {number} */ index) => {
        if (samePick(pick, thing.pick)) found.push({ ...item, what, index });
      });
    }
  }
  return found;
}
// everything of some sorts, for walking through by keyboard
/** @param {string[]} takes */
export const everything = takes =>
  pickables().flatMap(item =>
    [
      ...(takes.includes('edge')
        ? item.body.edges.map((/** @type {MeshEdge} */ e, /** @type {number} */ index) => ({
            ...item,
            what: 'edge',
            index,
            skip: e.faces.length < 2,
          }))
        : []),
      ...(takes.includes('face')
        ? item.body.faces.map((/** @type {MeshFace} */ _, /** @type {number} */ index) => ({
            ...item,
            what: 'face',
            index,
          }))
        : []),
    ].filter(h => !h.skip),
  );
