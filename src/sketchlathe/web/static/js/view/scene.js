// The solid: three.js meshes with crisp edges, drawn only when something changed.
import * as T from 'three-kit';
import { $ } from '../core/dom.js';
import { S, emit, on, there } from '../core/state.js';
import { build, buildAfresh } from '../core/building.js';
import { stir } from '../core/rest.js';
import { recall, remember } from '../core/kept.js';
import { titleOfBody } from '../steps/names.js';
import { complain } from '../ui/messages.js';
import { camera } from './camera.js';
import { counterpart } from './counterparts.js';
import { bounds, faceMesh, loadBody, outline, seen } from './meshes.js';
import * as stuff from './stuff.js';

const canvas = $('scene');
const renderer = new T.WebGLRenderer({ canvas, antialias: true, alpha: true });
renderer.localClippingEnabled = true;
const scene = new T.Scene();
const eye = new T.OrthographicCamera(-1, 1, 1, -1, 0.1, 4e5);
eye.matrixAutoUpdate = false;
const key = new T.DirectionalLight(0xffffff, 1.75);
scene.add(new T.HemisphereLight(0xfffaf0, 0xe2d8c4, 2.15), key);
const solids = new T.Group();
const ghosts = new T.Group();
const marks = new T.Group();
const overlaps = new T.Group(); // painted over the part
const others = new T.Group(); // what is seen on the other side of the divide
scene.add(solids, ghosts, marks, overlaps, others);
// groups of others, and what they do before each picture
/** @param {any} group */
export const put = group => {
  scene.add(group);
  return group;
};
/** @type {(() => void)[]} */
export const beforeDrawing = [];
// geometries and textures on the GPU, for the benchmark and tests
export const onTheGpu = () => ({ ...renderer.info.memory });
/** @param {Body} body */
seen.is = body =>
  [...shown, ...(before ?? [])].some(item => item.body === body) ||
  [solids, ghosts, overlaps, others].some(group =>
    group.children.some((/** @type {any} */ node) => node.geometry === body.geometry),
  );

// ids of bodies that are not shown, in any part of the model; kept in this browser
const HIDDEN = `hidden.${S.model.id}`;
const hidden = new Set(recall(HIDDEN, /** @type {string[]} */ ([])));
/** @param {string} id */
export const isHidden = id => hidden.has(id);
/** @param {string} name */
export function setLook(name) {
  stuff.wear(name);
  showBuild();
}
/** @param {string[]} ids */
export function setHidden(ids) {
  for (const b of [...(S.build?.bodies ?? []), ...(S.build?.references ?? [])]) hidden.delete(b.id);
  for (const id of ids) hidden.add(id);
  remember(HIDDEN, [...hidden].slice(-500));
  showBuild();
  emit('hidden');
}
/** @type {{ facts: Told.BodyFacts, body: Body, mesh: any, nodes: any[] }[]} */
export const shown = []; // [{facts, body, mesh}]
let showing = 0;
/** @param {Told.BodyFacts[]} list */
async function show(list) {
  const mine = ++showing;
  const loaded = await Promise.all(list.map(async facts => ({ facts, body: await loadBody(facts.key) }))).catch(
    () => null,
  );
  if (mine !== showing) return;
  if (!loaded) {
    complain('The picture of the part did not come; what is shown is older than the numbers.', [
      ['fetch it again', build],
    ]);
    return;
  }
  solids.clear();
  shown.length = 0;
  for (const { facts, body } of loaded) {
    const own = (S.build?.paints ?? []).filter(p => p.body === facts.id);
    const finish = stuff.finishOf(facts.id, own),
      mesh = new T.Mesh(body.geometry, stuff.paintOf(finish));
    mesh.frustumCulled = false;
    const nodes = own
      .filter(p => p.face !== null && body.faces[p.face])
      .map(p => faceMesh(body, p.face ?? 0, stuff.paintOf({ ...finish, colour: p.colour }, 1)));
    body.edgeLines ??= outline(body, stuff.inkLine, 'proper', body.edges.filter(bounds));
    if (!hidden.has(facts.id)) {
      nodes.push(mesh, body.edgeLines);
      body.edgeLines.visible = stuff.lookNow().edges;
      if (stuff.lookNow().behind) {
        body.behindLines ??= outline(body, stuff.behindLine, 'proper', body.edges.filter(bounds));
        nodes.push(body.behindLines);
      }
      solids.add(...nodes);
      shown.push({ facts, body, mesh, nodes });
    }
  }
  for (const facts of previewing ? [] : (S.build?.references ?? [])) {
    if (hidden.has(facts.id)) continue;
    const body = await loadBody(facts.key).catch(() => null);
    if (mine !== showing || !body) continue;
    body.edgeLines ??= outline(body, stuff.referenceLine);
    solids.add(new T.Mesh(body.geometry, stuff.referenceStuff), body.edgeLines);
  }
  if (!previewing) doubt(loaded);
  highlight([], []);
  setApart();
  draw();
  emit('shown');
}
// bodies drawn away from where they are: offset(facts) → [x, y, z]; nothing is picked meanwhile
/** @type {((facts: any) => number[]) | null} */
let offsetOf = null;
export const isApart = () => Boolean(offsetOf);
export function setApart(offset = offsetOf) {
  offsetOf = offset;
  overlaps.visible = !offset;
  for (const { facts, nodes } of shown) {
    const by = offset?.(facts) ?? [0, 0, 0];
    for (const node of nodes) {
      node.matrixAutoUpdate = true;
      node.position.set(...by);
    }
  }
  draw();
}
// bodies while they are moved by hand: by a turn about an axis (rad) and a shift; null: back to where they are
/** @param {string[]} ids */
export function setMoved(ids, { at = [0, 0, 0], way = [0, 0, 1], angle = 0, by = [0, 0, 0] } = {}) {
  const turn = new T.Matrix4().makeRotationAxis(new T.Vector3(...way), angle),
    to = new T.Vector3(...at),
    matrix = new T.Matrix4()
      .makeTranslation(...by)
      .multiply(new T.Matrix4().makeTranslation(...at))
      .multiply(turn)
      .multiply(new T.Matrix4().makeTranslation(-to.x, -to.y, -to.z));
  for (const { facts, nodes } of shown)
    if (ids.includes(facts.id))
      for (const node of nodes) {
        node.matrixAutoUpdate = false;
        node.matrix.copy(matrix);
        node.matrixWorldNeedsUpdate = true;
      }
  draw();
}
// what is drawn in place of the solids, over them, or in one half of the view (``overlays.js``)
/** @type {any} */
let instead = null;
/** @param {any} group */
export function setInstead(group) {
  if (instead && instead !== group) scene.remove(instead);
  if (group && group !== instead) scene.add(group);
  instead = group;
  solids.visible = !group;
  document.body.dataset.live = group ? 'yes' : '';
  draw();
}
/** @type {number | null} */
let divide = null; // a share of the width: left of it ``others`` are seen; null: one state
/** @param {number | null} share */
export function setDivide(share) {
  divide = share;
  draw();
}
export const over = overlaps,
  beside = others;
// the numbers and the picture come from different ways through the kernel: where they differ something is wrong, and
// is said
/** @param {{ facts: Told.BodyFacts, body: Body }[]} off */
function doubtful(off) {
  const [{ body, facts }] = off,
    percent = (100 * Math.abs(body.volume / facts.volume - 1)).toPrecision(2),
    which = off.map(one => titleOfBody(one.facts.id)).join(', ');
  return `The picture and the numbers of ${which} differ by ${percent} %: do not trust this build.`;
}
/** @param {{ facts: Told.BodyFacts, body: Body }[]} loaded */
function doubt(loaded) {
  const off = loaded.filter(({ facts, body }) => body.slack && Math.abs(body.volume - facts.volume) > body.slack);
  if (off.length) complain(doubtful(off), [['build it afresh', buildAfresh]]);
}
export const showBuild = () => show(S.build?.bodies ?? []);
on('build', () => {
  if (!previewing) showBuild();
});
// another finish: no need to load anything
on('look', () => {
  for (const item of shown)
    item.mesh.material = stuff.paintOf(
      stuff.finishOf(
        item.facts.id,
        (S.build?.paints ?? []).filter(p => p.body === item.facts.id),
      ),
    );
  draw();
});
on('model', () => emit('look'));

let previewing = false;
/** @type {any[] | null} */
let before = null; // while previewing: the bodies that the draft step finds; picks are made on them
export const pickables = () => before ?? shown;
// what is drawn as what it was before the step that is tried, and the other way round
/** @param {Hit} hit */
export const asFound = hit => (before ? counterpart(hit, before) : hit);
/** @param {Hit} hit */
export const asDrawn = hit => (before ? counterpart(hit, shown) : hit);
/** @param {any} result */
export async function showPreview(result) {
  previewing = true;
  S.tried = result.steps;
  const cuts = result.preview.change < 0;
  const tools = await Promise.all(
    result.preview.tools.map((/** @type {{ key: string }} */ t) => loadBody(t.key)),
  ).catch(() => []);
  const found = await Promise.all(
    (result.preview.before ?? []).map(async (/** @type {Told.BodyFacts} */ facts) => {
      const body = await loadBody(facts.key);
      return { facts, body, mesh: new T.Mesh(body.geometry, stuff.paintOf(stuff.STONE)) };
    }),
  ).catch(() => []);
  if (!previewing) return;
  before = found;
  ghosts.clear();
  for (const body of tools)
    ghosts.add(
      new T.Mesh(body.geometry, cuts ? stuff.cutGhost : stuff.addedGhost),
      outline(body, cuts ? stuff.cutLine : stuff.addedLine),
    );
  await show(result.bodies);
}
// bodies of a part as it might be, without anything being made
/** @param {Told.BodyFacts[]} list */
export async function showTrial(list) {
  previewing = true;
  before = null;
  await show(list);
}
export function endPreview() {
  previewing = false;
  S.tried = null;
  before = null;
  ghosts.clear();
  showBuild();
  draw();
}

// highlights: [{item, face|edge|vertex}]
let lit = '';
/** @param {Hit[]} hot @param {Hit[]} picked */
export function highlight(hot, picked) {
  const said = [hot, picked, shown]
    .map(list => list.map((/** @type {any} */ { facts, what, index }) => `${facts.key} ${what} ${index}`))
    .join('|');
  if (said === lit) return;
  lit = said;
  marks.clear();
  for (const [list, faceMaterial, line] of [
    [picked, stuff.pickedFace, stuff.pickedLine],
    [hot, stuff.hotFace, stuff.hotLine],
  ]) {
    for (const { body, what, index } of list.map((/** @type {Hit} */ hit) => asDrawn(hit) ?? hit)) {
      if (what === 'face') marks.add(faceMesh(body, index, faceMaterial));
      if (what === 'edge') marks.add(outline(body, line, index, [body.edges[index]]));
    }
  }
  draw();
}

let due = false;
export function draw() {
  if (!due) {
    due = true;
    stir();
    requestAnimationFrame(frame);
  }
}
// Where pictures come slowly while something moves (no graphics card), they are drawn coarser until it rests: a picture
// that follows the hand is worth more than a sharp one that does not.
const SLOW = 32, // ms from one picture to the next
  QUICK = 20,
  FINEST = Math.min(devicePixelRatio, 2),
  COARSEST = 0.35;
let fineness = FINEST,
  last = 0,
  sharpening = 0;
/** @param {number} now */
function frame(now) {
  const since = now - last;
  last = now;
  // one after the other: something moves
  if (since < 400) {
    if (since > SLOW) setFineness(Math.max(COARSEST, fineness * 0.7));
    else if (since < QUICK && fineness < FINEST) setFineness(Math.min(FINEST, fineness * 1.1));
  }
  render();
  clearTimeout(sharpening);
  if (fineness < FINEST)
    sharpening = setTimeout(() => {
      setFineness(FINEST);
      render();
      last = 0;
    }, 180);
}
/** @param {number} to */
function setFineness(to) {
  if (to === fineness) return;
  fineness = to;
  renderer.setPixelRatio(fineness);
}
function render() {
  due = false;
  const { width: w, height: h, scale } = camera;
  const n = camera.normal(),
    r = camera.right(),
    u = camera.up(),
    t = camera.target;
  eye.left = -w / 2 / scale;
  eye.right = w / 2 / scale;
  eye.top = h / 2 / scale;
  eye.bottom = -h / 2 / scale;
  const reach = (Math.max(w, h) / scale) * 4 + 2000;
  eye.near = 0;
  eye.far = 2 * reach;
  eye.updateProjectionMatrix();
  eye.matrix
    .makeBasis(new T.Vector3(...r), new T.Vector3(...u), new T.Vector3(...n))
    .setPosition(t[0] + n[0] * reach, t[1] + n[1] * reach, t[2] + n[2] * reach);
  eye.matrixWorld.copy(eye.matrix);
  eye.matrixWorldInverse.copy(eye.matrix).invert();
  eye.matrixWorldAutoUpdate = false;
  key.position.set(n[0] + 0.5 * u[0] - 0.45 * r[0], n[1] + 0.5 * u[1] - 0.45 * r[1], n[2] + 0.5 * u[2] - 0.45 * r[2]);
  for (const act of beforeDrawing) act();
  others.visible = false;
  if (divide === null) {
    renderer.setScissorTest(false);
    renderer.render(scene, eye);
    return;
  }
  renderer.setScissorTest(true);
  renderer.setScissor(divide * w, 0, w - divide * w, h);
  renderer.render(scene, eye);
  others.visible = true;
  solids.visible = false;
  renderer.setScissor(0, 0, divide * w, h);
  renderer.render(scene, eye);
  solids.visible = true;
}
// what is seen now, with what is drawn over it, as a PNG
export async function portrait() {
  render();
  const sheet = document.createElement('canvas');
  sheet.width = canvas.width;
  sheet.height = canvas.height;
  const pen = there(sheet.getContext('2d'));
  pen.fillStyle = '#f6f1e6';
  pen.fillRect(0, 0, sheet.width, sheet.height);
  pen.drawImage(canvas, 0, 0);
  return new Promise(done => {
    sheet.toBlob(done, 'image/png');
  });
}
function resize() {
  const { clientWidth: w, clientHeight: h } = $('view');
  camera.width = w;
  camera.height = h;
  renderer.setPixelRatio(fineness);
  renderer.setSize(w, h, false);
  stuff.sizeLines(w, h);
  camera.changed();
}
new ResizeObserver(resize).observe($('view'));
on('camera', draw);
resize();

// points of some faces, edges and corners, to fit them into the view
/** @param {Hit[]} hits */
export const pointsOf = hits =>
  hits.flatMap(h => {
    if (h.what === 'vertex') return [h.body.vertices[h.index]];
    const edges = h.what === 'edge' ? [h.body.edges[h.index]] : h.body.edges.filter(e => e.faces.includes(h.index));
    return edges.flatMap(e => {
      const out = [];
      for (let i = e.at[0]; i < e.at[0] + e.at[1]; i += 1) out.push([...h.body.lines.subarray(3 * i, 3 * i + 3)]);
      return out;
    });
  });
export function boxPoints() {
  const boxes = [...(S.build?.bodies ?? []), ...(S.build?.references ?? [])]
    .filter(b => !hidden.has(b.id))
    .map(b => [b.box, offsetOf?.(b) ?? [0, 0, 0]]);
  return boxes.flatMap(([box, by]) => corners(box).map(p => p.map((v, k) => v + by[k])));
}
/** @param {number[][]} box */
export const corners = ([l, h]) =>
  [0, 1, 2, 3, 4, 5, 6, 7].map(i => [i & 1 ? h[0] : l[0], i & 2 ? h[1] : l[1], i & 4 ? h[2] : l[2]]);
