// The solid: three.js meshes with crisp edges, drawn only when something changed.
import * as T from 'three-kit';
import { $, S, emit, on } from '../core/state.js';
import { camera } from './camera.js';

T.Mesh.prototype.raycast = T.acceleratedRaycast;
const canvas = $('scene');
const renderer = new T.WebGLRenderer({ canvas, antialias: true, alpha: true });
const scene = new T.Scene();
const eye = new T.OrthographicCamera(-1, 1, 1, -1, 0.1, 4e5);
eye.matrixAutoUpdate = false;
const key = new T.DirectionalLight(0xffffff, 1.75);
scene.add(new T.HemisphereLight(0xfffaf0, 0xe2d8c4, 2.15), key);
const solids = new T.Group(); const ghosts = new T.Group(); const marks = new T.Group();
scene.add(solids, ghosts, marks);

const stone = new T.MeshLambertMaterial({ color: 0xd9cfbb, polygonOffset: true, polygonOffsetFactor: 1.5, polygonOffsetUnits: 2 });
const lineMaterial = (color, width, dashed = false) => new T.LineMaterial({ color, linewidth: width, dashed, dashSize: 6, gapSize: 4 });
const inkLine = lineMaterial(0x1f2d35, 1.4);
const overlay = (color, opacity) => new T.MeshBasicMaterial({ color, transparent: true, opacity, depthWrite: false, polygonOffset: true, polygonOffsetFactor: -1, polygonOffsetUnits: -2, side: T.DoubleSide });
const hotFace = overlay(0xc08a2e, 0.3); const pickedFace = overlay(0xc08a2e, 0.55);
const hotLine = lineMaterial(0xc08a2e, 3.5); const pickedLine = lineMaterial(0x84580b, 4.5);
const addedGhost = overlay(0xc08a2e, 0.42); const cutGhost = overlay(0x3a3126, 0.34);
const addedLine = lineMaterial(0x84580b, 1.6); const cutLine = lineMaterial(0x3a3126, 1.6, true);
cutGhost.depthTest = false; cutLine.depthTest = false;

const cache = new Map();
export async function loadBody(key) {
  if (!cache.has(key)) {
    cache.set(key, fetch(`/meshes/${key}`).then((r) => { if (!r.ok) throw new Error(`mesh ${key}`); return r.arrayBuffer(); }).then(decode));
    if (cache.size > 120) cache.delete(cache.keys().next().value);
  }
  return cache.get(key);
}
const KINDS = { float32: Float32Array, uint32: Uint32Array, int8: Int8Array };
function decode(buffer) {
  const size = new Uint32Array(buffer, 0, 1)[0];
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size)));
  const array = (name) => { const [kind, count, at] = header.arrays[name]; return new KINDS[kind](buffer, 4 + size + at, count); };
  const geometry = new T.BufferGeometry();
  geometry.setAttribute('position', new T.BufferAttribute(array('positions'), 3));
  geometry.setAttribute('normal', new T.BufferAttribute(array('normals'), 3, true));
  geometry.setIndex(new T.BufferAttribute(array('triangles'), 1));
  geometry.boundsTree = new T.MeshBVH(geometry, { indirect: true });
  return { ...header, geometry, lines: array('lines'), edgeGeometry: null };
}
function segments(body, edges) {
  const out = [];
  for (const edge of edges) for (let i = edge.at[0]; i < edge.at[0] + edge.at[1] - 1; i += 1) out.push(...body.lines.subarray(3 * i, 3 * i + 6));
  return out;
}
function outline(body, material, edges = body.edges) {
  const geometry = new T.LineSegmentsGeometry();
  const points = segments(body, edges);
  if (points.length) geometry.setPositions(points);
  const line = new T.LineSegments2(geometry, material);
  if (material.dashed) line.computeLineDistances();
  line.frustumCulled = false;
  return line;
}
function faceMesh(body, face, material) {
  const geometry = new T.BufferGeometry();
  geometry.setAttribute('position', body.geometry.getAttribute('position'));
  geometry.setIndex(new T.BufferAttribute(body.geometry.index.array.subarray(3 * face.at[0], 3 * (face.at[0] + face.at[1])), 1));
  const mesh = new T.Mesh(geometry, material);
  mesh.frustumCulled = false;
  return mesh;
}

export const shown = []; // [{facts, body, mesh}]
let showing = 0;
async function show(list) {
  const mine = ++showing;
  const loaded = await Promise.all(list.map(async (facts) => ({ facts, body: await loadBody(facts.key) })));
  if (mine !== showing) return;
  solids.clear(); shown.length = 0;
  for (const { facts, body } of loaded) {
    const mesh = new T.Mesh(body.geometry, stone);
    mesh.frustumCulled = false;
    body.edgeLines ??= outline(body, inkLine, body.edges.filter((e) => e.faces.length > 1));
    solids.add(mesh, body.edgeLines);
    shown.push({ facts, body, mesh });
  }
  highlight([], []);
  draw();
  emit('shown');
}
export const showBuild = () => show(S.build?.bodies ?? []);
on('build', () => { if (!previewing) showBuild(); });

let previewing = false;
export async function showPreview(result) {
  previewing = true;
  const cuts = result.preview.change < 0;
  const tools = await Promise.all(result.preview.tools.map((t) => loadBody(t.key))).catch(() => []);
  if (!previewing) return;
  ghosts.clear();
  for (const body of tools) ghosts.add(new T.Mesh(body.geometry, cuts ? cutGhost : addedGhost), outline(body, cuts ? cutLine : addedLine));
  await show(result.bodies);
}
export function endPreview() { previewing = false; ghosts.clear(); showBuild(); draw(); }

// highlights: [{item, face|edge|vertex}]
export function highlight(hot, picked) {
  marks.clear();
  for (const [list, faceMaterial, line] of [[picked, pickedFace, pickedLine], [hot, hotFace, hotLine]]) {
    for (const { body, what, index } of list) {
      if (what === 'face') marks.add(faceMesh(body, body.faces[index], faceMaterial));
      if (what === 'edge') marks.add(outline(body, line, [body.edges[index]]));
    }
  }
  draw();
}

const caster = new T.Raycaster();
caster.firstHitOnly = false;
// What lies under a pixel, nearest first: [{body, facts, what, index, point}]
export function under(x, y, takes = ['face', 'edge', 'vertex']) {
  const { origin, direction } = camera.ray(x, y);
  caster.set(new T.Vector3(...origin), new T.Vector3(...direction));
  const hits = shown.flatMap((item) => caster.intersectObject(item.mesh, false).map((hit) => ({ item, hit }))).sort((a, b) => a.hit.distance - b.hit.distance);
  const nearest = hits[0]?.hit.distance ?? Infinity;
  const found = [];
  if (takes.includes('vertex')) found.push(...nearVertices(x, y, nearest));
  if (takes.includes('edge')) found.push(...nearEdges(x, y, nearest));
  if (takes.includes('face')) {
    for (const { item, hit } of hits) {
      const index = item.body.faces.findIndex((f) => hit.faceIndex >= f.at[0] && hit.faceIndex < f.at[0] + f.at[1]);
      if (index >= 0) found.push({ ...item, what: 'face', index, point: hit.point.toArray() });
    }
  }
  return found;
}
const depthOf = (p) => { const n = camera.normal(), t = camera.target; return 1e5 - ((p[0] - t[0]) * n[0] + (p[1] - t[1]) * n[1] + (p[2] - t[2]) * n[2]); };
function nearVertices(x, y, nearest) {
  const found = [];
  for (const item of shown) item.body.vertices.forEach((p, index) => {
    const [px, py] = camera.project(p); const d = Math.hypot(px - x, py - y);
    if (d < 7 && depthOf(p) < nearest + 3 / camera.scale + 1e-3) found.push({ ...item, what: 'vertex', index, d, point: p });
  });
  return found.sort((a, b) => a.d - b.d);
}
function nearEdges(x, y, nearest) {
  const found = [];
  for (const item of shown) item.body.edges.forEach((edge, index) => {
    let best = 6, at = null;
    for (let i = edge.at[0]; i < edge.at[0] + edge.at[1] - 1; i += 1) {
      const a = item.body.lines.subarray(3 * i, 3 * i + 3), b = item.body.lines.subarray(3 * i + 3, 3 * i + 6);
      const [ax, ay] = camera.project(a), [bx, by] = camera.project(b);
      const l = (bx - ax) ** 2 + (by - ay) ** 2 || 1, t = Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / l));
      const d = Math.hypot(ax + t * (bx - ax) - x, ay + t * (by - ay) - y);
      if (d < best) { const p = [0, 1, 2].map((k) => a[k] + t * (b[k] - a[k])); if (depthOf(p) < nearest + 8 / camera.scale + 1e-3) { best = d; at = p; } }
    }
    if (at) found.push({ ...item, what: 'edge', index, d: best, point: at });
  });
  return found.sort((a, b) => a.d - b.d);
}

let due = false;
export function draw() { if (!due) { due = true; requestAnimationFrame(render); } }
function render() {
  due = false;
  const { width: w, height: h, scale } = camera;
  const n = camera.normal(), r = camera.right(), u = camera.up(), t = camera.target;
  eye.left = -w / 2 / scale; eye.right = w / 2 / scale; eye.top = h / 2 / scale; eye.bottom = -h / 2 / scale;
  const reach = Math.max(w, h) / scale * 4 + 2000;
  eye.near = 0; eye.far = 2 * reach;
  eye.updateProjectionMatrix();
  eye.matrix.makeBasis(new T.Vector3(...r), new T.Vector3(...u), new T.Vector3(...n)).setPosition(t[0] + n[0] * reach, t[1] + n[1] * reach, t[2] + n[2] * reach);
  eye.matrixWorld.copy(eye.matrix); eye.matrixWorldInverse.copy(eye.matrix).invert();
  eye.matrixWorldAutoUpdate = false;
  key.position.set(n[0] + 0.5 * u[0] - 0.45 * r[0], n[1] + 0.5 * u[1] - 0.45 * r[1], n[2] + 0.5 * u[2] - 0.45 * r[2]);
  renderer.render(scene, eye);
}
function resize() {
  const { clientWidth: w, clientHeight: h } = $('view');
  camera.width = w; camera.height = h;
  renderer.setPixelRatio(Math.min(devicePixelRatio, 2));
  renderer.setSize(w, h, false);
  for (const m of [inkLine, hotLine, pickedLine, addedLine, cutLine]) m.resolution.set(w, h);
  camera.changed();
}
new ResizeObserver(resize).observe($('view'));
on('camera', draw);
resize();

export function boxPoints() {
  const boxes = S.build?.bodies.map((b) => b.box) ?? [];
  return boxes.flatMap(([l, h]) => [0, 1, 2, 3, 4, 5, 6, 7].map((i) => [i & 1 ? h[0] : l[0], i & 2 ? h[1] : l[1], i & 4 ? h[2] : l[2]]));
}
