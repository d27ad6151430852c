// Acts on what is drawn (trim, round, offset, mirror...): asked for blank by blank as each act declares; knows sorts
// of blanks only.
import { $, html, svg } from '../core/dom.js';
import { S, emit, kinds, openSketch, there } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { recall, remember } from '../core/kept.js';
import { hint } from '../ui/messages.js';
import { inSketch, toScreen } from '../view/places.js';
import { talk } from './channel.js';
import { draft, drawDraft, redraw } from './layer.js';
import { resetCycle, snap } from './snapping.js';

/** @type {{ act: Told.ActKind | null } & Record<string, any>} */
const now = { act: null, at: 0, values: {}, dragging: false };
export const active = () => now.act;
const asked = () => now.act?.asks[now.at];
const inQuestion = () => there(asked());
const inHand = () => there(now.act);
const curvesChosen = () =>
  [...new Set(S.selection.map(r => r.split('.')[0]))].filter(id => openSketch().curves.some(c => c.id === id));

/** @param {number} index */
export function start(index) {
  const chosen = S.selection;
  stop();
  now.act = kinds.acts[index];
  S.selection = chosen;
  begin();
}
function begin() {
  now.at = 0;
  now.values = { ...inHand().preset };
  for (const b of document.querySelectorAll('[data-act]'))
    b.setAttribute('aria-pressed', String(kinds.acts[Number(b.dataset.act)] === now.act));
  const ids = curvesChosen();
  const first = inQuestion();
  if ((first.sort === 'chosen' && ids.length) || (first.sort === 'corner' && ids.length > 1)) {
    now.values[first.field] = ids;
    now.at = 1;
  }
  say();
}
export function stop() {
  now.act = null;
  now.values = {};
  now.dragging = false;
  draft.nodes = [];
  $('sizes').hidden = true;
  $('snapnote').hidden = true;
  for (const b of document.querySelectorAll('[data-act]')) b.setAttribute('aria-pressed', 'false');
  redraw();
}
export function back() {
  if (!now.act) return false;
  stop();
  hint('');
  return true;
}
function say() {
  const a = inQuestion();
  hint(`${inHand().name}: ${a.say}.`);
  if (['length', 'angle', 'count', 'factor'].includes(a.sort)) askTyped(a);
  else $('sizes').hidden = true;
  redraw();
}
// typed blanks that follow each other are asked together
/** @param {Told.ActAsk} first */
function askTyped(first) {
  const asks = [];
  for (
    let i = now.at;
    i < inHand().asks.length && ['length', 'angle', 'count', 'factor'].includes(inHand().asks[i].sort);
    i += 1
  )
    asks.push(inHand().asks[i]);
  const box = $('sizes');
  box.dataset.for = 'act';
  box.replaceChildren(
    ...asks.map(a =>
      html(
        'label',
        {},
        a.say,
        html('input', { autocomplete: 'off', maxlength: 400, value: a.start, 'data-field': a.field }),
      ),
    ),
    html('button', { class: 'chip', type: 'submit' }, 'Enter'),
  );
  box.hidden = false;
  const [x, y] = now.pixel ?? [S.viewWidth / 2 - 120, 160];
  box.style.left = `${Math.max(8, Math.min(x + 18, S.viewWidth - box.offsetWidth - 10))}px`;
  box.style.top = `${Math.max(60, y - 46)}px`;
  const input = box.querySelector('input');
  input.focus();
  input.select();
  void first;
}
$('sizes').addEventListener('submit', () => {
  if (!now.act) return;
  for (const input of $('sizes').querySelectorAll('input')) {
    const a = there(now.act.asks.find(x => x.field === input.dataset.field)),
      text = input.value.trim();
    if (!text && !a.may_be_empty) {
      hint(`${now.act.name}: ${a.say} is needed.`);
      input.focus();
      return;
    }
    now.values[a.field] = a.sort === 'count' ? Math.round(Number(text)) : a.sort === 'factor' ? Number(text) : text;
    if ((a.sort === 'count' || a.sort === 'factor') && !Number.isFinite(now.values[a.field])) {
      hint(`${a.say} must be a number.`);
      input.focus();
      return;
    }
    now.at += 1;
  }
  go();
});
$('sizes').addEventListener(
  'keydown',
  event => {
    if (!now.act) return;
    if (event.key === 'Enter') {
      event.preventDefault();
      event.stopImmediatePropagation();
      $('sizes').requestSubmit();
    }
    if (event.key === 'Escape') {
      event.preventDefault();
      event.stopPropagation();
      back();
      $('view').focus();
    }
  },
  true,
);
/** @param {any} value */
function fill(value) {
  now.values[inQuestion().field] = value;
  now.at += 1;
  go();
}
async function go() {
  if (now.at < inHand().asks.length) {
    say();
    return;
  }
  const act = inHand(),
    values = now.values;
  $('sizes').hidden = true;
  $('view').focus({ preventScroll: true });
  try {
    await edit({ ...values, sketch: openSketch().id, kind: act.edit });
    if (now.act !== act) return;
    S.selection = [];
    emit('selection');
    if (act.again) begin();
    else {
      stop();
      hint(`${act.name}: done`);
    }
  } catch {
    if (now.act !== act) return;
    // ask the typed blanks again, keep what was picked
    now.at = act.asks.findIndex(a => ['length', 'angle', 'count', 'factor'].includes(a.sort));
    if (now.at < 0) begin();
    else say();
  }
}
/** @param {string | null | undefined} ref */
const curveAt = ref => (ref ? openSketch().curves.find(c => c.id === ref.split('.')[0]) : null);
const fits = {
  /** @param {string | null | undefined} ref */
  line: ref => ref?.endsWith('_axis') || (!ref?.includes('.') && curveAt(ref)?.tags.includes('line')),
  /** @param {string | null | undefined} ref */
  'line or point': ref =>
    fits.line(ref) || ref === 'origin' || ref?.includes('.') || curveAt(ref)?.tags.includes('point'),
};

/** @param {string | null} ref @param {number[]} p @param {number[]} pixel */
export function down(ref, p, pixel) {
  now.pixel = pixel;
  if (asked()?.sort === 'stretches') {
    now.dragging = true;
    now.list = [];
    gather(ref, p);
  }
}
/** @param {string | null} ref @param {number[]} p */
function gather(ref, p) {
  const c = curveAt(ref);
  if (c && !now.list.some((/** @type {any} */ s) => s.id === c.id)) {
    now.list.push({ id: c.id, at: p });
    draft.nodes = [...draft.nodes, ...marked(p)];
    drawDraft();
  }
}
/** @param {number[]} p */
const marked = p => {
  const [x, y] = toScreen(S.frame, p);
  return [svg('path', { class: 'snapmark', d: `M${x - 5} ${y - 5}l10 10M${x + 5} ${y - 5}l-10 10` })];
};
/** @param {string | null} ref @param {[number, number]} p @param {[number, number]} pixel @param {boolean} alt */
export function move(ref, p, pixel, alt) {
  now.pixel = pixel;
  const a = asked();
  if (!a) return;
  if (a.sort === 'stretches' && now.dragging) {
    gather(ref, p);
    return;
  }
  if ((a.sort === 'stretches' || a.sort === 'stretch') && curveAt(ref)) {
    const shown = a.sort === 'stretches';
    if (!shown) return;
    talk({ do: 'stretch', ref, at: p }, answer => {
      if (asked()?.sort !== 'stretches' || now.dragging) return;
      draft.nodes = answer.stretch?.path
        ? [inSketch(svg('path', { class: 'goes', d: answer.stretch.path, 'vector-effect': 'non-scaling-stroke' }))]
        : [];
      drawDraft();
    });
    return;
  }
  if (a.sort === 'place') {
    resetCycle();
    now.place = snap(p, pixel, { free: alt });
    const [x, y] = toScreen(S.frame, now.place.at);
    draft.nodes = [svg('path', { class: 'snapmark', d: `M${x - 6} ${y}l6 -6l6 6l-6 6z` })];
    drawDraft();
  } else if (draft.nodes.length) {
    draft.nodes = [];
    drawDraft();
  }
}
/** @param {string | null} ref @param {number[]} p @param {number[]} pixel */
export function up(ref, p, pixel) {
  now.pixel = pixel;
  const a = asked(),
    c = curveAt(ref);
  if (!a) return;
  draft.nodes = [];
  if (a.sort === 'stretches') {
    now.dragging = false;
    const list = now.list;
    now.list = [];
    if (list?.length) fill(list);
    else hint(`${inHand().name}: point at a curve.`);
    return;
  }
  if (a.sort === 'stretch') {
    if (c) fill({ id: c.id, at: p });
    else hint(`${inHand().name}: point at a curve.`);
    return;
  }
  if (a.sort === 'corner') {
    const near = cornerAt(pixel);
    if (near) fill([near]);
    else hint(`${inHand().name}: click on a corner, where two lines or arcs meet.`);
    return;
  }
  if (a.sort === 'chosen') {
    if (c) {
      S.selection = S.selection.includes(c.id) ? S.selection.filter(r => r !== c.id) : [...S.selection, c.id];
      emit('selection');
    }
    return;
  }
  if (a.sort === 'line' || a.sort === 'line or point') {
    if (ref && fits[a.sort](ref)) fill(c?.tags.includes('point') && !ref.includes('.') ? `${ref}.at` : ref);
    else hint(`${inHand().name}: ${a.say}.`);
    return;
  }
  if (a.sort === 'place') fill(now.place?.at ?? p);
}
/** @param {number[]} pixel */
function cornerAt(pixel) {
  let best = null,
    least = 14;
  for (const c of openSketch().curves)
    for (const ref of c.ends) {
      const q = toScreen(S.frame, there(c.points.find(x => x.ref === ref)).at),
        d = Math.hypot(q[0] - pixel[0], q[1] - pixel[1]);
      if (d < least) {
        least = d;
        best = ref;
      }
    }
  return best;
}
// the keyboard: Enter takes what was walked to, or ends choosing
/** @param {string | null | undefined} hot */
export function enter(hot) {
  const a = asked();
  if (!a) return false;
  if (a.sort === 'chosen') {
    const ids = curvesChosen();
    const more = hot && curveAt(hot);
    if (more && !ids.includes(more.id)) {
      S.selection = [...ids, more.id];
      emit('selection');
      return true;
    }
    if (ids.length) fill(ids);
    else hint(`${inHand().name}: ${a.say}.`);
    return true;
  }
  const c = curveAt(hot),
    of = c && (c.points.find(q => q.ref === hot) ?? c.points[0]);
  if (a.sort === 'corner' && hot?.includes('.')) {
    fill([hot]);
    return true;
  }
  if ((a.sort === 'line' || a.sort === 'line or point') && fits[a.sort](hot)) {
    fill(hot);
    return true;
  }
  if (a.sort === 'place' && (of || hot === 'origin')) {
    fill(of ? of.at : [0, 0]);
    return true;
  }
  if ((a.sort === 'stretch' || a.sort === 'stretches') && c && of) {
    const p = of.at;
    fill(a.sort === 'stretch' ? { id: c.id, at: p } : [{ id: c.id, at: p }]);
    return true;
  }
  hint(`${inHand().name}: ${a.say}. Walk to it with ] and [, then Enter.`);
  return true;
}

// the clipboard of this program, kept between sketches and models of this browser
export async function copy() {
  const on = curvesChosen();
  if (!on.length) {
    hint('Select the curves to copy first.');
    return;
  }
  const clip = await ask(`/sketches/${openSketch().id}/clip`, { on }).catch(() => null);
  if (!clip) return;
  remember('clip', clip);
  hint(`${on.length} curve${on.length > 1 ? 's' : ''} copied; paste in this or another sketch.`);
}
export async function paste() {
  const clip = recall('clip', /** @type {any} */ (null));
  if (!clip) {
    hint('Nothing was copied yet.');
    return;
  }
  const before = new Set(openSketch().curves.map(c => c.id)),
    by = openSketch().curves.length ? [openSketch().size * 0.1, openSketch().size * 0.1] : [0, 0];
  await edit({ kind: 'paste', sketch: openSketch().id, clip, by }).catch(() => {});
  S.selection = openSketch()
    .curves.filter(c => !before.has(c.id))
    .map(c => c.id);
  emit('selection');
}
