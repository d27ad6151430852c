// What lies under a pixel: faces, edges and corners of the solids, and their cut faces.
import * as T from 'three-kit';
import { camera } from './camera.js';
import { capMeshes } from './cuts.js';
import { asDrawn, asFound, isApart, pickables, shown } from './scene.js';
import { away, paints } from './stuff.js';

const caster = new T.Raycaster();
caster.firstHitOnly = false;
// the body whose cut lies under a pixel with nothing before it, as {body: id, area, outline}
/** @param {number} x @param {number} y */
export function cutUnder(x, y) {
  const hit = firstCap(x, y);
  return hit && !solidsUnder(false).some(h => h.hit.distance < hit.distance - 1e-4) ? hit.object.userData.cut : null;
}
/** @param {number} x @param {number} y */
function firstCap(x, y) {
  const { origin, direction } = camera.ray(x, y);
  caster.set(new T.Vector3(...origin), new T.Vector3(...direction));
  return caster.intersectObjects(capMeshes(), false)[0];
}
/** @param {boolean} deep @param {any[]} [items] */
function solidsUnder(deep, items = shown) {
  for (const material of paints.values()) material.side = deep ? T.DoubleSide : T.FrontSide;
  const hits = items
    .flatMap(item =>
      caster
        .intersectObject(item.mesh, false)
        .filter((/** @type {any} */ hit) => !away(hit.point.toArray()))
        .map((/** @type {any} */ hit) => ({ item, hit })),
    )
    .sort((a, b) => a.hit.distance - b.hit.distance);
  for (const material of paints.values()) material.side = T.FrontSide;
  return hits;
}

// What lies under a pixel, nearest first: [{body, facts, what, index, point}]; deep: also faces that look away
/** @param {number} x @param {number} y @param {string[]} [takes] @returns {Hit[]} */
export function under(x, y, takes = ['face', 'edge', 'vertex'], deep = false) {
  if (isApart()) return [];
  const drawn = hitsOf(shown, x, y, takes, deep);
  if (pickables() === shown) return drawn;
  // a step is tried: what is drawn is picked as what it was before it
  const found = drawn.flatMap(hit => asFound(hit) ?? []);
  if (drawn.length && asFound(drawn[0])) return found;
  // what the step made was not there; what lay in its place and is not to be seen anywhere else can be picked there
  const covered = hitsOf(pickables(), x, y, takes, deep).filter(hit => !asDrawn(hit));
  return [...covered, ...found];
}
/** @param {any[]} items @param {number} x @param {number} y @param {string[]} takes @param {boolean} deep
 @returns {Hit[]} */
function hitsOf(items, x, y, takes, deep) {
  // a cut face hides what lies behind it, as any face does
  const cap = firstCap(x, y),
    limit = cap && !deep ? cap.distance + 1e-3 : Infinity;
  const hits = solidsUnder(deep, items).filter(({ hit }) => hit.distance <= limit);
  const nearest = Math.min(hits[0]?.hit.distance ?? Infinity, limit);
  const found = [];
  if (takes.includes('vertex')) found.push(...nearVertices(items, x, y, nearest));
  if (takes.includes('edge')) found.push(...nearEdges(items, x, y, nearest));
  if (takes.includes('face')) {
    for (const { item, hit } of hits) {
      const index = item.body.faces.findIndex(
        (/** @type {MeshFace} */ f) => hit.faceIndex >= f.at[0] && hit.faceIndex < f.at[0] + f.at[1],
      );
      if (index >= 0) found.push({ ...item, what: 'face', index, point: hit.point.toArray() });
    }
  }
  return found;
}
/** @param {Vec} p */
const depthOf = p => {
  const n = camera.normal(),
    t = camera.target;
  return 1e5 - ((p[0] - t[0]) * n[0] + (p[1] - t[1]) * n[1] + (p[2] - t[2]) * n[2]);
};
/** @param {any[]} items @param {number} x @param {number} y @param {number} nearest */
function nearVertices(items, x, y, nearest) {
  /** @type {any[]} */
  const found = [];
  for (const item of items)
    item.body.vertices.forEach((/** @type {number[]} */ p, /** @type {number} */ index) => {
      const [px, py] = camera.project(p);
      const d = Math.hypot(px - x, py - y);
      if (d < 7 && !away(p) && depthOf(p) < nearest + 3 / camera.scale + 1e-3)
        found.push({ ...item, what: 'vertex', index, d, point: p });
    });
  return found.sort((a, b) => a.d - b.d);
}
/** @param {any[]} items @param {number} x @param {number} y @param {number} nearest */
function nearEdges(items, x, y, nearest) {
  /** @type {any[]} */
  const found = [];
  for (const item of items)
    item.body.edges.forEach((/** @type {MeshEdge} */ edge, /** @type {number} */ index) => {
      if (edge.seam) return;
      let best = 6,
        at = null;
      for (let i = edge.at[0]; i < edge.at[0] + edge.at[1] - 1; i += 1) {
        const a = item.body.lines.subarray(3 * i, 3 * i + 3),
          b = item.body.lines.subarray(3 * i + 3, 3 * i + 6);
        const [ax, ay] = camera.project(a),
          [bx, by] = camera.project(b);
        const l = (bx - ax) ** 2 + (by - ay) ** 2 || 1,
          t = Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / l));
        const d = Math.hypot(ax + t * (bx - ax) - x, ay + t * (by - ay) - y);
        if (d < best) {
          const p = [0, 1, 2].map(k => a[k] + t * (b[k] - a[k]));
          if (!away(p) && depthOf(p) < nearest + 8 / camera.scale + 1e-3) {
            best = d;
            at = p;
          }
        }
      }
      if (at) found.push({ ...item, what: 'edge', index, d: best, point: at });
    });
  // of edges that lie over one another (a top view), the one in front is meant
  const rank = (/** @type {any} */ e) => Math.round(e.d / 2.5);
  return found.sort((a, b) => rank(a) - rank(b) || depthOf(a.point) - depthOf(b.point));
}
