// The part on the printer's bed: its triangles, what was found painted on it, its layers as outlines.
import { $ } from '../core/dom.js';
import * as T from 'three-kit';

const view = $('view'),
  canvas = $('scene');
const renderer = new T.WebGLRenderer({ canvas, antialias: true, alpha: true });
const scene = new T.Scene(),
  eye = new T.OrthographicCamera(-1, 1, 1, -1, -4000, 4000);
const lamp = new T.DirectionalLight(0xffffff, 1.7);
scene.add(new T.HemisphereLight(0xfffaf0, 0xe2d8c4, 2.1), lamp);
const part = new T.Group(),
  drawn = new T.Group(),
  bed = new T.Group();
scene.add(bed, part, drawn);
const at = { az: -0.95, el: 0.5, zoom: 4, target: [0, 0, 20] };
/** @param {number} color @param {number} width */
const line = (color, width, opacity = 1) =>
  new T.LineMaterial({ color, linewidth: width, transparent: opacity < 1, opacity });
const rule = line(0xe0d6c0, 1),
  rim = line(0xa9752a, 1.4),
  below = line(0x7c7361, 1),
  now = line(0x84580b, 3),
  above = line(0xb5aa93, 0.8, 0.5),
  sharp = line(0x1f2d35, 1.1);
const stone = new T.MeshLambertMaterial({
  color: '#d9cfbb',
  transparent: true,
  polygonOffset: true,
  polygonOffsetFactor: 1,
  polygonOffsetUnits: 2,
});
const found = new T.MeshBasicMaterial({
  color: '#c2410c',
  transparent: true,
  opacity: 0.75,
  polygonOffset: true,
  polygonOffsetFactor: -1,
  polygonOffsetUnits: -2,
  side: T.DoubleSide,
});

/** @type {any} */
let body = null,
  /** @type {any} */
  layers = null,
  /** @type {number[]} */
  heights = [];
/** @param {string} mesh @param {string} layerKey @param {number[]} levels */
export async function load(mesh, layerKey, levels) {
  const [a, b] = await Promise.all([
    fetch(`/meshes/${mesh}`).then(r => r.arrayBuffer()),
    fetch(`/meshes/${layerKey}`).then(r => r.json()),
  ]);
  const size = new Uint32Array(a, 0, 1)[0],
    header = JSON.parse(new TextDecoder().decode(new Uint8Array(a, 4, size)));
  /** @type {Record<string, any>} */
  const kinds = { float32: Float32Array, uint32: Uint32Array, int8: Int8Array };
  /** @param {string} name */
  const array = name => {
    const [kind, count, from] = header.arrays[name];
    return new kinds[kind](a, 4 + size + from, count);
  };
  const geometry = new T.BufferGeometry();
  geometry.setAttribute('position', new T.BufferAttribute(array('positions'), 3));
  geometry.setAttribute('normal', new T.BufferAttribute(array('normals'), 3, true));
  geometry.setIndex(new T.BufferAttribute(array('triangles'), 1));
  body = { geometry, box: header.box };
  layers = b;
  heights = levels;
  part.clear();
  const mesh3 = new T.Mesh(geometry, stone),
    edges = strokes(array('lines'), sharp);
  mesh3.frustumCulled = false;
  part.add(mesh3, edges);
  fit();
}
/** @param {Float32Array} points @param {any} material */
function strokes(points, material) {
  const geometry = new T.LineSegmentsGeometry();
  if (points.length) geometry.setPositions(points);
  const made = new T.LineSegments2(geometry, material);
  made.frustumCulled = false;
  return made;
}
/** @param {number} x @param {number} y */
export function setBed(x, y) {
  bed.clear();
  const grid = [],
    edge = [];
  for (let i = -Math.floor(x / 20) * 10; i <= x / 2; i += 10) grid.push(i, -y / 2, 0, i, y / 2, 0);
  for (let j = -Math.floor(y / 20) * 10; j <= y / 2; j += 10) grid.push(-x / 2, j, 0, x / 2, j, 0);
  for (const [a, b, c, d] of [
    [-1, -1, 1, -1],
    [1, -1, 1, 1],
    [1, 1, -1, 1],
    [-1, 1, -1, -1],
  ])
    edge.push((a * x) / 2, (b * y) / 2, 0, (c * x) / 2, (d * y) / 2, 0);
  bed.add(strokes(new Float32Array(grid), rule), strokes(new Float32Array(edge), rim));
  draw();
}
// triangles as [first, count]
/** @param {number[][]} ranges */
export function paint(ranges) {
  for (const old of [...part.children].filter(c => c.painted)) part.remove(old);
  if (body && ranges.length) {
    const all = body.geometry.index.array,
      some = new Uint32Array(ranges.reduce((sum, [, n]) => sum + 3 * n, 0));
    let k = 0;
    for (const [first, n] of ranges) {
      some.set(all.subarray(3 * first, 3 * (first + n)), k);
      k += 3 * n;
    }
    const geometry = new T.BufferGeometry();
    geometry.setAttribute('position', body.geometry.getAttribute('position'));
    geometry.setIndex(new T.BufferAttribute(some, 1));
    const mesh = new T.Mesh(geometry, found);
    mesh.frustumCulled = false;
    mesh.painted = true;
    part.add(mesh);
  }
  draw();
}
/** @param {number} i @param {number[]} out */
const rings = (i, out) => {
  for (const ring of layers[i])
    for (let k = 0; k + 1 < ring.length; k += 1)
      out.push(ring[k][0], ring[k][1], heights[i], ring[k + 1][0], ring[k + 1][1], heights[i]);
  return out;
};
/** @param {number} number @param {boolean} whole */
export function showLayer(number, whole) {
  part.visible = true;
  stone.opacity = whole ? 1 : 0.12;
  stone.depthWrite = whole;
  for (const c of part.children) if (!c.painted && c.material === sharp) c.visible = whole;
  drawn.clear();
  if (layers?.length) {
    const every = Math.max(1, Math.round(layers.length / 90)),
      /** @type {number[]} */
      low = [],
      /** @type {number[]} */
      high = [];
    if (!whole) {
      for (let i = 0; i < number - 1; i += every) rings(i, low);
      for (let i = number; i < layers.length; i += every) rings(i, high);
    }
    drawn.add(
      strokes(new Float32Array(low), below),
      strokes(new Float32Array(high), above),
      strokes(new Float32Array(rings(number - 1, [])), now),
    );
  }
  draw();
}
export function fit() {
  if (!body) return;
  const [l, h] = body.box;
  at.target = l.map((/** @type {number} */ v, /** @type {number} */ i) => (v + h[i]) / 2);
  at.zoom =
    (0.72 * Math.min(view.clientWidth, view.clientHeight)) /
    Math.max(20, Math.hypot(...h.map((/** @type {number} */ v, /** @type {number} */ i) => v - l[i])));
  draw();
}
let due = false;
export function draw() {
  if (!due) {
    due = true;
    requestAnimationFrame(render);
  }
}
function render() {
  due = false;
  const w = view.clientWidth,
    h = view.clientHeight,
    { az, el, zoom, target } = at;
  renderer.setPixelRatio(Math.min(devicePixelRatio, 2));
  renderer.setSize(w, h, false);
  for (const m of [rule, rim, below, now, above, sharp]) m.resolution.set(w, h);
  eye.left = -w / 2 / zoom;
  eye.right = w / 2 / zoom;
  eye.top = h / 2 / zoom;
  eye.bottom = -h / 2 / zoom;
  eye.updateProjectionMatrix();
  const n = [Math.cos(el) * Math.cos(az), Math.cos(el) * Math.sin(az), Math.sin(el)];
  eye.up.set(0, 0, 1);
  eye.position.set(...target.map((v, i) => v + n[i] * 100));
  eye.lookAt(new T.Vector3(...target));
  lamp.position.set(n[0] + 0.4, n[1] - 0.6, n[2] + 1.1);
  renderer.render(scene, eye);
}
// --- bodies that can be moved on the bed: [{id, triangles: [first, count]}]; `moved(id, dx, dy)` when one is let go
/** @type {any[]} */
let loose = [],
  /** @type {any} */
  moved = null;

const caught = found.clone();
caught.color.set('#b98a2e');
caught.opacity = 0.35;
/** @param {any[]} bodies @param {(id: string, dx: number, dy: number) => void} whenMoved
 @param {(id: string | null) => void} whenChosen */
export function setLoose(bodies, whenMoved, whenChosen) {
  loose = bodies;
  moved = { let: whenMoved, choose: whenChosen };
  canvas.classList.toggle('loose', bodies.length > 0);
}
/** @param {string | null} id */
export function choose(id) {
  for (const old of [...part.children].filter(c => c.caught)) {
    part.remove(old);
    old.geometry.dispose();
  }
  const one = loose.find(b => b.id === id);
  if (one && body) {
    const geometry = new T.BufferGeometry(),
      [first, n] = one.triangles;
    geometry.setAttribute('position', body.geometry.getAttribute('position'));
    geometry.setIndex(new T.BufferAttribute(body.geometry.index.array.slice(3 * first, 3 * (first + n)), 1));
    const mesh = new T.Mesh(geometry, caught);
    mesh.frustumCulled = false;
    mesh.caught = true;
    part.add(mesh);
  }
  draw();
}
const ray = new T.Raycaster();
/** @param {MouseEvent} event */
function pointed(event) {
  const r = canvas.getBoundingClientRect();
  eye.updateMatrixWorld();
  ray.setFromCamera(
    new T.Vector2(((event.clientX - r.left) / r.width) * 2 - 1, 1 - ((event.clientY - r.top) / r.height) * 2),
    eye,
  );
}
// where a place over the bed is in the window
/** @param {number[]} place */
export function onScreen(place) {
  const r = canvas.getBoundingClientRect();
  eye.updateMatrixWorld();
  const v = new T.Vector3(...place).project(eye);
  return [r.left + ((v.x + 1) / 2) * r.width, r.top + ((1 - v.y) / 2) * r.height];
}
/** @param {MouseEvent} event */
function bodyAt(event) {
  const mesh = part.children.find((/** @type {any} */ c) => c.material === stone);
  if (!mesh || !loose.length) return null;
  pointed(event);
  const hit = ray.intersectObject(mesh)[0];
  /** @param {any} b */
  const of = b => hit.faceIndex >= b.triangles[0] && hit.faceIndex < b.triangles[0] + b.triangles[1];
  return hit && { at: hit.point, one: loose.find(of) };
}
// where the pointer is on a level plane
/** @param {MouseEvent} event @param {number} z */
function onLevel(event, z) {
  pointed(event);
  const { origin, direction } = ray.ray;
  if (Math.abs(direction.z) < 1e-3) return null;
  const t = (z - origin.z) / direction.z;
  return [origin.x + t * direction.x, origin.y + t * direction.y];
}
// its corners are its own: three to a triangle
/** @param {any} one @param {number} dx @param {number} dy */
function shift(one, dx, dy) {
  const places = body.geometry.getAttribute('position'),
    [first, n] = one.triangles;
  for (let k = 3 * first; k < 3 * (first + n); k += 1) places.setXY(k, places.getX(k) + dx, places.getY(k) + dy);
  places.needsUpdate = true;
}
/** @param {PointerEvent} event @param {any} held */
function drag(event, { at: point, one }) {
  const from = onLevel(event, point.z);
  if (!from) return false;
  let last = from;
  moved.choose(one.id);
  const edges = part.children.filter((/** @type {any} */ c) => c.material === sharp);
  const move = (/** @type {any} */ e) => {
    const now = onLevel(e, point.z);
    if (!now) return;
    for (const c of edges) c.visible = false;
    shift(one, now[0] - last[0], now[1] - last[1]);
    last = now;
    draw();
  };
  /** @param {boolean} keep */
  const stop = keep => {
    view.removeEventListener('pointermove', move);
    view.removeEventListener('pointerup', up);
    view.removeEventListener('pointercancel', cancel);
    removeEventListener('keydown', key, true);
    const [dx, dy] = [last[0] - from[0], last[1] - from[1]];
    if (keep && Math.hypot(dx, dy) * at.zoom > 2) moved.let(one.id, dx, dy);
    else {
      shift(one, -dx, -dy);
      for (const c of edges) c.visible = stone.opacity === 1;
    }
    draw();
  };
  const up = () => stop(true),
    cancel = () => stop(false);
  const key = (/** @type {any} */ e) => {
    if (e.key !== 'Escape') return;
    e.preventDefault();
    e.stopPropagation();
    cancel();
  };
  view.addEventListener('pointermove', move);
  view.addEventListener('pointerup', up);
  view.addEventListener('pointercancel', cancel);
  addEventListener('keydown', key, true);
  return true;
}
view.addEventListener('pointerdown', event => {
  if (event.target !== canvas && event.target !== view) return;
  view.setPointerCapture(event.pointerId);
  const hit = event.button === 0 && bodyAt(event);
  if (hit?.one && drag(event, hit)) return;
  const move = (/** @type {any} */ e) => {
    at.az -= e.movementX / 160;
    at.el = Math.max(-1.55, Math.min(1.55, at.el + e.movementY / 160));
    draw();
  };
  const up = () => {
    view.removeEventListener('pointermove', move);
    view.removeEventListener('pointerup', up);
  };
  view.addEventListener('pointermove', move);
  view.addEventListener('pointerup', up);
});
view.addEventListener(
  'wheel',
  event => {
    event.preventDefault();
    at.zoom *= Math.exp(-event.deltaY / 600);
    draw();
  },
  { passive: false },
);
view.addEventListener('keydown', event => {
  const turn = { ArrowLeft: [-0.2, 0], ArrowRight: [0.2, 0], ArrowUp: [0, 0.15], ArrowDown: [0, -0.15] }[event.key];
  if (turn) {
    at.az += turn[0];
    at.el = Math.max(-1.55, Math.min(1.55, at.el + turn[1]));
  } else if (event.key === '+' || event.key === '=') at.zoom *= 1.25;
  else if (event.key === '-') at.zoom /= 1.25;
  else if (event.key === '0') {
    fit();
    return;
  } else return;
  event.preventDefault();
  draw();
});
new ResizeObserver(draw).observe(view);
