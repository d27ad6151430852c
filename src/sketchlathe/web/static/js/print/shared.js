// What the parts of this page share: the model at hand, what was found, how it lies.
import { $, html } from '../core/dom.js';
import { talk } from '../core/talk.js';

export const facts = JSON.parse($('facts').textContent);
/** @type {Told.Ask} */
export const ask = (path, body, method) => talk(`/api/models/${facts.model}${path}`, body, method);
/** @param {string} text */
export function tell(text) {
  const box = html('div', { class: 'problem', role: 'alert' }, html('p', {}, text));
  box.append(
    html('button', { class: 'iconbtn', type: 'button', 'aria-label': 'Dismiss', onclick: () => box.remove() }, '✕'),
  );
  $('problem').replaceChildren(box);
  setTimeout(() => box.remove(), 9000);
}

/** @param {number} s */
export const hours = s =>
  s >= 3600
    ? `${Math.floor(s / 3600)} h ${String(Math.round((s % 3600) / 60)).padStart(2, '0')} min`
    : `${Math.max(1, Math.round(s / 60))} min`;

/** What the last check found; the way the part lies (empty: as is usual for it).
 * @type {{ report: any, lay: string }} */
export const now = { report: null, lay: '' };
