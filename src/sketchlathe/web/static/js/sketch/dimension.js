// The dimension tool, and typing a dimension's value in its place.
import { $, targetOf } from '../core/dom.js';
import { S, openSketch } from '../core/state.js';
import { edit } from '../core/api.js';
import { complain, hint } from '../ui/messages.js';
import { toScreen } from '../view/places.js';
import { talk } from './channel.js';
import { draft, drawDraft, redraw } from './layer.js';

/** @type {{ on: boolean, refs: string[] } & Record<string, any>} */
const now = { on: false, refs: [], at: null, typing: null };
export const active = () => now.on;
const say = () =>
  hint(
    now.refs.length
      ? 'Dimension: click where the text goes, or a second thing to measure to'
      : 'Dimension: click a line, a circle or arc, a point',
  );

export function start(rim = '') {
  now.on = true;
  now.rim = rim;
  now.refs = [...S.selection]
    .filter(r => openSketch().curves.some(c => r.split('.')[0] === c.id) || r === 'origin' || r.endsWith('_axis'))
    .slice(0, 2);
  S.selection = [];
  $('dimension-tool').setAttribute('aria-pressed', 'true');
  say();
  redraw();
  if (now.refs.length) move(middle());
}
const middle = () => {
  const c = openSketch().curves.find(x => x.id === now.refs[0].split('.')[0]);
  const p = c ? c.points[0].at : [0, 0];
  return [p[0] + openSketch().size * 0.2, p[1] - openSketch().size * 0.15];
};
export function stop() {
  now.on = false;
  now.refs = [];
  draft.dimension = null;
  closeTyping();
  $('snapnote').hidden = true;
  hint('');
  $('dimension-tool').setAttribute('aria-pressed', 'false');
  redraw();
}
export function back() {
  if (now.typing) {
    closeTyping();
    now.refs = [];
    draft.dimension = null;
    redraw();
    return true;
  }
  if (!now.on) return false;
  if (now.refs.length) {
    now.refs = [];
    draft.dimension = null;
    say();
    redraw();
  } else stop();
  return true;
}
/** @param {number[]} p */
export function move(p) {
  if (!now.on || !now.refs.length || now.typing) {
    $('snapnote').hidden = true;
    return;
  }
  now.at = p;
  const of = now.refs.join();
  talk({ do: 'dimension', on: now.refs, at: p, rim: now.rim }, answer => {
    if (!now.on || now.typing || now.refs.join() !== of) return;
    draft.dimension = answer.dimension ?? null;
    now.of = of;
    if (answer.message) hint(answer.message);
    tell(answer.dimension?.means ?? [], p);
    drawDraft();
  });
}
// what is measured here, and what it would be elsewhere, beside the pointer
/** @param {string[]} means @param {number[]} p */
function tell([here, ...elsewhere], p) {
  const note = $('snapnote'),
    [x, y] = toScreen(S.frame, p);
  note.hidden = !here;
  if (!here) return;
  note.textContent = `${here} (elsewhere: ${elsewhere.join(', ')})`;
  note.style.left = `${Math.max(8, Math.min(x + 16, S.viewWidth - note.offsetWidth - 10))}px`;
  note.style.top = `${y + 18}px`;
}
/** @param {string | null} ref @param {number[]} p */
export function click(ref, p) {
  if (ref && !now.refs.includes(ref) && now.refs.length < 2 && !(ref.endsWith('_axis') && !now.refs.length)) {
    now.refs.push(ref);
    say();
    S.selection = [...now.refs];
    move(p);
    redraw();
    return;
  }
  placeText(p);
}
export function placeText(p = now.at) {
  if (!now.refs.length) return;
  const refs = [...now.refs],
    letGo = () => {
      now.refs = [];
      S.selection = [];
      draft.dimension = null;
    };
  /** @param {string} text */
  const put = async text => {
    await edit({ kind: 'add_dimension', sketch: openSketch().id, on: refs, at: p, value: text, rim: now.rim ?? '' });
    letGo();
    say();
    redraw();
  };
  $('snapnote').hidden = true;
  // it can be typed at once: what is measured there now may be told a moment later
  type(toScreen(S.frame, p), now.of === refs.join() ? (draft.dimension?.value ?? '') : '', put);
  talk({ do: 'dimension', on: refs, at: p, rim: now.rim }, answer => {
    if (now.typing !== put) return;
    if (!answer.dimension) {
      complain(answer.message ?? 'That cannot be dimensioned.');
      closeTyping();
      letGo();
      redraw();
      return;
    }
    draft.dimension = { ...answer.dimension, label: p };
    redraw();
    measured(answer.dimension.value);
  });
}
/** @param {string} id @param {string} [begun] what was typed already */
export function change(id, begun = '') {
  const d = openSketch().dimensions.find(x => x.id === id);
  if (!d) return;
  if (!d.driving) {
    hint('A reference dimension only measures. Select it to make it driving.');
    return;
  }
  type(toScreen(S.frame, S.labels?.get(id) ?? d.label), d.value, text =>
    edit({ kind: 'set_dimension', sketch: openSketch().id, id, value: text }),
  );
  if (begun) {
    const input = /** @type {HTMLInputElement} */ ($('typed').querySelector('input'));
    input.value = begun;
    input.setSelectionRange(begun.length, begun.length);
  }
}
/** @param {number[]} pixel @param {number | string} text @param {(text: string) => any} done */
function type([x, y], text, done) {
  const form = $('typed'),
    input = form.querySelector('input');
  now.typing = done;
  now.given = String(text);
  now.wanted = false;
  form.hidden = false;
  form.style.left = `${Math.max(80, Math.min(x, S.viewWidth - 80))}px`;
  form.style.top = `${Math.max(70, y - 10)}px`;
  input.value = String(text);
  input.focus();
  input.select();
  hint('Type a size or a formula (R or ⌀ before it makes it a radius or a diameter), Enter to keep it, Esc to drop it');
}
// what is measured comes in where nothing was typed meanwhile; Enter that was pressed without a number waited for it
/** @param {string} text */
function measured(text) {
  const form = $('typed'),
    input = form.querySelector('input');
  if (input.value !== now.given) return;
  input.value = now.given = text;
  if (now.wanted) form.requestSubmit();
  else input.select();
}
function closeTyping() {
  now.typing = null;
  $('typed').hidden = true;
  if (document.activeElement === document.body) $('view').focus({ preventScroll: true });
}
$('typed').addEventListener('submit', async event => {
  event.preventDefault();
  const done = now.typing,
    input = targetOf(event).querySelector('input');
  if (!done) return;
  if (!input.value.trim() && !now.given) {
    now.wanted = true;
    return;
  }
  try {
    await done(input.value);
    if (now.typing === done) closeTyping();
    $('view').focus({ preventScroll: true });
  } catch {
    input.focus();
    input.select();
  }
});
$('typed')
  .querySelector('input')
  .addEventListener('keydown', event => {
    if (event.key === 'Escape') {
      event.stopPropagation();
      event.preventDefault();
      back();
      $('view').focus({ preventScroll: true });
    }
  });
export const nudge = () => {
  if (now.on && now.refs.length && !now.typing && now.at) {
    placeText();
    return true;
  }
  return false;
};
