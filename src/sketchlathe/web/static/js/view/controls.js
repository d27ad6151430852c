// Looking around: wheel, right and middle drag, touch, keys; the view dial and the scale bar.
import { $, sought, svg, targetOf } from '../core/dom.js';
import { S, emit, on, openSketch, part, there } from '../core/state.js';
import { recall, remember } from '../core/kept.js';
import { withUnit } from '../core/units.js';
import { niceStep } from './places.js';
import { camera, dot } from './camera.js';
import { faintPoints } from '../sketch/layer.js';
import { placed } from '../sketch/tool.js';
import { boxPoints, corners } from './scene.js';
import { under } from './under.js';
import { onKey } from '../ui/keys.js';
import { say } from '../ui/messages.js';

const view = $('view');
const PI = Math.PI;
// what one turns the view with: what each button does when it is dragged, and how that is said
/** @type {Record<string, { word: string, says: string, does: Record<number, 'turn' | 'shift'> }>} */
export const WAYS = {
  right: { word: 'right button', says: 'right button turns, the middle one shifts', does: { 2: 'turn', 1: 'shift' } },
  middle: { word: 'middle button', says: 'middle button turns, the right one shifts', does: { 1: 'turn', 2: 'shift' } },
  left: {
    word: 'left, beside the part',
    says: 'left button turns beside the part',
    does: { 0: 'turn', 2: 'turn', 1: 'shift' },
  },
  trackpad: { word: 'two fingers', says: 'two fingers turn, with Shift they shift', does: { 2: 'turn', 1: 'shift' } },
};
const usual = recall('turning', '');
export const turning = { now: usual in WAYS ? usual : 'right', chosen: usual in WAYS };
/** @param {string} way */
export function turnWith(way) {
  turning.now = way;
  turning.chosen = true;
  remember('turning', way);
}

const SENTENCE = 170; // pixels that the bar takes with a sentence of two rows and its list
let expected = 0;
// what the bar, the tray, the hint and the dial leave free
/** @param {number} margin */
camera.room = margin => {
  const box = view.getBoundingClientRect(),
    /** @type {(id: string) => DOMRect[]} */
    seen = id => {
      const r = sought(id)?.getBoundingClientRect();
      return r?.width && r.height ? [r] : [];
    };
  const top = Math.max(expected, ...seen('bar').map(r => r.bottom - box.top));
  const below = ['tray-solid', 'tray-sketch', 'options', 'hint'].flatMap(seen).map(r => r.top - box.top);
  const bottom = Math.min(camera.height, ...below);
  const beside = camera.width > 620 ? Math.max(70, 1.95 * margin) : 20;
  return [beside, top + margin, camera.width - beside, Math.max(bottom - margin, top + margin + 80)];
};
// all of it; asked again from there, what is selected
let fitted = '';
const standing = () =>
  [camera.target, camera.az, camera.el, camera.scale]
    .flat()
    .map(v => v.toFixed(4))
    .join();
export function fit() {
  const selected = S.mode === 'solid' ? (S.selectedPoints?.() ?? []) : [];
  const again = fitted === standing() && selected.length > 0;
  const points = S.sketch && S.frame ? sketchPoints(true) : again ? selected : [...boxPoints(), ...faintPoints()];
  const to = points.length ? camera.fitting(points, {}, edge()) : { target: [0, 0, 0], scale: 6 };
  camera.go(to);
  fitted = again
    ? ''
    : [to.target, 'az' in to ? to.az : camera.az, 'el' in to ? to.el : camera.el, to.scale]
        .flat()
        .map(v => v.toFixed(4))
        .join();
}
// pixels left round what is shown: for texts beside a drawing, and room to draw beyond a solid that an empty sketch
// lies on
const edge = () => (!S.sketch ? 24 : S.sketch.curves.length ? 46 : Math.max(46, camera.height * 0.14));
// corners of what is drawn; with texts: where a person laid a dimension's text counts too
function sketchPoints(texts = false) {
  const size = Math.max(openSketch().curves.length ? openSketch().size : 80, 1e-3);
  const xs = openSketch().curves.flatMap(c => c.points);
  const [lo, hi] = reach(openSketch().curves, [0, 0]);
  if (texts)
    for (const { laid, label } of openSketch().dimensions)
      if (laid)
        for (const i of [0, 1]) {
          lo[i] = Math.min(lo[i], label[i]);
          hi[i] = Math.max(hi[i], label[i]);
        }
  if (!xs.length && boxPoints().length) return boxPoints(); // nothing drawn yet: what it is drawn on
  if (!xs.length) {
    lo[0] = lo[1] = -size * 0.35;
    hi[0] = hi[1] = size * 0.65;
  }
  return inSpace(lo, hi);
}
// the box of some curves, and of a place besides
/** @param {Curve[]} curves @param {number[]} [at] @returns {[number[], number[]]} */
function reach(curves, at) {
  const lo = at ? [...at] : [Infinity, Infinity],
    hi = at ? [...at] : [-Infinity, -Infinity];
  for (const c of curves) {
    // a circle reaches beyond its centre; an arc's ends tell how far it goes well enough
    const r = c.tags.includes('round') && c.points.length === 1 ? Math.max(0, ...Object.values(c.sizes)) : 0;
    for (const { at: p } of c.points)
      for (const i of [0, 1]) {
        lo[i] = Math.min(lo[i], p[i] - r);
        hi[i] = Math.max(hi[i], p[i] + r);
      }
  }
  return [lo, hi];
}
/** @param {number[]} lo @param {number[]} hi */
const inSpace = (lo, hi) =>
  [
    [lo[0], lo[1]],
    [hi[0], lo[1]],
    [hi[0], hi[1]],
    [lo[0], hi[1]],
  ].map(([u, v]) => [0, 1, 2].map(i => S.frame.origin[i] + u * S.frame.x[i] + v * S.frame.y[i]));
export function straightOn(frame = S.frame) {
  if (!frame) return;
  const angles = camera.facing(frame);
  const points = S.sketch ? sketchPoints(true) : [frame.origin];
  camera.go(S.sketch ? camera.fitting(points, angles, edge()) : angles);
}
// what an edit draws or puts outside the view brings the view along, and so does all of it when it becomes small in
// there; what was outside before does not: whoever draws close by stays there
on('redrawn', (/** @type {Told.SketchShown} */ before) => {
  if (!S.frame || !openSketch().curves.length) return;
  // while a chain is drawn on, nothing moves under the pointer because of what lies beside the bar
  const drawingOn = placed() > 0;
  /** @param {Curve} c */
  const strayed = c => outside(inSpace(...reach([c])), drawingOn);
  /** @param {Curve[]} curves */
  const across = curves => {
    const [lo, hi] = reach(curves);
    return Math.hypot(hi[0] - lo[0], hi[1] - lo[1]) * camera.scale;
  };
  const were = new Map(before.curves.map(c => [c.id, c])),
    out = openSketch().curves.some(c => strayed(c) && !(were.has(c.id) && strayed(there(were.get(c.id))))),
    sized = were.size === openSketch().curves.length,
    small = sized && across(openSketch().curves) < Math.min(100, 0.3 * across(before.curves));
  if (small) fit();
  else if (out) bringIn(sketchPoints());
});
// no nearer than it is looked at
/** @param {Vec[]} points */
const bringIn = points => camera.go(camera.fitting(points, {}, edge(), camera.scale));
// of what the bar and the tray leave free, or of the whole view
/** @param {Vec[]} points @param {boolean} [whole] */
function outside(points, whole = false) {
  const [, top, , bottom] = whole ? [0, 4, 0, camera.height - 4] : camera.room(4);
  return points
    .map(p => camera.project(p))
    .some(([x, y]) => x < 4 || x > camera.width - 4 || y < top - 4 || y > bottom + 4);
}
// and so does the first shape of a part while it is tried (until then there was only a drawing to look at), a part that
// is brought beside others, and a shape that is tried where nobody looks
on('tried', (/** @type {Told.BuiltTold} */ { bodies, preview }) => {
  const there = S.build?.bodies ?? [],
    come = bodies.filter(b => !there.some(o => o.id === b.id)),
    points = come.flatMap(b => corners(b.box)),
    away = (preview?.tools ?? []).filter(({ box: [l, h] }) => outside([l.map((v, i) => (v + h[i]) / 2)]));
  if ((!there.length || part().sort === 'together') && points.length && outside(points))
    camera.go(camera.fitting([...points, ...boxPoints()], {}, edge()));
  else if (away.length) bringIn([...away.flatMap(b => corners(b.box)), ...boxPoints()]);
});
// out of a sketch that is seen straight on: as it was looked at before, so that what is made of it has depth
/** @param {{ az: number, el: number } | null} angles */
export function lookBack(angles) {
  if (!S.sketch || !S.frame || !angles) return;
  const on = camera.facing(S.frame);
  if (Math.abs(on.el - camera.el) > 1e-3 || Math.abs(Math.sin((on.az - camera.az) / 2)) > 1e-3) return;
  // what comes next is a step's sentence: it shall not lie over the profile that it is about
  expected = Math.min(SENTENCE, camera.height / 4);
  camera.go(camera.fitting([...sketchPoints(), ...boxPoints()], angles));
  expected = 0;
}

view.addEventListener(
  'wheel',
  event => {
    event.preventDefault();
    if (turning.now === 'trackpad' && !event.ctrlKey) {
      if (event.shiftKey || S.mode === 'sketch') camera.pan(-event.deltaX, -event.deltaY);
      else camera.turn(event.deltaX * 0.006, -event.deltaY * 0.006);
      return;
    }
    const box = view.getBoundingClientRect();
    camera.zoom(
      Math.exp(-event.deltaY * (event.ctrlKey ? 0.01 : 0.0015)),
      event.clientX - box.left,
      event.clientY - box.top,
    );
  },
  { passive: false },
);
view.addEventListener('contextmenu', event => event.preventDefault());
/** @type {any} */
let moving = null;
view.addEventListener('pointerdown', event => {
  const does = WAYS[turning.now].does[event.button];
  if (!does || (event.button === 0 && !beside(event))) return;
  if (event.button) event.preventDefault();
  moving = { x: event.clientX, y: event.clientY, pan: does === 'shift' || event.shiftKey };
  if (event.button) view.setPointerCapture(event.pointerId);
});
// on nothing at all, where solids are looked at
/** @param {PointerEvent} event */
function beside(event) {
  const box = view.getBoundingClientRect(),
    on_ = targetOf(event);
  if (S.mode !== 'solid' || !(on_ === view || on_.matches('canvas, #layer'))) return false;
  return !under(event.clientX - box.left, event.clientY - box.top, ['face', 'edge', 'vertex']).length;
}
view.addEventListener('pointermove', event => {
  if (!moving) return;
  const dx = event.clientX - moving.x,
    dy = event.clientY - moving.y;
  moving.x = event.clientX;
  moving.y = event.clientY;
  moving.far = true;
  if (moving.pan) camera.pan(dx, dy);
  else camera.turn(-dx * 0.008, dy * 0.008);
});
// whoever turns it for the first time hears that there are other ways
function release() {
  const was = moving;
  moving = null;
  if (!was?.far || turning.chosen) return;
  turnWith(turning.now);
  say(`The ${WAYS[turning.now].says}.`, [['turn it otherwise', () => emit('turning-asked')]]);
}
view.addEventListener('pointerup', release);
view.addEventListener('pointercancel', release);

const touches = new Map();
view.addEventListener(
  'touchstart',
  event => {
    for (const t of event.changedTouches) touches.set(t.identifier, [t.clientX, t.clientY]);
  },
  { passive: true },
);
view.addEventListener(
  'touchmove',
  event => {
    const old = [...event.touches].map(t => touches.get(t.identifier) ?? [t.clientX, t.clientY]);
    const now = [...event.touches].map(t => [t.clientX, t.clientY]);
    if (now.length === 1 && S.mode === 'solid')
      camera.turn(-(now[0][0] - old[0][0]) * 0.008, (now[0][1] - old[0][1]) * 0.008);
    if (now.length === 2) {
      /** @param {number[][]} p */
      const mid = p => [(p[0][0] + p[1][0]) / 2, (p[0][1] + p[1][1]) / 2],
        /** @type {(p: number[][]) => number} */
        span = p => Math.hypot(p[0][0] - p[1][0], p[0][1] - p[1][1]);
      const box = view.getBoundingClientRect();
      camera.pan(mid(now)[0] - mid(old)[0], mid(now)[1] - mid(old)[1]);
      camera.zoom(span(now) / Math.max(span(old), 1), mid(now)[0] - box.left, mid(now)[1] - box.top);
    }
    for (const t of event.changedTouches) touches.set(t.identifier, [t.clientX, t.clientY]);
  },
  { passive: true },
);
view.addEventListener(
  'touchend',
  event => {
    for (const t of event.changedTouches) touches.delete(t.identifier);
  },
  { passive: true },
);

onKey(event => {
  if (event.target !== view && event.target !== document.body) return false;
  const turn = PI / 12;
  const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
  if (arrows && event.shiftKey) {
    camera.pan(-arrows[0] * 40, arrows[1] * 40);
    return true;
  }
  if (arrows) {
    camera.go({
      az: camera.az + arrows[0] * turn,
      el: Math.max(-PI / 2, Math.min(PI / 2, camera.el + arrows[1] * turn)),
    });
    return true;
  }
  if (event.key === '+' || event.key === '=') {
    camera.zoom(1.25);
    return true;
  }
  if (event.key === '-') {
    camera.zoom(0.8);
    return true;
  }
  if (event.key === '0') {
    fit();
    return true;
  }
  return false;
});

/** @type {Record<string, number[]>} */
const DIRECTIONS = {
  top: [-PI / 2, PI / 2],
  bottom: [-PI / 2, -PI / 2],
  front: [-PI / 2, 0],
  back: [PI / 2, 0],
  right: [0, 0],
  left: [PI, 0],
};
const RIM = { top: [0, -41], bottom: [0, 46], left: [-46, 3], right: [46, 3], front: [-30, 38], back: [31, -30] };
const dial = $('dial');
const axes = svg('g');
dial.append(
  svg('circle', { r: 34, fill: '#FBF8F1', stroke: '#D8CDB8' }),
  svg('ellipse', { rx: 34, ry: 12, fill: 'none', stroke: '#C9BB9F', 'stroke-dasharray': '2 3' }),
  axes,
);
for (const [word, [x, y]] of Object.entries(RIM)) {
  const go = () => camera.go({ az: DIRECTIONS[word][0], el: DIRECTIONS[word][1] });
  const w = word.length * 5.4 + 6;
  const button = svg(
    'g',
    { role: 'button', tabindex: 0, 'aria-label': `Look from ${word}` },
    svg('rect', { x: x - w / 2, y: y - 11, width: w, height: 15, rx: 4, fill: 'transparent' }),
    svg('text', { x, y, 'text-anchor': 'middle' }, word),
  );
  button.addEventListener('click', go);
  button.addEventListener('keydown', event => {
    if (event.key === 'Enter' || event.key === ' ') {
      event.preventDefault();
      event.stopPropagation();
      go();
    }
  });
  dial.append(button);
}
/** @type {any} */
let dialing = null;
dial.addEventListener('pointerdown', event => {
  event.stopPropagation();
  if (!targetOf(event).closest('[role=button]')) {
    dialing = [event.clientX, event.clientY];
    dial.setPointerCapture(event.pointerId);
  }
});
dial.addEventListener('pointermove', event => {
  if (dialing) {
    camera.turn(-(event.clientX - dialing[0]) * 0.02, (event.clientY - dialing[1]) * 0.02);
    dialing = [event.clientX, event.clientY];
  }
});
dial.addEventListener('pointerup', () => {
  dialing = null;
});

function drawDial() {
  const r = camera.right(),
    u = camera.up(),
    n = camera.normal();
  axes.replaceChildren(
    ...[
      { v: [1, 0, 0], word: 'x', color: '#B23A2E' },
      { v: [0, 1, 0], word: 'y', color: '#2F6B34' },
      { v: [0, 0, 1], word: 'z', color: '#2F5FA8' },
    ]
      .map(({ v, word, color }) => {
        const px = 24 * dot(v, r),
          py = -24 * dot(v, u);
        return {
          depth: dot(v, n),
          node: svg(
            'g',
            {},
            svg('path', { d: `M0 0L${px.toFixed(1)} ${py.toFixed(1)}`, stroke: color, 'stroke-width': 2 }),
            svg('text', { x: (px * 1.25).toFixed(1), y: (py * 1.25 + 3).toFixed(1), 'text-anchor': 'middle' }, word),
          ),
        };
      })
      .sort((a, b) => a.depth - b.depth)
      .map(a => a.node),
  );
  const value = niceStep(70);
  $('scalebar').querySelector('i').style.width = `${value * camera.scale}px`;
  $('scalebar').querySelector('span').textContent = withUnit(value, 3);
}
on('camera', drawDial);
on('model', drawDial);
for (const id of ['fit', 'fit-sketch']) $(id).addEventListener('click', fit);
$('straight').addEventListener('click', () => straightOn());
drawDial();
