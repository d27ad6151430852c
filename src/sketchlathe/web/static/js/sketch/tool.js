// Drawing with a tool: placed points, rubber band, sizes typed at the pointer. Knows bands, not tools; what is not a
// plain band is drawn by the server while the pointer moves.
import { $, svg, targetOf } from '../core/dom.js';
import { S, kinds, openSketch, there } from '../core/state.js';
import { edit } from '../core/api.js';
import { hint } from '../ui/messages.js';
import { toScreen } from '../view/places.js';
import { bands, drawn } from './bands.js';
import { talk } from './channel.js';
import { aimed, inHand, near, now, plain, settled, shownAs, slots, typedValue } from './drawing.js';
import { draft, drawDraft, redraw } from './layer.js';
import { beginInText, optionsOf, showOptions } from './options.js';
import { all as allSnaps, cycle, resetCycle, snap } from './snapping.js';
import { hear, liveSizes, positions, type } from './typed.js';

const flying = new Set(); // jobs the server has not drawn yet: they stay in sight as they were placed
export const active = () => now.tool;
export const placed = () => now.places.length;
// something was drawn, and nothing is begun: whoever presses Enter now is done
let drew = false;
export const rests = () => drew && !now.places.length && walked < 0;
export const construction = { on: false };
const pressed = () => {
  for (const b of document.querySelectorAll('[data-tool]'))
    b.setAttribute('aria-pressed', String(now.tool?.family === b.dataset.family));
};

/** @param {string | undefined} kind */
export function start(kind) {
  stop();
  now.tool = there(kinds.tools.find(t => t.kind === kind));
  drew = false;
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
  beginInText();
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
const last = () => now.places.length >= inHand().steps.length - 1;
function next() {
  const tool = inHand(),
    at = Math.min(now.places.length, tool.steps.length - 1);
  hint(`${tool.word}: ${tool.steps[at]}. ${tool.hint}`);
  now.typed = now.places.length > 1 ? now.typed : [];
  if (now.places.length < 2) $('sizes').hidden = true;
  show();
}
/** @param {[number, number]} p @param {[number, number]} pixel @param {boolean} alt */
export function move(p, pixel, alt) {
  now.pixel = pixel;
  now.alt = alt;
  now.raw = p;
  const from = now.places.at(-1);
  const lined = from && (inHand().band === 'segment' || (inHand().band === 'drawn' && now.places.length === 1));
  now.pointer = snap(p, pixel, {
    start: lined || inHand().band === 'box' ? from : null,
    box: inHand().band === 'box',
    straight: inHand().band === 'segment',
    free: alt,
    exclude: from && inHand().band !== 'drawn' ? from.ref : null,
  });
  show();
}
// what the server would draw if the next point were here; missing points stand where the pointer is
/** @param {number[]} goal */
function askDrawing(goal) {
  const tool = now.arc ? swung() : inHand();
  const places = [...now.places, /** @type {any} */ ({ ...(now.pointer ?? {}), at: goal })].map(shownAs);
  const missing = tool.steps.length - places.length;
  if (missing > 0) {
    if (!(tool.band === 'drawn' && places.length >= 2)) return;
    const a = places[0].at,
      b = places[places.length - 1].at,
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
        sizes: Array.from(now.typed, t => (t?.ok ? t.text : '')), // one that was skipped too
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
// where it begins: a start may slide to suit where the pointer is
const begins = () => now.pointer?.starts ?? now.places[0];
function show(answered = false) {
  /** @param {number[]} p */
  const at = p => toScreen(S.frame, p);
  if (!now.tool) return;
  const nodes = [...flying].flatMap(job =>
    job.shown
      ? [drawn(job.shown)]
      : bands[job.tool.band](at(job.places[0].at), at(job.places.at(-1).at), job.places[0].at, job.places.at(-1).at),
  );
  const goal = aimed();
  const asked = now.tool.band === 'drawn' || now.arc;
  if (now.places.length && !now.arc) nodes.push(...bands[now.tool.band](at(begins().at), at(goal), begins().at, goal));
  if (asked && now.places.length) {
    if (now.shown) nodes.push(drawn(now.shown));
    if (!now.shown) {
      const [a, b] = [at(now.places[now.places.length - 1].at), at(goal)];
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
    for (const guide of now.pointer.guides ?? (now.pointer.guide ? [now.pointer.guide] : [])) {
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
    note.textContent = now.pointer.word + ((now.pointer.more ?? 0) > 1 ? '  (` next)' : '');
    note.style.left = `${Math.max(8, Math.min(x + 16, S.viewWidth - note.offsetWidth - 10))}px`;
    note.style.top = `${y + 14}px`;
  }
  draft.nodes = nodes;
  liveSizes(goal);
  drawDraft();
}
function placeTyped() {
  if (!now.places.length) {
    const p = aimed();
    /** @type {[number, number]} */
    const at = [typedValue(0) ?? p[0], typedValue(1) ?? p[1]];
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
  const left = inHand().steps.length - now.places.length - 1,
    sized = inHand().sizes.length && inHand().sizes.every((_, i) => now.typed[i]?.ok);
  if (inHand().band === 'drawn' && left > 0 && sized) {
    const goal = aimed(),
      a = now.places[0].at;
    now.places.push({ ...plain(now.pointer ?? { at: goal }), at: goal });
    const b = now.places[now.places.length - 1].at;
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
// digits start typing a size; once something is begun, letters start a formula
/** @param {KeyboardEvent} event */
export function typing(event) {
  if (
    !now.tool ||
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    targetOf(event).matches('input, select, textarea') ||
    !slots().length
  )
    return false;
  if (!/^[0-9.\-(]$/.test(event.key) && !(now.places.length && /^\p{L}$/u.test(event.key))) return false;
  $('sizes').dataset.for = '';
  $('sizes').hidden = false;
  liveSizes(aimed());
  // what the places set so far have said is not asked again
  const open = slots().findIndex(slot => !slot.settled || now.places.length < slot.settled),
    first = Math.max(0, open),
    input = $('sizes').querySelectorAll('input')[first];
  if (!input) return false;
  $('sizes').hidden = false;
  input.focus();
  input.value = event.key;
  type(first, event.key);
  const how = positions.kept
    ? 'What is typed is kept as dimensions from the origin'
    : 'It places only; tick “keep” to make dimensions of it';
  if (!now.places.length) hint(`Where it is: across, along, Enter. ${how}.`);
  return true;
}
// the keyboard walks through what can be snapped to; Enter then places there
let walked = -1;
/** @param {number} by */
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
  if (now.raw && now.pixel) move(now.raw, now.pixel, now.alt);
};

// a drag that starts at the end of a chain draws with the tool that this one swings to (lines: a tangent arc)
const swung = () => there(kinds.tools.find(t => t.kind === inHand().swings));
export const canSwing = () =>
  Boolean(now.tool?.swings) &&
  now.places.length === 1 &&
  Boolean(now.places[0].after?.end ?? now.places[0].ref?.includes('.'));
/** @param {boolean} on */
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
  if (now.places.length && pointer.starts) now.places[0] = plain(pointer.starts);
  const before = now.places.at(-1);
  if (
    now.tool.more &&
    before &&
    Math.hypot(before.at[0] - here.at[0], before.at[1] - here.at[1]) < 1e-9 * (1 + openSketch().size)
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
  drew = true;
  const here = now.places[now.places.length - 1];
  const arc = now.arc ? swung() : null;
  const job = {
    tool: arc ?? now.tool,
    places: now.places,
    sizes: arc ? [] : Array.from(now.typed, t => t?.text ?? ''),
    options: arc ? {} : { ...optionsOf(now.tool) },
    construction: construction.on,
    shown: now.shown,
  };
  const chain = now.chainStart;
  now.typed = [];
  now.arc = false;
  now.shown = null;
  now.places = inHand().chains ? [{ at: here.at, snap: null, ref: null, after: job }] : [];
  $('view').focus({ preventScroll: true });
  flying.add(job);
  commit(job, chain).finally(() => {
    flying.delete(job);
    show();
  });
  next();
}
/** @param {any} job @param {any} chain */
async function commit(job, chain) {
  const sketch = openSketch().id;
  /** @type {any} */
  let places;
  /** @type {Set<string>} */
  let before;
  try {
    const answer = await edit(() => {
      // what it should hang on was refused, or closed the chain
      if (job.places[0].after && !job.places[0].after.end) return null;
      places = job.places.map(settled);
      before = new Set(openSketch().curves.map(c => c.id));
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
    const made = openSketch().curves.find(c => !before.has(c.id));
    if (!job.tool.chains || !made) return;
    const ends = made.points.filter(q => made.ends.includes(q.ref));
    const [from, end] = near(ends[0].at, places[0].at) <= near(ends[1].at, places[0].at) ? ends : [ends[1], ends[0]];
    const closed = Boolean(chain?.made) && near(end.at, placeOf(chain.made)) < 1e-6 * openSketch().size;
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
/** @param {string} ref */
const placeOf = ref =>
  openSketch()
    .curves.flatMap(c => c.points)
    .find(q => q.ref === ref)?.at ?? [Infinity, Infinity];
hear({ changed: show, entered: placeTyped, left: back });
