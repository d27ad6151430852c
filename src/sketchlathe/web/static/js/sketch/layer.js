// Drawing sketches as SVG over the solid, kept in register by one matrix. What is to be seen is described anew each
// time; nodes that were there before stay, and only what is different is written to them.
import { Fragment, h, render } from 'preact';
import { ask } from '../core/api.js';
import { $, svg } from '../core/dom.js';
import { during } from '../core/rest.js';
import { S, emit, frameOf, on, part, stepKind } from '../core/state.js';
import { camera } from '../view/camera.js';
import { exact, heavyEvery } from '../core/units.js';
import { matrixText, niceStep, toScreen } from '../view/places.js';
import { drawDimension } from './figures.js';
import { layLabels } from './labels.js';

const [drawn, further, ghost, strokes] = ['g', 'g', 'g', 'g'].map(name => svg(name));
$('layer-body').append(drawn, further, ghost, strokes);
/** @type {Page.Draft} */
export const draft = { nodes: [], dimension: null }; // what a tool adds: SVG nodes in pixels, a dimension being placed
/** @type {(() => Node[])[]} */
export const extra = []; // functions that return nodes in pixels (sheets, handle)
/** @type {{ frame: Frame, view: Page.OpenSketch }[]} */
let faint = []; // [{frame, view}] of sketches shown in solid mode
// regions offered: [{id, frame, sketch, region}]
/** @type {Page.Candidates} */
export const candidates = { list: [], lines: [], points: [], chosen: new Set(), pick: null };
// classes that hold
/** @param {string} always @param {Record<string, any>} sometimes */
const classes = (always, sometimes) => [always, ...Object.keys(sometimes).filter(name => sometimes[name])].join(' ');

const hatches = ['hatch', 'hatch-strong', 'hatch-hot', 'hatch-chosen'].map(id => $(id));
export function drawLayer() {
  // the hatching keeps its distance on the screen, whatever the zoom
  for (const pattern of hatches)
    pattern.setAttribute('patternTransform', `rotate(45) scale(${(1 / camera.scale).toPrecision(5)})`);
  render(all(S.sketch && S.frame ? theOpen(S.sketch) : shownSketches()), drawn);
  further.replaceChildren(...extra.flatMap(make => make()));
  drawDraft();
  light(S.hot);
}
/** @param {any[]} nodes */
const all = nodes => h(Fragment, null, ...nodes);
/** @param {string} key @param {string | null} transform @param {any[]} nodes */
const group = (key, transform, nodes) => h('g', { key, transform }, ...nodes);
// what a tool shows of what it would draw changes at every move of the pointer; the rest of the sketch stays as it is
export function drawDraft() {
  const dimension = draft.dimension && S.sketch && S.frame;
  render(dimension ? drawDimension(draft.dimension, p => toScreen(S.frame, p), 'dim draft') : null, ghost);
  strokes.replaceChildren(...draft.nodes);
}
// the thing under the pointer, marked where it is drawn
const things = new Map();
const watchers = new Map();
/** @param {string} ref */
function watched(ref) {
  if (!watchers.has(ref))
    watchers.set(ref, (/** @type {any} */ node) => (node ? things.set(ref, node) : things.delete(ref)));
  return watchers.get(ref);
}
/** @type {any} */
let lit = null;
/** @param {string | null | undefined} ref */
export function light(ref) {
  lit?.classList.remove('hot');
  lit = things.get(ref) ?? null;
  lit?.classList.add('hot');
}
// the farthest place of a frame's x axis, up to one, that is not out of the view or under the bar
/** @param {any} frame @param {number} far @returns {number[]} */
function inSight(frame, far) {
  const [left, top, right, bottom] = camera.room(14),
    places = Array.from({ length: 41 }, (_, i) => toScreen(frame, [far * (1 - i / 20), 0]));
  return places.find(([x, y]) => x > left && x < right && y > top && y < bottom) ?? places[0];
}
// what the bar's list calls so, marked in the view while it is pointed at there
/** @param {string | null} id */
export function lightListed(id) {
  for (const node of drawn.querySelectorAll('[data-listed]')) node.classList.toggle('hot', node.dataset.listed === id);
}
const others = () =>
  faint.map(({ frame, view }) =>
    h(
      'g',
      { key: `faint ${view.id}`, class: 'faint', transform: matrixText(frame) },
      ...view.curves.map(c => h('path', { class: classes('curve', { construction: c.construction }), d: c.path })),
    ),
  );
// what is smaller lies on top: a line through a region is picked too, and so is a name that stands on one
function shownSketches() {
  return [
    ...others(),
    ...candidates.list.map(c =>
      group(`region ${c.id}`, matrixText(c.frame), [
        h('path', {
          class: classes('region pickable', { chosen: candidates.chosen.has(c.id) }),
          d: c.region.path,
          'fill-rule': 'evenodd',
          'data-region': c.id,
          'data-listed': c.id,
          onClick: () => candidates.pick?.(c),
        }),
      ]),
    ),
    ...candidates.lines.map((l, i) =>
      group(`line ${i}`, matrixText(l.frame), [
        h('path', {
          class: classes('curve axisline', { picked: l.on, centre: l.name }),
          d: l.path,
          'data-listed': l.of,
        }),
        h('path', { class: 'hit pickable', d: l.hit ?? l.path, onClick: l.pick }),
      ]),
    ),
    ...candidates.points.map((q, i) => {
      const [cx, cy] = toScreen(q.frame, q.at);
      return group(`point ${i}`, null, [
        h('circle', { class: `pt ${q.on ? 'picked' : 'free'}`, cx, cy, r: 5, 'data-listed': q.of }),
        h('circle', { class: 'hitpt', cx, cy, r: 9, onClick: q.pick }, q.says ? h('title', {}, q.says) : null),
      ]);
    }),
    ...candidates.lines.flatMap((l, i) => {
      if (!l.name) return [];
      const [x, y] = inSight(l.frame, l.name.at);
      return [h('text', { key: `name ${i}`, class: 'axisname', x: x + 5, y: y - 5, onClick: l.pick }, l.name.text)];
    }),
  ];
}
// where the sketches that show in solid mode reach, as points in space
export const faintPoints = () =>
  faint.flatMap(({ frame: f, view }) =>
    view.curves.flatMap(c => {
      const r = c.tags.includes('round') && c.points.length === 1 ? Math.max(0, ...Object.values(c.sizes)) : 0;
      return c.points.flatMap(({ at: [u, v] }) =>
        [
          [u - r, v - r],
          [u + r, v + r],
        ].map(([x, y]) => [0, 1, 2].map(i => f.origin[i] + x * f.x[i] + y * f.y[i])),
      );
    }),
  );
/** @param {{ frame: Frame, view: Page.OpenSketch }[]} list */
function setFaint(list) {
  faint = list.filter(({ view }) => view.id !== S.sketch?.id);
  drawLayer();
}

// the picture to be traced
/** @param {Page.OpenSketch} s @param {string} matrix */
function pictureUnder(s, matrix) {
  const u = s.underlay;
  if (!u || S.underlayHidden) return null;
  const turn = (u.turn * 180) / Math.PI,
    // its rows run down, the sketch's y up
    stand = `translate(${u.x} ${u.y}) rotate(${turn}) scale(${u.scale} ${-u.scale})`;
  return h('image', {
    key: `picture ${u.key}`,
    class: 'underlay',
    href: `/models/${S.model.id}/sketches/${s.id}/picture/${u.key}`,
    preserveAspectRatio: 'none',
    x: 0,
    y: 0,
    width: u.wide,
    height: u.high,
    opacity: u.strength,
    transform: `${matrix} ${stand} translate(${-u.wide / 2} ${-u.high / 2})`,
  });
}
/** @param {Page.OpenSketch} s */
function theOpen(s) {
  const matrix = matrixText(S.frame),
    /** @type {(p: number[]) => [number, number]} */
    at = p => toScreen(S.frame, p),
    [free, picked, fights] = [s.free, S.selection, S.fights].map(ids => new Set(ids ?? []));
  const onFights = new Set(
    [...s.marks, ...s.dimensions].filter(m => fights.has(m.id)).flatMap(m => m.on.map(r => r.split('.')[0])),
  );
  return [
    pictureUnder(s, matrix),
    group('grid', null, grid(S.frame)),
    ...others(),
    group('axes', null, axes(at, picked)),
    group(
      'regions',
      matrix,
      (s.regions ?? []).map(r => h('path', { class: 'region', d: r.path, 'fill-rule': 'evenodd' })),
    ),
    group(
      'curves',
      matrix,
      s.curves.flatMap(c =>
        curve(c, {
          free: free.has(c.id),
          construction: c.construction,
          picked: picked.has(c.id),
          fights: onFights.has(c.id),
          taken: c.taken,
          lettering: c.tags.includes('text'),
        }),
      ),
    ),
    group(
      'open',
      null,
      (s.open_ends ?? []).map(p => {
        const [x, y] = at(p);
        return h('path', { class: 'openend', d: `M${x - 9} ${y}a9 9 0 0 1 18 0` });
      }),
    ),
    group(
      'offers',
      matrix,
      (s.offers ?? []).flatMap((o, i) => [
        h('path', { class: classes('curve taken', { hot: s.offersHot === i }), d: o.path }),
        h('path', { class: 'hit', d: o.path, 'data-ref': `offer:${i}` }),
      ]),
    ),
    ...labelled(s, at, picked, fights),
    group('origin', null, origin(at([0, 0]), picked)),
    group(
      'points',
      null,
      s.curves.flatMap(c =>
        c.points.flatMap(p =>
          point(p.ref, at(p.at), free.has(p.ref), picked.has(p.ref) || (c.tags.includes('point') && picked.has(c.id))),
        ),
      ),
    ),
  ];
}
/** @param {(p: number[]) => number[]} at @param {Set<string>} picked */
function axes(at, picked) {
  const [o, xt, yt] = [at([0, 0]), at([1, 0]), at([0, 1])];
  return Object.entries({ x_axis: xt, y_axis: yt }).flatMap(([ref, t]) => {
    const d = [t[0] - o[0], t[1] - o[1]],
      k = 4000 / (Math.hypot(...d) || 1),
      [x1, y1, x2, y2] = [o[0] - d[0] * k, o[1] - d[1] * k, o[0] + d[0] * k, o[1] + d[1] * k];
    return [
      h('line', { class: classes('axis', { picked: picked.has(ref) }), x1, y1, x2, y2 }),
      h('line', { class: 'hit', x1, y1, x2, y2, 'data-ref': ref }),
    ];
  });
}
/** @param {Curve} c @param {Record<string, any>} marked */
const curve = (c, marked) => [
  h('path', { key: c.id, ref: watched(c.id), class: classes('curve', marked), d: c.path }),
  h('path', { key: `${c.id} hit`, class: classes('hit', { filled: marked.lettering }), d: c.path, 'data-ref': c.id }),
  c.tags.includes('poles')
    ? h('path', { key: `${c.id} cage`, class: 'cage', d: `M${c.points.map(p => p.at).join('L')}` })
    : null,
];
// dimensions and tags, so that none covers another
/** @param {Page.OpenSketch} s @param {(p: number[]) => number[]} at @param {Set<string>} picked
 @param {Set<string>} fights */
function labelled(s, at, picked, fights) {
  const tags = S.tagsHidden ? [] : tagPlaces(s, at),
    labels = layLabels(
      s.dimensions,
      at,
      tags.map(t => t.at),
    );
  S.labels = labels;
  /** @param {string} always @param {string} id */
  const marked = (always, id) => classes(always, { picked: picked.has(id), fights: fights.has(id) });
  return [
    group(
      'dimensions',
      null,
      s.dimensions.map(d => drawDimension(d, at, marked('dim', d.id), labels.get(d.id), watched(d.id))),
    ),
    group(
      'tags',
      null,
      tags.map(({ k, at: [x, y] }) =>
        h(
          'g',
          { key: k.id, ref: watched(k.id), class: marked('mark', k.id), 'data-id': k.id },
          h('title', {}, k.text),
          h('circle', { cx: x, cy: y, r: 8.5 }),
          h('text', { x, y: y + 4 }, k.symbol),
        ),
      ),
    ),
  ];
}
/** @param {number[]} at @param {Set<string>} picked */
function origin([x, y], picked) {
  const on = picked.has('origin');
  return [
    h('path', {
      d: `M${x - 7} ${y}h14M${x} ${y - 7}v14`,
      stroke: on ? '#C08A2E' : '#1F2D35',
      'stroke-width': on ? 3 : 1.4,
    }),
    hitPoint('origin', [x, y]),
  ];
}
/** @param {string} ref @param {number[]} at @param {boolean} isFree @param {boolean} chosen */
const point = (ref, [x, y], isFree, chosen) => [
  ref.endsWith('.centre')
    ? h('path', {
        key: ref,
        d: `M${x - 6} ${y}h12M${x} ${y - 6}v12`,
        stroke: chosen ? '#C08A2E' : isFree ? '#8a5c0c' : '#1F2D35',
        'stroke-width': chosen ? 3 : 1.2,
      })
    : h('circle', {
        key: ref,
        ref: watched(ref),
        class: classes('pt', { free: isFree, picked: chosen }),
        cx: x,
        cy: y,
        r: isFree ? 4.6 : 3.4,
      }),
  hitPoint(ref, [x, y]),
];
/** @param {string} ref @param {number[]} at */
const hitPoint = (ref, [x, y]) =>
  h('circle', { key: `${ref} hit`, cx: x, cy: y, r: 8, class: 'hitpt', 'data-ref': ref });

// where the constraint tags stand, in pixels: beside what they hold, and not over each other
/** @param {Page.OpenSketch} s @param {(p: number[]) => number[]} at */
function tagPlaces(s, at) {
  /** @type {number[][]} */
  const taken = [],
    found = [];
  for (const k of s.marks) {
    const [px, py] = at(k.at),
      [qx, qy] = at([k.at[0] + k.normal[0], k.at[1] + k.normal[1]]),
      l = Math.hypot(qx - px, qy - py) || 1;
    let x = px + ((qx - px) / l) * 17,
      y = py + ((qy - py) / l) * 17;
    while (taken.some(([a, b]) => Math.hypot(a - x, b - y) < 18)) {
      x += 19 * Math.abs((qy - py) / l) + 0.01;
      y += 19 * Math.abs((qx - px) / l);
    }
    taken.push([x, y]);
    found.push({ k, at: [x, y] });
  }
  return found;
}
/** @param {Frame} frame */
function grid(frame) {
  const [a, b, c, d] = camera.matrix(frame);
  if (Math.abs(a * d - b * c) < 0.5 * camera.scale ** 2) return [];
  const { width, height } = camera,
    step = niceStep(22),
    heavy = heavyEvery(step),
    nodes = [];
  const corners = [
    [0, 0],
    [width, 0],
    [0, height],
    [width, height],
  ].map(([x, y]) => camera.onPlane(frame, x, y));
  for (const axis of [0, 1]) {
    const low = Math.floor(Math.min(...corners.map(p => p[axis])) / step),
      high = Math.ceil(Math.max(...corners.map(p => p[axis])) / step);
    if (high - low > 400) return nodes;
    const lo = Math.min(...corners.map(p => p[1 - axis])),
      hi = Math.max(...corners.map(p => p[1 - axis]));
    for (let i = low; i <= high; i += 1) {
      const [x1, y1] = toScreen(frame, axis ? [lo, i * step] : [i * step, lo]),
        [x2, y2] = toScreen(frame, axis ? [hi, i * step] : [i * step, hi]);
      nodes.push(h('line', { class: `grid ${i % heavy ? '' : 'five'}`, x1, y1, x2, y2 }));
      if (i % heavy === 0 && i) {
        const [x, y] = toScreen(frame, axis ? [0, i * step] : [i * step, 0]);
        if (x > 4 && x < width - 40 && y > 70 && y < height - 120)
          nodes.push(h('text', { class: 'gridnum', x: x + 3, y: y - 3 }, exact(i * step, 6)));
      }
    }
  }
  return nodes;
}
for (const name of ['camera', 'sketch', 'selection', 'layer']) on(name, drawLayer);

// Sketches that nothing uses yet stay visible, also round the one that is drawn.
const views = new Map();
/** @param {string} id @returns {Promise<Page.OpenSketch>} */
export function viewOf(id) {
  const key = `${id}:${S.model.revision}`;
  if (!views.has(key)) {
    if (views.size > 60) views.clear();
    views.set(key, ask(`/sketches/${id}`));
  }
  return views.get(key);
}
let asked = 0;
export async function showUnused() {
  const mine = ++asked;
  setFaint(faint);
  const steps = part().steps,
    used = new Set(steps.flatMap(s => (s.skipped ? [] : s.uses)));
  const limit = part().now ?? steps.length;
  const wanted = steps
    .slice(0, limit)
    .filter(
      s => stepKind(s.kind).drawn && !s.skipped && (S.shownSketches?.get(s.id) ?? !used.has(s.id)) && frameOf(s.id),
    );
  const list = await Promise.all(
    wanted.map(async s => ({ frame: /** @type {Frame} */ (frameOf(s.id)), view: await viewOf(s.id) })),
  );
  // what was asked later shows what is there later
  if (mine === asked) setFaint(list);
}
on('build', () => during(showUnused()));
export const redraw = () => emit('layer');
