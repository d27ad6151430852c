// Panels: pieces of the page that travel with the answers to edits and builds. What says the same stays as it is, so
// nothing moves away under a finger; nor is a panel filled while it is pressed or dragged in, but when the finger is
// lifted.
import { later } from './rest.js';
import { $, targetOf } from './dom.js';
import { S, on } from './state.js';

const said = new WeakMap(),
  held = new Map();
/** @type {HTMLElement | null} */
let finger = null,
  dragging = false;
// how the person reads figures; kept by Weigh & size, sent with every edit and build
S.reading = {};

/** @param {Record<string, string> | undefined} panels */
export function fill(panels) {
  for (const [id, text] of Object.entries(panels ?? {})) put($(id), text);
}
// figures of an older build say so until the new one is there
const FIGURES = ['weigh', 'answers'];
on('model', () => {
  for (const id of FIGURES) $(id).setAttribute('aria-busy', 'true');
});
on('build', () => {
  for (const id of FIGURES) $(id).removeAttribute('aria-busy');
});
/** @param {HTMLElement} target @param {string} text */
function put(target, text) {
  if (finger && target.contains(finger)) {
    held.set(target, text);
    return;
  }
  held.delete(target);
  if (said.get(target) === text) return;
  said.set(target, text);
  target.dispatchEvent(new CustomEvent('lathe:filling'));
  target.innerHTML = text;
  target.dispatchEvent(new CustomEvent('lathe:filled'));
}
function lifted() {
  finger = null;
  dragging = false;
  for (const [target, text] of [...held]) put(target, text);
}
document.addEventListener(
  'pointerdown',
  event => {
    finger = targetOf(event);
  },
  true,
);
document.addEventListener('pointerup', () => later(lifted), true);
document.addEventListener(
  'dragstart',
  () => {
    dragging = true;
  },
  true,
);
// a list that drops down keeps the release of the pointer to itself
document.addEventListener(
  'change',
  event => {
    if (targetOf(event).matches('select')) later(lifted);
  },
  true,
);
document.addEventListener(
  'pointercancel',
  () => {
    if (!dragging) lifted();
  },
  true,
);
document.addEventListener('dragend', () => later(lifted), true);
window.addEventListener('blur', lifted);
// the few that are asked for by themselves come the same way
document.addEventListener('htmx:beforeSwap', event => {
  const { target, xhr, shouldSwap } = event.detail;
  if (!shouldSwap || !['weigh', 'revisions'].includes(target.id)) return;
  event.detail.shouldSwap = false;
  put(target, xhr.responseText);
});
