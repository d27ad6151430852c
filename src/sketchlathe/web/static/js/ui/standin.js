// Something else in the view than the part as it is now: an older revision, a trial, two states side by side. One at a
// time, with a bar that says what is shown; whatever else begins ends it.
import { $, html, sought, targetOf } from '../core/dom.js';
import { emit, on } from '../core/state.js';
import { endPreview } from '../view/scene.js';
import { onKey } from './keys.js';

/** @type {{ keeps: string[], ended: () => void } | null} */
let now = null;
// what: {label, nodes, keeps: events that do not end it, ended()}
/** @param {{ label: string, nodes: any, keeps?: string[], ended?: () => void }} what */
export function standIn({ label, nodes, keeps = [], ended = () => {} }) {
  if (now) now.ended();
  now = { keeps, ended };
  document.body.classList.add('standing-in');
  $('older').setAttribute('aria-label', label);
  $('older').hidden = false;
  say(nodes);
}
// the bar filled anew; the one who has the focus keeps it
/** @param {Iterable<Node | string>} nodes */
export function say(nodes) {
  const at = document.activeElement?.id;
  $('older').replaceChildren(...nodes);
  if (at) sought(at)?.focus({ preventScroll: true });
}
export const isStandingIn = () => now !== null;
export function endStandIn() {
  if (!now) return;
  const { ended } = now;
  now = null;
  document.body.classList.remove('standing-in');
  $('older').hidden = true;
  $('older').replaceChildren();
  ended();
  endPreview();
  emit('marked');
}
for (const name of ['model', 'mode', 'bar', 'part'])
  on(name, () => {
    if (now && !now.keeps.includes(name)) endStandIn();
  });
onKey(event => {
  if (!now || event.key !== 'Escape' || targetOf(event).closest('dialog')) return false;
  endStandIn();
  $('view').focus({ preventScroll: true });
  return true;
});
/** @param {string} word @param {() => void} act */
export const button = (word, act, more = {}) =>
  html('button', { class: 'btn', type: 'button', onclick: act, ...more }, word);
