// Drawing with a tool: placed points, rubber band, sizes typed at the pointer. Knows bands, not tools; what is not a
// plain band is drawn by the server while the pointer moves.
import { $, S, emit, html, kinds, svg } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { MM, bare } from '../core/units.js';
import { hint } from '../ui/messages.js';
import { talk } from './channel.js';
import { draft, drawDraft, inSketch, redraw, toScreen } from './layer.js';
import { optionsOf, showOptions } from './options.js';
import { all as allSnaps, cycle, resetCycle, snap } from './snapping.js';

const now = {
  tool: null,
  places: [],
  pointer: null,
  pixel: null,
  typed: [],
  chainStart: null,
  alt: false,
  shown: null,
  arc: false,
};
const flying = new Set(); // jobs the server has not drawn yet: they stay in sight as they were placed
export const active = () => now.tool;
export const placed = () => now.places.length;
export const construction = { on: false };
const pressed = () => {
  for (const b of document.querySelectorAll('[data-tool]'))
    b.setAttribute('aria-pressed', String(now.tool?.family === b.dataset.family));
};

export function start(kind) {
  stop();
  now.tool = kinds.tools.find(t => t.kind === kind);
  S.selection = [];
  resetCycle();
  showOptions(now.tool, {
    choose: start,
    changed: () => {
      now.shown = null;
      show();
    },
  });
  pressed();
  next();
}
export function stop() {
  if (now.tool) hint('Draw with a tool below, or select and drag what is there');
  now.tool = null;
  now.places = [];
  now.typed = [];
  now.chainStart = null;
  now.shown = null;
  now.arc = false;
  draft.nodes = [];
  $('snapnote').hidden = true;
  $('sizes').hidden = true;
  showOptions(null);
  pressed();
  redraw();
}
// One Esc ends a chain, the next the tool. → whether there was anything to end
export function back() {
  if (!now.tool) return false;
  if (now.places.length) {
    now.places = [];
    now.typed = [];
    now.chainStart = null;
    now.shown = null;
    $('sizes').hidden = true;
    next();
  } else stop();
  return true;
}
const last = () => now.places.length >= now.tool.steps.length - 1;
function next() {
  const tool = now.tool,
    at = Math.min(now.places.length, tool.steps.length - 1);
  hint(`${tool.word}: ${tool.steps[at]}. ${tool.hint}`);
  now.typed = now.places.length > 1 ? now.typed : [];
  if (now.places.length < 2) $('sizes').hidden = true;
  show();
}
const slots = () => (now.places.length === 0 ? [{ label: 'across' }, { label: 'along' }] : now.tool.sizes);

export function move(p, pixel, alt) {
  now.pixel = pixel;
  now.alt = alt;
  now.raw = p;
  const from = now.places.at(-1);
  const lined = from && (now.tool.band === 'segment' || (now.tool.band === 'drawn' && now.places.length === 1));
  now.pointer = snap(p, pixel, {
    start: lined || now.tool.band === 'box' ? from : null,
    box: now.tool.band === 'box',
    free: alt,
    exclude: from && now.tool.band !== 'drawn' ? from.ref : null,
  });
  show();
}
const typedValue = i => (now.typed[i]?.ok ? now.typed[i].value : null);

// where the next point is, with typed sizes taken into account
function aimed() {
  const p = now.pointer?.at ?? now.places.at(-1)?.at.map(v => v + S.sketch.size * 0.2) ?? [1, 1];
  if (!now.places.length) return p;
  const a = now.places[0].at,
    [s, t] = [typedValue(0), typedValue(1)];
  if (now.tool.band === 'box')
    return [
      s === null ? p[0] : a[0] + (p[0] < a[0] && s > 0 ? -s : s),
      t === null ? p[1] : a[1] + (p[1] < a[1] && t > 0 ? -t : t),
    ];
  const d = [p[0] - a[0], p[1] - a[1]],
    l = Math.hypot(...d) || 1;
  if (now.tool.band === 'segment' && (s !== null || t !== null)) {
    const w = t === null ? Math.atan2(d[1], d[0]) : t,
      k = s === null ? l : s;
    return [a[0] + k * Math.cos(w), a[1] + k * Math.sin(w)];
  }
  if (now.tool.band === 'circle' && (s !== null || t !== null)) {
    const r = s === null ? t : s / 2;
    return [a[0] + (d[0] / l) * r, a[1] + (d[1] / l) * r];
  }
  return p;
}
const bands = {
  point: () => [],
  drawn: () => [],
  segment: (a, b) => [svg('line', { class: 'band', x1: a[0], y1: a[1], x2: b[0], y2: b[1] })],
  box: (a, b, pa, pb) => [
    svg('path', {
      class: 'band',
      d: `M${a}L${toScreen(S.frame, [pb[0], pa[1]])}L${b}L${toScreen(S.frame, [pa[0], pb[1]])}Z`,
    }),
  ],
  circle: (a, b) => [svg('circle', { class: 'band', cx: a[0], cy: a[1], r: Math.hypot(b[0] - a[0], b[1] - a[1]) })],
};
const measures = {
  segment: (a, b) => [Math.hypot(b[0] - a[0], b[1] - a[1]), Math.atan2(b[1] - a[1], b[0] - a[0])],
  box: (a, b) => [Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])],
  circle: (a, b) => [2, 1].map(k => k * Math.hypot(b[0] - a[0], b[1] - a[1])),
  point: () => [],
  drawn: () => [],
};
/** @param {import('../../../types/page').Spot} spot */
const plain = ({ at, snap: word, ref, also, take, typed }) => ({
  at,
  snap: word ?? null,
  ref: ref ?? null,
  also: also ?? [],
  ...(take ? { take } : {}),
  ...(typed ? { typed } : {}),
});
// a chain's next curve starts where the one before ends (`after`: that job), which the server may still be drawing
/** @returns {import('../../../types/page').Spot} */
const settled = p => (p.after ? { at: p.after.end?.at ?? p.at, snap: 'end', ref: p.after.end?.ref ?? null } : plain(p));
// for the preview nothing is taken from the solid yet
const shownAs = p => {
  const { take, typed, ...rest } = settled(p);
  return take ? { ...rest, snap: null, ref: null, also: [] } : rest;
};

// what the server would draw if the next point were here; missing points stand where the pointer is
function askDrawing(goal) {
  const tool = now.arc ? swung() : now.tool;
  const places = [...now.places, { ...(now.pointer ?? {}), at: goal }].map(shownAs);
  const missing = tool.steps.length - places.length;
  if (missing > 0) {
    if (!(tool.band === 'drawn' && places.length >= 2)) return;
    const a = places[0].at,
      b = places.at(-1).at,
      [x, y] = [a[0] / 2 + b[0] / 2 - (b[1] - a[1]) / 3, a[1] / 2 + b[1] / 2 + (b[0] - a[0]) / 3];
    for (let i = 0; i < missing; i += 1) places.push({ at: [x + i, y], snap: null, ref: null });
  }
  const mine = now.tool;
  talk(
    {
      do: 'preview',
      draw: {
        tool: tool.kind,
        places,
        sizes: now.typed.map(t => (t?.ok ? t.text : '')),
        options: now.arc ? {} : optionsOf(now.tool),
        construction: construction.on,
      },
    },
    answer => {
      if (now.tool !== mine) return;
      now.shown = answer.preview?.paths ?? null;
      now.live = answer.preview?.sizes ?? [];
      if (answer.message && last() && now.typed.some(t => t?.ok)) hint(answer.message);
      show(true);
    },
  );
}
const drawn = paths =>
  inSketch(
    ...paths.map(s =>
      svg('path', { class: `band ${s.construction ? 'thin' : ''}`, d: s.path, 'vector-effect': 'non-scaling-stroke' }),
    ),
  );
function show(answered = false) {
  const at = p => toScreen(S.frame, p);
  if (!now.tool) return;
  const nodes = [...flying].flatMap(job =>
    job.shown
      ? [drawn(job.shown)]
      : bands[job.tool.band](at(job.places[0].at), at(job.places.at(-1).at), job.places[0].at, job.places.at(-1).at),
  );
  const goal = aimed();
  const asked = now.tool.band === 'drawn' || now.arc;
  if (now.places.length && !now.arc)
    nodes.push(...bands[now.tool.band](at(now.places[0].at), at(goal), now.places[0].at, goal));
  if (asked && now.places.length) {
    if (now.shown) nodes.push(drawn(now.shown));
    if (!now.shown) {
      const [a, b] = [at(now.places.at(-1).at), at(goal)];
      nodes.push(svg('line', { class: 'band thin', x1: a[0], y1: a[1], x2: b[0], y2: b[1] }));
    }
    for (const q of now.places) {
      const [x, y] = at(q.at);
      nodes.push(svg('circle', { cx: x, cy: y, r: 3, fill: '#84580B' }));
    }
    if (!answered) askDrawing(goal);
  }
  if (now.pointer) {
    const [x, y] = at(now.pointer.at);
    for (const guide of now.pointer.guides ?? [now.pointer.guide].filter(Boolean)) {
      const [gx, gy] = at(guide);
      nodes.push(svg('line', { class: 'guide', x1: gx, y1: gy, x2: x, y2: y }));
    }
    nodes.push(
      now.pointer.word
        ? svg('path', { class: 'snapmark', d: `M${x - 6} ${y}l6 -6l6 6l-6 6z` })
        : svg('circle', { cx: x, cy: y, r: 2.5, fill: '#84580B' }),
    );
    const note = $('snapnote');
    note.hidden = !now.pointer.word;
    note.textContent = now.pointer.word + (now.pointer.more > 1 ? '  (` next)' : '');
    note.style.left = `${Math.min(x + 16, S.viewWidth - 130)}px`;
    note.style.top = `${y + 14}px`;
  }
  draft.nodes = nodes;
  liveSizes(goal);
  drawDraft();
}
function liveSizes(goal) {
  const box = $('sizes'),
    wanted = slots();
  if (!now.places.length && box.hidden) return;
  if (!wanted.length) {
    box.hidden = true;
    return;
  }
  const mine = `${now.tool.kind}${Math.min(now.places.length, 1)}`;
  if (box.dataset.for !== mine || box.hidden) {
    box.dataset.for = mine;
    const keep = now.places.length
      ? []
      : [
          html(
            'label',
            { title: 'What is typed becomes dimensions from the origin' },
            html('input', {
              type: 'checkbox',
              class: 'form-check-input',
              ...(positions.kept ? { checked: true } : {}),
              onchange: e => {
                positions.kept = e.target.checked;
                hint(
                  positions.kept
                    ? 'Typed positions are kept as dimensions from the origin'
                    : 'Typed positions place only',
                );
              },
            }),
            'keep',
          ),
        ];
    box.replaceChildren(
      ...wanted.map((slot, i) =>
        html(
          'label',
          {},
          slot.label,
          html('input', {
            autocomplete: 'off',
            maxlength: 400,
            value: now.typed[i]?.text ?? '',
            oninput: e => type(i, e.target.value),
          }),
        ),
      ),
      ...keep,
    );
    box.hidden = false;
  }
  const values = !now.places.length
    ? goal
    : now.tool.band === 'drawn'
      ? (now.live ?? []).map(v => v ?? undefined)
      : measures[now.tool.band](now.places[0].at, goal);
  [...box.querySelectorAll('input:not([type=checkbox])')].forEach((input, i) => {
    if (now.typed[i]?.text) return;
    if (document.activeElement !== input) input.value = '';
    input.placeholder =
      values[i] === undefined
        ? ''
        : wanted[i].angle
          ? `${+((values[i] * 180) / Math.PI).toFixed(1)}°`
          : bare(values[i]);
  });
  const [x, y] = now.pixel ?? [200, 200];
  box.style.left = `${Math.max(8, Math.min(x + 18, S.viewWidth - box.offsetWidth - 10))}px`;
  box.style.top = `${Math.max(60, y - 46)}px`;
}
// a plain number with or without its unit needs no asking; the server reads it again when it is kept
const PLAIN = /^([-+]?(?:\d+\.?\d*|\.\d+))\s*(mm|cm|m|in|deg|°)?$/;
function plainNumber(text, angle) {
  const found = PLAIN.exec(text.trim());
  if (!found || (angle ? /m|in/.test(found[2] ?? '') : /deg|°/.test(found[2] ?? ''))) return null;
  return angle ? (Number(found[1]) * Math.PI) / 180 : Number(found[1]) * MM[found[2] ?? S.model.units];
}
async function type(i, text) {
  const inputs = $('sizes').querySelectorAll('input:not([type=checkbox])');
  if (text.includes(',') && inputs[i + 1] && !text.includes('(')) {
    const [first, ...rest] = text.split(',');
    inputs[i].value = first.trim();
    inputs[i + 1].value = rest.join(',').trim();
    inputs[i + 1].focus();
    await Promise.all([type(i, inputs[i].value), type(i + 1, inputs[i + 1].value)]);
    return undefined;
  }
  now.typed[i] = { text, ok: false };
  if (!text.trim()) {
    now.typed[i] = undefined;
    show();
    return undefined;
  }
  const mine = now.typed[i],
    number = plainNumber(text, Boolean(slots()[i].angle));
  if (number !== null) {
    mine.ok = true;
    mine.value = number;
    show();
    return undefined;
  }
  mine.waiting = ask('/number', { text, angle: Boolean(slots()[i].angle), sketch: S.sketch.id }).then(
    got => {
      mine.ok = true;
      mine.value = got.value;
      inputs[i].classList.remove('is-invalid');
      inputs[i].title = `= ${got.text}`;
      if (now.typed[i] === mine) show();
    },
    problem => {
      mine.problem = problem.message;
      inputs[i].title = problem.message;
    },
  );
  return mine.waiting;
}
$('sizes').addEventListener('submit', event => event.preventDefault());
$('sizes').addEventListener('keydown', async event => {
  if (event.key === 'Enter') {
    event.preventDefault();
    const waiting = now.typed.map(t => t?.waiting).filter(Boolean);
    if (waiting.length) await Promise.all(waiting);
    const bad = now.typed.find(t => t?.problem && !t.ok);
    if (bad) {
      hint(bad.problem);
      return;
    }
    placeTyped();
  }
  if (event.key === 'Escape') {
    event.preventDefault();
    event.stopPropagation();
    now.typed = [];
    $('view').focus();
    back();
  }
});
function placeTyped() {
  if (!now.places.length) {
    const p = aimed(),
      at = [typedValue(0) ?? p[0], typedValue(1) ?? p[1]];
    const origin = Math.hypot(...at) < 1e-9;
    now.pointer = {
      at,
      snap: origin ? 'origin' : null,
      ref: origin ? 'origin' : null,
      word: '',
      ...(positions.kept && !origin ? { typed: [0, 1].map(i => now.typed[i]?.text ?? '') } : {}),
    };
    place();
    return;
  }
  // with every size typed, the points that are still missing follow from them
  const left = now.tool.steps.length - now.places.length - 1,
    sized = now.tool.sizes.length && now.tool.sizes.every((_, i) => now.typed[i]?.ok);
  if (now.tool.band === 'drawn' && left > 0 && sized) {
    const goal = aimed(),
      a = now.places[0].at;
    now.places.push({ ...plain(now.pointer ?? { at: goal }), at: goal });
    const b = now.places.at(-1).at;
    for (let i = 1; i < left; i += 1) now.places.push({ at: [b[0] + i, b[1]], snap: null, ref: null });
    now.pointer = {
      at: [a[0] / 2 + b[0] / 2 - (b[1] - a[1]) / 3, a[1] / 2 + b[1] / 2 + (b[0] - a[0]) / 3],
      snap: null,
      ref: null,
      word: '',
    };
  }
  place();
}
// whether typed positions become dimensions from the origin; kept between sketches of this browser
const positions = {
  get kept() {
    return localStorage.getItem('lathe-positions') === 'kept';
  },
  set kept(on) {
    localStorage.setItem('lathe-positions', on ? 'kept' : 'free');
  },
};
// digits start typing a size; once something is begun, letters start a formula
export function typing(event) {
  if (
    !now.tool ||
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    event.target.matches('input, select, textarea') ||
    !slots().length
  )
    return false;
  if (!/^[0-9.\-(]$/.test(event.key) && !(now.places.length && /^\p{L}$/u.test(event.key))) return false;
  $('sizes').dataset.for = '';
  $('sizes').hidden = false;
  liveSizes(aimed());
  const input = $('sizes').querySelector('input');
  if (!input) return false;
  $('sizes').hidden = false;
  input.focus();
  input.value = event.key;
  type(0, event.key);
  const how = positions.kept
    ? 'What is typed is kept as dimensions from the origin'
    : 'It places only; tick “keep” to make dimensions of it';
  if (!now.places.length) hint(`Where it is: across, along, Enter. ${how}.`);
  return true;
}
// the keyboard walks through what can be snapped to; Enter then places there
let walked = -1;
export function walk(by) {
  const from = now.places.at(-1),
    seen = new Set();
  const list = allSnaps().filter(s => {
    const k = s.at.map(v => v.toFixed(6)).join();
    return !(from && !now.places[0]?.after && near(from.at, s.at) < 1e-9) && !seen.has(k) && seen.add(k);
  });
  if (!list.length) return;
  walked = (walked + by + list.length) % list.length;
  const s = list[walked];
  now.pointer = { ...s, more: 0 };
  now.pixel = toScreen(S.frame, s.at);
  hint(`${s.word}, ${walked + 1} of ${list.length}: Enter to use it`);
  show();
}

export const cycleSnap = () => {
  cycle();
  if (now.raw) move(now.raw, now.pixel, now.alt);
};

// a drag that starts at the end of a chain draws with the tool that this one swings to (lines: a tangent arc)
const swung = () => kinds.tools.find(t => t.kind === now.tool.swings);
export const canSwing = () =>
  Boolean(now.tool?.swings) &&
  now.places.length === 1 &&
  Boolean(now.places[0].after?.end ?? now.places[0].ref?.includes('.'));
export function swing(on) {
  now.arc = on;
  now.shown = null;
  if (on) hint(`${swung().word}, ${swung().variant}: let go where it is to end`);
}

// Enter places what was walked to or is aimed at, or ends a tool that takes any number of points
export function enter() {
  const fresh = walked >= 0;
  walked = -1;
  if (fresh || !finish()) place();
}
// Enter ends a tool that takes any number of points
export function finish() {
  if (!now.tool?.more || now.places.length < now.tool.steps.length) return false;
  commitNow();
  return true;
}
export function place() {
  if (!now.tool) return;
  const pointer = now.pointer ?? { at: aimed() };
  const here = { ...plain(pointer), at: now.places.length ? aimed() : pointer.at };
  const before = now.places.at(-1);
  if (
    now.tool.more &&
    before &&
    Math.hypot(before.at[0] - here.at[0], before.at[1] - here.at[1]) < 1e-9 * (1 + S.sketch.size)
  ) {
    finish();
    return;
  }
  now.places.push(here);
  resetCycle();
  if (now.tool.chains && now.places.length === 1) now.chainStart ??= {};
  if (now.tool.more || now.places.length < now.tool.steps.length) {
    next();
    return;
  }
  commitNow();
}
function commitNow() {
  const here = now.places.at(-1);
  const arc = now.arc ? swung() : null;
  const job = {
    tool: arc ?? now.tool,
    places: now.places,
    sizes: arc ? [] : now.typed.map(t => t?.text ?? ''),
    options: arc ? {} : { ...optionsOf(now.tool) },
    construction: construction.on,
    shown: now.shown,
  };
  const chain = now.chainStart;
  now.typed = [];
  now.arc = false;
  now.shown = null;
  now.places = now.tool.chains ? [{ at: here.at, snap: null, ref: null, after: job }] : [];
  $('view').focus({ preventScroll: true });
  flying.add(job);
  commit(job, chain).finally(() => {
    flying.delete(job);
    show();
  });
  next();
}
async function commit(job, chain) {
  const sketch = S.sketch.id;
  /** @type {any} */
  let places;
  let before;
  try {
    const answer = await edit(() => {
      // what it should hang on was refused, or closed the chain
      if (job.places[0].after && !job.places[0].after.end) return null;
      places = job.places.map(settled);
      before = new Set(S.sketch.curves.map(c => c.id));
      return {
        kind: 'draw',
        sketch,
        tool: job.tool.kind,
        places,
        sizes: job.sizes,
        options: job.options,
        construction: job.construction,
      };
    });
    if (!answer) return;
    emit('drawn');
    const made = S.sketch.curves.find(c => !before.has(c.id));
    if (!job.tool.chains || !made) return;
    const ends = made.points.filter(q => made.ends.includes(q.ref));
    const [from, end] = near(ends[0].at, places[0].at) <= near(ends[1].at, places[0].at) ? ends : [ends[1], ends[0]];
    const closed = Boolean(chain?.made) && near(end.at, placeOf(chain.made)) < 1e-6 * S.sketch.size;
    if (chain && !chain.made) chain.made = from.ref;
    if (closed) {
      if (now.chainStart === chain) {
        now.places = [];
        now.chainStart = null;
        if (now.tool) next();
      }
      return;
    }
    job.end = { at: end.at, ref: end.ref };
    if (now.places[0]?.after === job) {
      Object.assign(now.places[0], job.end);
      show();
    }
  } catch {
    if (now.tool && now.chainStart === chain) {
      now.places = [];
      now.chainStart = null;
      next();
    }
  }
}
const near = (p, q) => Math.hypot(p[0] - q[0], p[1] - q[1]);
const placeOf = ref => S.sketch.curves.flatMap(c => c.points).find(q => q.ref === ref)?.at ?? [Infinity, Infinity];
