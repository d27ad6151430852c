// What is selected in the open sketch, and what is done with it.
import { $ } from '../core/dom.js';
import { S, emit, openSketch, there } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { hint } from '../ui/messages.js';
import * as dimension from './dimension.js';
import * as tool from './tool.js';

const view = $('view');

/** @param {string[]} refs @param {boolean} [adding] */
export function select(refs, adding) {
  if (!adding) S.selection = refs;
  else
    for (const r of refs)
      S.selection = S.selection.includes(r) ? S.selection.filter(x => x !== r) : [...S.selection, r];
  emit('selection');
}
/** @param {any} drag */
export function inBox({ box, touch }) {
  /** @type {(r: { left: number, right: number, top: number, bottom: number }) => boolean} */
  const inside = r => r.left >= box[0] && r.right <= box[2] && r.top >= box[1] && r.bottom <= box[3],
    /** @type {typeof inside} */
    meets = r => r.left <= box[2] && r.right >= box[0] && r.top <= box[3] && r.bottom >= box[1];
  const off = view.getBoundingClientRect();
  return [...document.querySelectorAll('#layer-body .hit[data-ref]')]
    .filter(n => !n.dataset.ref?.endsWith('_axis'))
    .filter(n => {
      const r = n.getBoundingClientRect(),
        m = { left: r.left - off.left, right: r.right - off.left, top: r.top - off.top, bottom: r.bottom - off.top };
      return touch ? meets(m) : inside(m);
    })
    .map(n => n.dataset.ref ?? '');
}
export async function chain() {
  const id = S.selection.map(r => r.split('.')[0]).find(r => openSketch().curves.some(c => c.id === r));
  if (!id) {
    hint('Select one curve of the chain first.');
    return;
  }
  select(await ask(`/sketches/${openSketch().id}/chain`, { on: [id] }), false);
}
export async function remove() {
  const ids = S.selection.map(r => r.split('.')[0]).filter(r => r !== 'origin' && !r.endsWith('_axis'));
  if (!ids.length) {
    hint('Select what is to be deleted first.');
    return;
  }
  S.selection = [];
  await edit({ kind: 'delete_from_sketch', sketch: openSketch().id, ids: [...new Set(ids)] }).catch(() => {});
}
export async function toggleConstruction() {
  const ids = S.selection.map(r => r.split('.')[0]).filter(id => openSketch().curves.some(c => c.id === id));
  if (!ids.length) {
    tool.construction.on = !tool.construction.on;
    $('construction').setAttribute('aria-pressed', String(tool.construction.on));
    hint(tool.construction.on ? 'What is drawn now is construction only' : 'What is drawn now counts');
    return;
  }
  const now = there(openSketch().curves.find(c => c.id === ids[0])).construction;
  await edit({ kind: 'set_construction', sketch: openSketch().id, ids: [...new Set(ids)], construction: !now }).catch(
    () => {},
  );
}

// a second click soon after the first, on the same thing: the browser's own double click dies where a redraw replaces
// the node
/** @type {{ ref: string | null, at: number }} */
let lastClick = { ref: null, at: 0 };
/** @param {string | null} ref */
export function twice(ref) {
  const again = ref && ref === lastClick.ref && performance.now() - lastClick.at < 450;
  lastClick = again ? { ref: null, at: 0 } : { ref, at: performance.now() };
  return again;
}
/** @param {string} ref */
export function openThing(ref) {
  if (openSketch().dimensions.some(d => d.id === ref)) dimension.change(ref);
  else if (openSketch().curves.some(c => c.id === ref)) chain();
}
export function forgetClick() {
  lastClick = { ref: null, at: 0 };
}
