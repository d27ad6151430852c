// The solid: three.js meshes with crisp edges, drawn only when something changed.
import * as T from 'three-kit';
import { $, S, emit, on } from '../core/state.js';
import { build, buildAfresh } from '../core/building.js';
import { during, stir } from '../core/rest.js';
import { titleOfBody } from '../steps/names.js';
import { complain } from '../ui/messages.js';
import { camera } from './camera.js';
import { stuffOf } from '../prove/materials.js';

T.Mesh.prototype.raycast = T.acceleratedRaycast;
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
const caps = new T.Group();
const overlaps = new T.Group(); // painted over the part
const others = new T.Group(); // what is seen on the other side of the divide
scene.add(solids, caps, ghosts, marks, overlaps, others);

// how solids look: with or without their edges, see-through, edges behind faint
export const LOOKS = {
  edges: { word: 'shaded with edges', edges: true, opacity: 1 },
  plain: { word: 'shaded', edges: false, opacity: 1 },
  faint: { word: 'hidden edges faint', edges: true, opacity: 1, behind: true },
  glass: { word: 'see-through', edges: true, opacity: 0.34 },
};
let look = 'edges';

// one material a colour; bodies without one of their own are stone, painted faces lie a hair over their body
const STONE = { colour: '#d9cfbb', shine: 0, metal: 0, clear: 0 };
const paints = new Map();
const clips = []; // the section's plane, shared by all materials of solids
function paintOf({ colour, shine, metal, clear }, over = 0) {
  const key = `${colour} ${shine} ${metal} ${clear} ${over}`;
  if (!paints.has(key)) {
    const common = {
      color: colour,
      polygonOffset: true,
      polygonOffsetFactor: 1.5 - over,
      polygonOffsetUnits: 2 - over,
      clippingPlanes: clips,
    };
    // a metal shines in its own colour, anything else in that of the light
    const made = shine
      ? new T.MeshPhongMaterial({
          ...common,
          shininess: 8 + 70 * shine,
          specular: new T.Color(metal ? colour : '#ffffff').multiplyScalar(metal ? 0.5 * shine : 0.16 * shine),
        })
      : new T.MeshLambertMaterial(common);
    made.clear = clear;
    paints.set(key, dress(made));
  }
  return paints.get(key);
}
// parts that are put together and look alike are told apart by a tint of their own
const TINTS = ['#d9cfbb', '#c2cfca', '#d8c3b2', '#c8c6d6', '#ccd2b4', '#d6cdd0', '#b8c6d2', '#cdbf9f'];
function tintOf(id, stuff) {
  const source = b => b.brought ?? '',
    bodies = S.build?.bodies ?? [],
    mine = source(bodies.find(b => b.id === id) ?? {}),
    alike = bodies.some(b => b.id !== id && source(b) !== mine && stuffOf(b.id).colour === stuff.colour);
  if (!mine || !alike) return stuff;
  const kinds = [...new Set(bodies.map(source))];
  return { ...stuff, colour: TINTS[kinds.indexOf(mine) % TINTS.length] };
}
export const paintedAs = id =>
  paintOf(
    finishOf(
      id,
      (S.build?.paints ?? []).filter(p => p.body === id),
    ),
  );
const finishOf = (id, own) => {
  const stuff = stuffOf(id),
    colour = own.find(p => p.face === null)?.colour;
  return colour ? { ...stuff, colour } : tintOf(id, stuff);
};
function dress(material) {
  const opacity = Math.min(LOOKS[look].opacity, 1 - (material.clear ?? 0));
  material.opacity = opacity;
  material.transparent = opacity < 1;
  material.depthWrite = opacity === 1;
  material.needsUpdate = true;
  return material;
}
const lines = []; // made elsewhere: they too must know how large the view is
export const widthOf = line => {
  lines.push(line);
  return line;
};
export const lineMaterial = (color, width, dashed = false, clippingPlanes = null) =>
  new T.LineMaterial({ color, linewidth: width, dashed, dashSize: 6, gapSize: 4, clippingPlanes });
export const inkLine = lineMaterial(0x1f2d35, 1.4, false, clips);
export const overlay = (color, opacity) =>
  new T.MeshBasicMaterial({
    color,
    transparent: true,
    opacity,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -1,
    polygonOffsetUnits: -2,
    side: T.DoubleSide,
  });
const hotFace = overlay(0xc08a2e, 0.3);
const pickedFace = overlay(0xc08a2e, 0.55);
const hotLine = lineMaterial(0xc08a2e, 3.5);
const pickedLine = lineMaterial(0x84580b, 4.5);
const addedGhost = overlay(0xc08a2e, 0.42);
const cutGhost = overlay(0x3a3126, 0.34);
const addedLine = lineMaterial(0x84580b, 1.6);
const cutLine = lineMaterial(0x3a3126, 1.6, true);
const behindLine = lineMaterial(0x9a9284, 1, true, clips);
const capLine = lineMaterial(0x1f2d35, 2);
// what is only for reference: violet, dotted, see-through; nothing of it can be picked
const referenceLine = lineMaterial(0x63418f, 1.1, true, clips);
const referenceStuff = new T.MeshLambertMaterial({
  color: '#b9aacd',
  transparent: true,
  opacity: 0.45,
  depthWrite: false,
  side: T.DoubleSide,
  clippingPlanes: clips,
});
behindLine.depthTest = false;
cutGhost.depthTest = false;
cutLine.depthTest = false;

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
async function forget() {
  let count = cache.size - MOST_BODIES,
    bytes = [...weights.values()].reduce((sum, n) => sum + n, 0) - MOST_BYTES;
  for (const [key, coming] of [...cache].slice(0, -1)) {
    if (count <= 0 && bytes <= 0) return;
    const body = await coming.catch(() => null);
    if (body && isSeen(body)) continue;
    count -= 1;
    bytes -= weights.get(key) ?? 0;
    if (cache.get(key) === coming) cache.delete(key);
    weights.delete(key);
    for (const geometry of body ? [body.geometry, ...body.drawn.values()] : []) geometry.dispose();
  }
}
// bare arrays under a key (places of nodes), by name
export const loadArrays = key =>
  during(
    fetch(`/meshes/${key}`)
      .then(r => (r.ok ? r.arrayBuffer() : Promise.reject(new Error(`places ${key}`))))
      .then(buffer => arraysOf(buffer).arrays),
  );
const isSeen = body =>
  [...shown, ...(before ?? [])].some(item => item.body === body) ||
  [solids, ghosts, overlaps, others].some(group => group.children.some(node => node.geometry === body.geometry));
// geometries and textures on the GPU, for the benchmark and tests
export const onTheGpu = () => ({ ...renderer.info.memory });
const KINDS = { float32: Float32Array, uint32: Uint32Array, int8: Int8Array };
function arraysOf(buffer) {
  const size = new Uint32Array(buffer, 0, 1)[0],
    header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size))),
    read = ([name, [kind, count, at]]) => [name, new KINDS[kind](buffer, 4 + size + at, count)];
  return { header, arrays: Object.fromEntries(Object.entries(header.arrays).map(read)) };
}
function decode(buffer) {
  const { header, arrays } = arraysOf(buffer);
  const array = name => arrays[name];
  const geometry = new T.BufferGeometry();
  geometry.setAttribute('position', new T.BufferAttribute(array('positions'), 3));
  geometry.setAttribute('normal', new T.BufferAttribute(array('normals'), 3, true));
  geometry.setIndex(new T.BufferAttribute(array('triangles'), 1));
  geometry.boundsTree = new T.MeshBVH(geometry, { indirect: true });
  return { ...header, geometry, lines: array('lines'), drawn: new Map() };
}
function segments(body, edges) {
  const out = [];
  for (const edge of edges)
    for (let i = edge.at[0]; i < edge.at[0] + edge.at[1] - 1; i += 1)
      out.push(...body.lines.subarray(3 * i, 3 * i + 6));
  return out;
}
// a geometry of a body, made once: hovering makes nothing new
function drawnOf(body, name, make) {
  if (!body.drawn.has(name)) body.drawn.set(name, make());
  return body.drawn.get(name);
}
// an edge that a person sees: between two faces, and not where one face runs on smoothly in spans
const bounds = edge => edge.faces.length > 1 && !edge.seam;
// edges of a body as lines; `which` names them
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
function faceMesh(body, index, material) {
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

// ids of bodies that are not shown, in any part of the model; kept in this browser
const HIDDEN = `lathe.hidden.${S.model.id}`;
const hidden = new Set(JSON.parse(localStorage.getItem(HIDDEN) ?? '[]'));
export const isHidden = id => hidden.has(id);
export function setLook(name) {
  look = name;
  for (const material of paints.values()) dress(material);
  showBuild();
}
export function setHidden(ids) {
  for (const b of [...(S.build?.bodies ?? []), ...(S.build?.references ?? [])]) hidden.delete(b.id);
  for (const id of ids) hidden.add(id);
  localStorage.setItem(HIDDEN, JSON.stringify([...hidden].slice(-500)));
  showBuild();
  setCaps(lastCut);
  emit('hidden');
}
export const shown = []; // [{facts, body, mesh}]
let showing = 0;
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
    const finish = finishOf(facts.id, own),
      mesh = new T.Mesh(body.geometry, paintOf(finish));
    mesh.frustumCulled = false;
    const nodes = own
      .filter(p => p.face !== null && body.faces[p.face])
      .map(p => faceMesh(body, p.face, paintOf({ ...finish, colour: p.colour }, 1)));
    body.edgeLines ??= outline(body, inkLine, 'proper', body.edges.filter(bounds));
    if (!hidden.has(facts.id)) {
      nodes.push(mesh, body.edgeLines);
      body.edgeLines.visible = LOOKS[look].edges;
      if (LOOKS[look].behind) {
        body.behindLines ??= outline(body, behindLine, 'proper', body.edges.filter(bounds));
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
    body.edgeLines ??= outline(body, referenceLine);
    solids.add(new T.Mesh(body.geometry, referenceStuff), body.edgeLines);
  }
  if (!previewing) doubt(loaded);
  highlight([], []);
  setApart();
  draw();
  emit('shown');
}
// bodies drawn away from where they are: offset(facts) → [x, y, z]; nothing is picked meanwhile
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
let instead = null;
export function setInstead(group) {
  if (instead && instead !== group) scene.remove(instead);
  if (group && group !== instead) scene.add(group);
  instead = group;
  solids.visible = !group;
  document.body.dataset.live = group ? 'yes' : '';
  draw();
}
let divide = null; // a share of the width: left of it ``others`` are seen; null: one state
export function setDivide(share) {
  divide = share;
  draw();
}
export const over = overlaps,
  beside = others,
  proper = body => body.edges.filter(bounds);
// the numbers and the picture come from different ways through the kernel: where they differ something is wrong, and
// is said
function doubtful(off) {
  const [{ body, facts }] = off,
    percent = (100 * Math.abs(body.volume / facts.volume - 1)).toPrecision(2),
    which = off.map(one => titleOfBody(one.facts.id)).join(', ');
  return `The picture and the numbers of ${which} differ by ${percent} %: do not trust this build.`;
}
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
    item.mesh.material = paintOf(
      finishOf(
        item.facts.id,
        (S.build?.paints ?? []).filter(p => p.body === item.facts.id),
      ),
    );
  draw();
});
on('model', () => emit('look'));

let previewing = false;
let before = null; // while previewing: the bodies that the draft step finds; picks are made on them
const pickable = () => before ?? shown;
export const pickables = () => pickable();
export async function showPreview(result) {
  previewing = true;
  const cuts = result.preview.change < 0;
  const tools = await Promise.all(result.preview.tools.map(t => loadBody(t.key))).catch(() => []);
  const found = await Promise.all(
    (result.preview.before ?? []).map(async facts => {
      const body = await loadBody(facts.key);
      return { facts, body, mesh: new T.Mesh(body.geometry, paintOf(STONE)) };
    }),
  ).catch(() => []);
  if (!previewing) return;
  before = found;
  ghosts.clear();
  for (const body of tools)
    ghosts.add(new T.Mesh(body.geometry, cuts ? cutGhost : addedGhost), outline(body, cuts ? cutLine : addedLine));
  await show(result.bodies);
}
// bodies of a part as it might be, without anything being made
export async function showTrial(list) {
  previewing = true;
  before = null;
  await show(list);
}
export function endPreview() {
  previewing = false;
  before = null;
  ghosts.clear();
  showBuild();
  draw();
}

// highlights: [{item, face|edge|vertex}]
let lit = '';
export function highlight(hot, picked) {
  const said = [hot, picked]
    .map(list => list.map(({ facts, what, index }) => `${facts.key} ${what} ${index}`))
    .join('|');
  if (said === lit) return;
  lit = said;
  marks.clear();
  for (const [list, faceMaterial, line] of [
    [picked, pickedFace, pickedLine],
    [hot, hotFace, hotLine],
  ]) {
    for (const { body, what, index } of list) {
      if (what === 'face') marks.add(faceMesh(body, index, faceMaterial));
      if (what === 'edge') marks.add(outline(body, line, index, [body.edges[index]]));
    }
  }
  draw();
}

// the section: everything in front of a plane is left out, the cut faces are drawn hatched
export function setClip(frame, flipped = false) {
  clips.length = 0;
  if (frame) {
    const k = flipped ? 1 : -1,
      n = frame.normal.map(v => v * k);
    clips.push(new T.Plane(new T.Vector3(...n), -n.reduce((sum, v, i) => sum + v * frame.origin[i], 0)));
  }
  for (const material of [
    ...paints.values(),
    inkLine,
    behindLine,
    referenceLine,
    referenceStuff,
    hotFace,
    pickedFace,
    hotLine,
    pickedLine,
  ]) {
    material.clippingPlanes = clips.length ? clips : null;
    material.needsUpdate = true;
  }
  draw();
}
const away = p => clips.length > 0 && clips[0].distanceToPoint(new T.Vector3(...p)) < -1e-4;
// Hatching drawn by the pixel, so it is crisp at every zoom; each body its own way (ISO 128-50): direction and
// distance.
const WAYS = [
  [45, 9],
  [135, 9],
  [45, 6],
  [135, 6],
  [60, 12],
  [120, 12],
  [30, 7.5],
  [150, 7.5],
];
const hatching = {
  vertexShader: `varying vec3 place;
    void main() { place = position; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }`,
  fragmentShader: `varying vec3 place; uniform vec3 along; uniform float apart; uniform vec3 ground; uniform vec3 ink;
    void main() { float t = dot(place, along) / apart; float d = abs(fract(t) - 0.5) / max(fwidth(t), 1e-6);
      gl_FragColor = vec4(mix(ink, ground, smoothstep(0.35, 1.15, d)), 1.0);
      #include <colorspace_fragment>
    }`,
};
function hatchMaterial(frame, number, hot) {
  const [degrees, pixels] = WAYS[number % WAYS.length],
    a = (degrees * Math.PI) / 180;
  const along = new T.Vector3(...frame.x)
    .multiplyScalar(Math.cos(a))
    .addScaledVector(new T.Vector3(...frame.y), Math.sin(a));
  const material = new T.ShaderMaterial({
    ...hatching,
    side: T.DoubleSide,
    uniforms: {
      along: { value: along },
      apart: { value: 1 },
      ground: { value: new T.Color(hot ? '#E7C98A' : '#f3e9d2') },
      ink: { value: new T.Color('#84580B') },
    },
  });
  material.pixels = pixels;
  return material;
}
let lastCut = null,
  chosenCut = null;
// the cut faces of the bodies that show; the order of bodies is that of the part, so a body keeps its hatching
export function setCaps(cut) {
  for (const { geometry, material } of caps.children) {
    geometry.dispose();
    if (material !== capLine) material.dispose();
  }
  caps.clear();
  lastCut = cut;
  const order = [...(S.build?.bodies ?? []), ...(S.build?.references ?? [])].map(b => b.id);
  for (const b of cut?.bodies ?? []) {
    if (hidden.has(b.id)) continue;
    const geometry = new T.BufferGeometry();
    geometry.setAttribute('position', new T.BufferAttribute(new Float32Array(b.positions), 3));
    geometry.setIndex(b.triangles);
    const mesh = new T.Mesh(geometry, hatchMaterial(cut.frame, Math.max(0, order.indexOf(b.id)), chosenCut === b.id));
    mesh.frustumCulled = false;
    mesh.userData.cut = b;
    caps.add(mesh);
    const points = b.lines.flatMap(line => {
      const out = [];
      for (let i = 0; i + 5 < line.length; i += 3) out.push(...line.slice(i, i + 6));
      return out;
    });
    if (points.length) {
      const lines = new T.LineSegments2(new T.LineSegmentsGeometry().setPositions(points), capLine);
      lines.frustumCulled = false;
      caps.add(lines);
    }
  }
  draw();
}
export function chooseCut(id) {
  if (chosenCut !== id) {
    chosenCut = id;
    setCaps(lastCut);
  }
}
const capMeshes = () => caps.children.filter(m => m.userData.cut);
// the body whose cut lies under a pixel with nothing before it, as {body: id, area, outline}
export function cutUnder(x, y) {
  const hit = firstCap(x, y);
  return hit && !solidsUnder(false).some(h => h.hit.distance < hit.distance - 1e-4) ? hit.object.userData.cut : null;
}
function firstCap(x, y) {
  const { origin, direction } = camera.ray(x, y);
  caster.set(new T.Vector3(...origin), new T.Vector3(...direction));
  return caster.intersectObjects(capMeshes(), false)[0];
}
function solidsUnder(deep) {
  for (const material of paints.values()) material.side = deep ? T.DoubleSide : T.FrontSide;
  const hits = pickable()
    .flatMap(item =>
      caster
        .intersectObject(item.mesh, false)
        .filter(hit => !away(hit.point.toArray()))
        .map(hit => ({ item, hit })),
    )
    .sort((a, b) => a.hit.distance - b.hit.distance);
  for (const material of paints.values()) material.side = T.FrontSide;
  return hits;
}

const caster = new T.Raycaster();
caster.firstHitOnly = false;
// What lies under a pixel, nearest first: [{body, facts, what, index, point}]; deep: also faces that look away
export function under(x, y, takes = ['face', 'edge', 'vertex'], deep = false) {
  if (offsetOf) return [];
  // a cut face hides what lies behind it, as any face does
  const cap = firstCap(x, y),
    limit = cap && !deep ? cap.distance + 1e-3 : Infinity;
  const hits = solidsUnder(deep).filter(({ hit }) => hit.distance <= limit);
  const nearest = Math.min(hits[0]?.hit.distance ?? Infinity, limit);
  const found = [];
  if (takes.includes('vertex')) found.push(...nearVertices(x, y, nearest));
  if (takes.includes('edge')) found.push(...nearEdges(x, y, nearest));
  if (takes.includes('face')) {
    for (const { item, hit } of hits) {
      const index = item.body.faces.findIndex(f => hit.faceIndex >= f.at[0] && hit.faceIndex < f.at[0] + f.at[1]);
      if (index >= 0) found.push({ ...item, what: 'face', index, point: hit.point.toArray() });
    }
  }
  return found;
}
const depthOf = p => {
  const n = camera.normal(),
    t = camera.target;
  return 1e5 - ((p[0] - t[0]) * n[0] + (p[1] - t[1]) * n[1] + (p[2] - t[2]) * n[2]);
};
function nearVertices(x, y, nearest) {
  const found = [];
  for (const item of pickable())
    item.body.vertices.forEach((p, index) => {
      const [px, py] = camera.project(p);
      const d = Math.hypot(px - x, py - y);
      if (d < 7 && !away(p) && depthOf(p) < nearest + 3 / camera.scale + 1e-3)
        found.push({ ...item, what: 'vertex', index, d, point: p });
    });
  return found.sort((a, b) => a.d - b.d);
}
function nearEdges(x, y, nearest) {
  const found = [];
  for (const item of pickable())
    item.body.edges.forEach((edge, index) => {
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
  const rank = e => Math.round(e.d / 2.5);
  return found.sort((a, b) => rank(a) - rank(b) || depthOf(a.point) - depthOf(b.point));
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
  for (const { material } of capMeshes()) material.uniforms.apart.value = material.pixels / scale;
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
  const pen = sheet.getContext('2d');
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
  for (const m of [inkLine, referenceLine, hotLine, pickedLine, addedLine, cutLine, behindLine, capLine, ...lines])
    m.resolution.set(w, h);
  camera.changed();
}
new ResizeObserver(resize).observe($('view'));
on('camera', draw);
resize();

// points of some faces, edges and corners, to fit them into the view
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
export const corners = ([l, h]) =>
  [0, 1, 2, 3, 4, 5, 6, 7].map(i => [i & 1 ? h[0] : l[0], i & 2 ? h[1] : l[1], i & 4 ? h[2] : l[2]]);
