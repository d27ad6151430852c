// Drawing sketches as SVG over the solid, kept in register by one matrix.
import { $, S, emit, frameOf, on, part, stepKind, svg } from '../core/state.js';
import { camera } from '../view/camera.js';
import { exact, heavyEvery } from '../core/units.js';
import { niceStep } from '../view/controls.js';
import { drawDimension } from './figures.js';
import { layLabels } from './labels.js';

const body = $('layer-body');
export const draft = { nodes: [], dimension: null }; // what a tool adds: SVG nodes in pixels, a dimension being placed
export const extra = []; // functions that return nodes in pixels (sheets, handle)
let faint = []; // [{frame, view}] of sketches shown in solid mode
// regions offered: [{id, frame, sketch, region}]
export const candidates = { list: [], lines: [], points: [], chosen: new Set(), pick: null };
// classes that hold
const classes = (always, sometimes) => [always, ...Object.keys(sometimes).filter(name => sometimes[name])].join(' ');

const matrixText = frame =>
  `matrix(${camera
    .matrix(frame)
    .map(v => v.toFixed(5))
    .join(' ')})`;
/** @returns {[number, number]} */
export function toScreen(frame, p) {
  const [a, b, c, d, e, f] = camera.matrix(frame);
  return [a * p[0] + c * p[1] + e, b * p[0] + d * p[1] + f];
}

const hatches = ['hatch', 'hatch-strong', 'hatch-hot', 'hatch-chosen'].map(id => $(id));
export function drawLayer() {
  // the hatching keeps its distance on the screen, whatever the zoom
  for (const pattern of hatches)
    pattern.setAttribute('patternTransform', `rotate(45) scale(${(1 / camera.scale).toPrecision(5)})`);
  const nodes = [];
  things.clear();
  if (S.sketch && S.frame) nodes.push(...openSketch());
  else nodes.push(...shownSketches());
  for (const make of extra) nodes.push(...make());
  body.replaceChildren(...nodes, drafts);
  drawDraft();
  light(S.hot);
}
// what a tool shows of what it would draw changes at every move of the pointer; the rest of the sketch stays as it is
const drafts = svg('g');
export function drawDraft() {
  const dimension = draft.dimension && S.sketch && S.frame;
  drafts.replaceChildren(
    ...(dimension ? [drawDimension(draft.dimension, p => toScreen(S.frame, p), 'dim draft')] : []),
    ...draft.nodes,
  );
}
// the thing under the pointer, marked where it is drawn
const things = new Map();
const lightable = (ref, node) => {
  things.set(ref, node);
  return node;
};
let lit = null;
export function light(ref) {
  lit?.classList.remove('hot');
  lit = things.get(ref) ?? null;
  lit?.classList.add('hot');
}
function shownSketches() {
  const nodes = faint.map(({ frame, view }) =>
    svg(
      'g',
      { class: 'faint', transform: matrixText(frame) },
      ...view.curves.map(c => svg('path', { class: `curve ${c.construction ? 'construction' : ''}`, d: c.path })),
    ),
  );
  for (const l of candidates.lines) {
    const line = svg('path', { class: `curve axisline ${l.on ? 'picked' : ''}`, d: l.path }),
      hit = svg('path', { class: 'hit pickable', d: l.path });
    hit.addEventListener('click', l.pick);
    nodes.push(svg('g', { transform: matrixText(l.frame) }, line, hit));
  }
  for (const q of candidates.points) {
    const [x, y] = toScreen(q.frame, q.at),
      hit = svg('circle', { class: 'hitpt', cx: x, cy: y, r: 9 });
    hit.addEventListener('click', q.pick);
    if (q.says) hit.append(svg('title', {}, q.says));
    nodes.push(svg('circle', { class: `pt ${q.on ? 'picked' : 'free'}`, cx: x, cy: y, r: 5 }), hit);
  }
  for (const c of candidates.list) {
    const path = svg('path', {
      class: `region pickable ${candidates.chosen.has(c.id) ? 'chosen' : ''}`,
      d: c.region.path,
      'fill-rule': 'evenodd',
      'data-region': c.id,
    });
    path.addEventListener('click', () => candidates.pick?.(c));
    nodes.push(svg('g', { transform: matrixText(c.frame) }, path));
  }
  return nodes;
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
export function setFaint(list) {
  faint = list;
  drawLayer();
}

// the picture to be traced: one node that stays, so it does not flicker
let pictured = null;
function pictureUnder(s, matrix) {
  const u = s.underlay;
  if (!u || S.underlayHidden) return [];
  const href = `/models/${S.model.id}/sketches/${s.id}/picture/${u.key}`;
  if (pictured?.getAttribute('href') !== href)
    pictured = svg('image', { class: 'underlay', href, preserveAspectRatio: 'none', x: 0, y: 0 });
  const turn = (u.turn * 180) / Math.PI,
    // its rows run down, the sketch's y up
    stand = `translate(${u.x} ${u.y}) rotate(${turn}) scale(${u.scale} ${-u.scale})`;
  for (const [name, value] of Object.entries({
    width: u.wide,
    height: u.high,
    opacity: u.strength,
    transform: `${matrix} ${stand} translate(${-u.wide / 2} ${-u.high / 2})`,
  }))
    pictured.setAttribute(name, value);
  return [pictured];
}
function openSketch() {
  const s = S.sketch,
    frame = S.frame,
    free = new Set(s.free ?? []),
    picked = new Set(S.selection);
  const fights = new Set(S.fights ?? []);
  const onFights = new Set(
    [...s.marks, ...s.dimensions].filter(m => fights.has(m.id)).flatMap(m => m.on.map(r => r.split('.')[0])),
  );
  const m = matrixText(frame),
    at = p => toScreen(frame, p),
    nodes = [...pictureUnder(s, m), ...grid(frame)];
  const [o, xt, yt] = [at([0, 0]), at([1, 0]), at([0, 1])];
  for (const [ref, t] of Object.entries({ x_axis: xt, y_axis: yt })) {
    const d = [t[0] - o[0], t[1] - o[1]],
      k = 4000 / (Math.hypot(...d) || 1),
      ends = [o[0] - d[0] * k, o[1] - d[1] * k, o[0] + d[0] * k, o[1] + d[1] * k];
    const [x1, y1, x2, y2] = ends;
    nodes.push(svg('line', { class: `axis ${picked.has(ref) ? 'picked' : ''}`, x1, y1, x2, y2 }));
    nodes.push(svg('line', { class: 'hit', x1, y1, x2, y2, 'data-ref': ref }));
  }
  nodes.push(
    svg(
      'g',
      { transform: m },
      ...(s.regions ?? []).map(r => svg('path', { class: 'region', d: r.path, 'fill-rule': 'evenodd' })),
    ),
  );
  nodes.push(
    svg(
      'g',
      { transform: m },
      ...s.curves.flatMap(c => [
        lightable(
          c.id,
          svg('path', {
            class: classes('curve', {
              free: free.has(c.id),
              construction: c.construction,
              picked: picked.has(c.id),
              fights: onFights.has(c.id),
              taken: c.taken,
              lettering: c.tags.includes('text'),
            }),
            d: c.path,
          }),
        ),
        svg('path', { class: `hit ${c.tags.includes('text') ? 'filled' : ''}`, d: c.path, 'data-ref': c.id }),
        ...(c.tags.includes('poles')
          ? [svg('path', { class: 'cage', d: `M${c.points.map(p => p.at).join('L')}` })]
          : []),
      ]),
    ),
  );
  for (const p of s.open_ends ?? []) {
    const [x, y] = at(p);
    nodes.push(svg('path', { class: 'openend', d: `M${x - 9} ${y}a9 9 0 0 1 18 0` }));
  }
  if (s.offers)
    nodes.push(
      svg(
        'g',
        { transform: m },
        ...s.offers.flatMap((o, i) => [
          svg('path', { class: `curve taken ${s.offersHot === i ? 'hot' : ''}`, d: o.path }),
          svg('path', { class: 'hit', d: o.path, 'data-ref': `offer:${i}` }),
        ]),
      ),
    );
  const tags = S.tagsHidden ? [] : tagPlaces(at),
    labels = layLabels(
      s.dimensions,
      at,
      tags.map(t => t.at),
    );
  S.labels = labels;
  for (const d of s.dimensions) {
    const style = classes('dim', { picked: picked.has(d.id), fights: fights.has(d.id) });
    nodes.push(lightable(d.id, drawDimension(d, at, style, labels.get(d.id))));
  }
  for (const {
    k,
    at: [x, y],
  } of tags)
    nodes.push(
      lightable(
        k.id,
        svg(
          'g',
          { class: classes('mark', { picked: picked.has(k.id), fights: fights.has(k.id) }), 'data-id': k.id },
          svg('title', {}, k.text),
          svg('circle', { cx: x, cy: y, r: 8.5 }),
          svg('text', { x, y: y + 4 }, k.symbol),
        ),
      ),
    );
  const origin = o;
  nodes.push(
    svg('path', {
      d: `M${origin[0] - 7} ${origin[1]}h14M${origin[0]} ${origin[1] - 7}v14`,
      stroke: picked.has('origin') ? '#C08A2E' : '#1F2D35',
      'stroke-width': picked.has('origin') ? 3 : 1.4,
    }),
    hitPoint('origin', origin),
  );
  for (const c of s.curves)
    for (const p of c.points) {
      const [x, y] = at(p.at),
        isFree = free.has(p.ref),
        chosen = picked.has(p.ref) || (c.tags.includes('point') && picked.has(c.id));
      if (p.ref.endsWith('.centre'))
        nodes.push(
          svg('path', {
            d: `M${x - 6} ${y}h12M${x} ${y - 6}v12`,
            stroke: chosen ? '#C08A2E' : isFree ? '#8a5c0c' : '#1F2D35',
            'stroke-width': chosen ? 3 : 1.2,
          }),
        );
      else
        nodes.push(
          lightable(
            p.ref,
            svg('circle', {
              class: classes('pt', { free: isFree, picked: chosen }),
              cx: x,
              cy: y,
              r: isFree ? 4.6 : 3.4,
            }),
          ),
        );
      nodes.push(hitPoint(p.ref, [x, y]));
    }
  return nodes;
}
const hitPoint = (ref, [x, y]) => svg('circle', { cx: x, cy: y, r: 8, class: 'hitpt', 'data-ref': ref });

// where the constraint tags stand, in pixels: beside what they hold, and not over each other
function tagPlaces(at) {
  const taken = [],
    found = [];
  for (const k of S.sketch.marks) {
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
function grid(frame) {
  const [a, b, c, d] = camera.matrix(frame);
  if (Math.abs(a * d - b * c) < 0.5 * camera.scale ** 2) return [];
  const w = camera.width,
    h = camera.height,
    step = niceStep(22),
    heavy = heavyEvery(step),
    nodes = [];
  const corners = [
    [0, 0],
    [w, 0],
    [0, h],
    [w, h],
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
      nodes.push(svg('line', { class: `grid ${i % heavy ? '' : 'five'}`, x1, y1, x2, y2 }));
      if (i % heavy === 0 && i) {
        const [x, y] = toScreen(frame, axis ? [0, i * step] : [i * step, 0]);
        if (x > 4 && x < w - 40 && y > 70 && y < h - 120)
          nodes.push(svg('text', { class: 'gridnum', x: x + 3, y: y - 3 }, exact(i * step, 6)));
      }
    }
  }
  return nodes;
}
for (const name of ['camera', 'sketch', 'selection', 'layer']) on(name, drawLayer);

// In solid mode sketches that nothing uses yet stay visible.
const views = new Map();
export async function viewOf(id) {
  const key = `${id}:${S.model.revision}`;
  if (!views.has(key)) {
    if (views.size > 60) views.clear();
    const { ask } = await import('../core/api.js');
    views.set(key, ask(`/sketches/${id}`));
  }
  return views.get(key);
}
export async function showUnused() {
  if (S.sketch) return;
  const steps = part().steps,
    used = new Set(steps.flatMap(s => (s.skipped ? [] : s.uses)));
  const limit = part().now ?? steps.length;
  const wanted = steps
    .slice(0, limit)
    .filter(
      s => stepKind(s.kind).drawn && !s.skipped && (S.shownSketches?.get(s.id) ?? !used.has(s.id)) && frameOf(s.id),
    );
  const list = await Promise.all(wanted.map(async s => ({ frame: frameOf(s.id), view: await viewOf(s.id) })));
  if (!S.sketch) setFaint(list);
}
on('build', showUnused);
export const redraw = () => emit('layer');
