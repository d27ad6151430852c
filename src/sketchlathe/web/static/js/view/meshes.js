// Bodies as they come: fetched once by the key of their mesh, with what is drawn of them; freed on the GPU when they
// go.
import * as T from 'three-kit';
import { on } from '../core/state.js';
import { during } from '../core/rest.js';

T.Mesh.prototype.raycast = T.acceleratedRaycast;

// bodies by the key of their mesh, the newest last; what is drawn of a body is made once and freed with it
const cache = new Map();
const MOST_BODIES = 60;
const MOST_BYTES = 200e6; // of what was fetched: large bodies are kept for fewer steps back
const weights = new Map(); // bytes of what has come, by key
let afresh = false; // built from nothing: what the browser keeps under the same keys is not believed either
on('doubted', () => {
  cache.clear();
  weights.clear();
  afresh = true;
});
/** @param {string} key @returns {Promise<Body>} */
export async function loadBody(key) {
  if (cache.has(key)) {
    const found = cache.get(key);
    cache.delete(key);
    cache.set(key, found);
    return found;
  }
  const answer = fetch(`/meshes/${key}`, { cache: afresh ? 'reload' : 'default' });
  const coming = answer
    .then(r => {
      if (!r.ok) throw new Error(`mesh ${key}`);
      return r.arrayBuffer();
    })
    .then(buffer => {
      weights.set(key, buffer.byteLength);
      return decode(buffer);
    });
  cache.set(key, during(coming));
  // what did not come is asked for again the next time
  coming.then(forget, () => {
    if (cache.get(key) === coming) cache.delete(key);
  });
  return coming;
}
// the oldest go, but none that is on the screen
export const seen = { is: (/** @type {Body} */ body) => Boolean(body) };
async function forget() {
  let count = cache.size - MOST_BODIES,
    bytes = [...weights.values()].reduce((sum, n) => sum + n, 0) - MOST_BYTES;
  for (const [key, coming] of [...cache].slice(0, -1)) {
    if (count <= 0 && bytes <= 0) return;
    const body = await coming.catch(() => null);
    if (body && seen.is(body)) continue;
    count -= 1;
    bytes -= weights.get(key) ?? 0;
    if (cache.get(key) === coming) cache.delete(key);
    weights.delete(key);
    for (const geometry of body ? [body.geometry, ...body.drawn.values()] : []) geometry.dispose();
  }
}
// bare arrays under a key (places of nodes), by name
/** @param {string} key */
export const loadArrays = key =>
  during(
    fetch(`/meshes/${key}`)
      .then(r => (r.ok ? r.arrayBuffer() : Promise.reject(new Error(`places ${key}`))))
      .then(buffer => arraysOf(buffer).arrays),
  );
/** @type {Record<string, any>} */
const KINDS = { float32: Float32Array, uint32: Uint32Array, int8: Int8Array };
/** @param {ArrayBuffer} buffer */
function arraysOf(buffer) {
  const size = new Uint32Array(buffer, 0, 1)[0],
    header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size))),
    /** @type {(one: any) => [string, any]} */
    read = ([name, [kind, count, at]]) => [name, new KINDS[kind](buffer, 4 + size + at, count)];
  return { header, arrays: Object.fromEntries(Object.entries(header.arrays).map(read)) };
}
/** @param {ArrayBuffer} buffer */
function decode(buffer) {
  const { header, arrays } = arraysOf(buffer);
  /** @param {string} name */
  const array = name => arrays[name];
  const geometry = new T.BufferGeometry();
  geometry.setAttribute('position', new T.BufferAttribute(array('positions'), 3));
  geometry.setAttribute('normal', new T.BufferAttribute(array('normals'), 3, true));
  geometry.setIndex(new T.BufferAttribute(array('triangles'), 1));
  geometry.boundsTree = new T.MeshBVH(geometry, { indirect: true });
  return { ...header, geometry, lines: array('lines'), drawn: new Map() };
}
/** @param {Body} body @param {MeshEdge[]} edges */
function segments(body, edges) {
  const out = [];
  for (const edge of edges)
    for (let i = edge.at[0]; i < edge.at[0] + edge.at[1] - 1; i += 1)
      out.push(...body.lines.subarray(3 * i, 3 * i + 6));
  return out;
}
// a geometry of a body, made once: hovering makes nothing new
/** @param {Body} body @param {string} name @param {() => any} make */
function drawnOf(body, name, make) {
  if (!body.drawn.has(name)) body.drawn.set(name, make());
  return body.drawn.get(name);
}
// an edge that a person sees: between two faces, and not where one face runs on smoothly in spans
/** @param {MeshEdge} edge */
export const bounds = edge => edge.faces.length > 1 && !edge.seam;
// edges of a body as lines; `which` names them
/** @param {Body} body @param {any} material @param {string | number} [which] */
export function outline(body, material, which = 'all', edges = body.edges) {
  const geometry = drawnOf(body, `lines ${which}${material.dashed ? ' dashed' : ''}`, () => {
    const made = new T.LineSegmentsGeometry(),
      points = segments(body, edges);
    if (points.length) made.setPositions(points);
    return made;
  });
  const line = new T.LineSegments2(geometry, material);
  if (material.dashed && !geometry.getAttribute('instanceDistanceStart') && geometry.getAttribute('instanceStart'))
    line.computeLineDistances();
  line.frustumCulled = false;
  return line;
}
/** @param {Body} body @param {number} index @param {any} material */
export function faceMesh(body, index, material) {
  const geometry = drawnOf(body, `face ${index}`, () => {
    const made = new T.BufferGeometry(),
      { at } = body.faces[index];
    made.setAttribute('position', body.geometry.getAttribute('position'));
    made.setIndex(new T.BufferAttribute(body.geometry.index.array.subarray(3 * at[0], 3 * (at[0] + at[1])), 1));
    return made;
  });
  const mesh = new T.Mesh(geometry, material);
  mesh.frustumCulled = false;
  return mesh;
}
/** @param {Body} body */
export const proper = body => body.edges.filter(bounds);
