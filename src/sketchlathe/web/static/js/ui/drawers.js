// The solid's tools lie in drawers, one open at a time; a tool in a closed one is still found by its chord and name.
import { $, targetOf } from '../core/dom.js';

const tray = $('tray-solid');
const drawers = () => [...tray.querySelectorAll('[data-drawer]')];

/** @param {string | undefined} group */
export function openDrawer(group) {
  if (!drawers().some(d => d.dataset.drawer === group)) return;
  for (const d of drawers()) {
    const open = d.dataset.drawer === group;
    d.setAttribute('aria-pressed', String(open));
    $(`drawer-${d.dataset.drawer}`).classList.toggle('closed', !open);
  }
}
tray.addEventListener('click', event => {
  const group = targetOf(event).closest('[data-drawer]')?.dataset.drawer;
  if (group) openDrawer(group);
});
// the first letter of a chord opens the drawer whose tools begin with it
document.addEventListener('chordbegun', event => {
  const found = drawers().find(d => d.dataset.letter === event.detail);
  if (found) openDrawer(found.dataset.drawer);
});
