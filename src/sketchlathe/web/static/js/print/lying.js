// Bodies moved on the bed by hand: where each lies, kept for this part in this browser.
import { $, html } from '../core/dom.js';
import { forget, recall, remember } from '../core/kept.js';
import { choose } from './plate.js';
import { facts, now } from './shared.js';

const LIES = `lies.${facts.model}.${facts.part}`;
// moved: {id: [bed, x, y, degrees]}
/** @type {{ moved: Record<string, any[]>, held: string | null }} */
export const lies = { moved: recall(LIES, {}), held: null };
let check = () => {};
// one that is moved leaves the others of its bed where they are
/** @param {string} id @param {{ bed?: number, x?: number, y?: number, turn?: number }} change */
export function put(id, change) {
  for (const b of now.report.bodies) lies.moved[b.id] = [b.bed, b.x, b.y, b.turn];
  const was = lies.moved[id];
  lies.moved[id] = [change.bed ?? was[0], change.x ?? was[1], change.y ?? was[2], change.turn ?? was[3]];
  remember(LIES, lies.moved);
  if (change.bed) now.lay = `${now.report.chosen}/${change.bed}`;
  check();
}
/** @param {string | null} id */
export function hold(id) {
  lies.held = id;
  choose(id);
  onBed();
  $('on-bed-list').querySelector('[aria-pressed=true]')?.closest('li')?.scrollIntoView({ block: 'nearest' });
}
/** @param {number} v */
const tidy = v => +v.toFixed(2);
/** @param {any} body @param {string} name @param {string} word @param {string} unit */
function field(body, name, word, unit) {
  const input = html('input', { class: 'num', inputmode: 'decimal', value: tidy(body[name]), 'data-lies': name });
  input.addEventListener('change', () => {
    const value = Number(input.value.replace(',', '.'));
    if (Number.isFinite(value)) put(body.id, { [name]: value });
    else input.classList.add('bad');
  });
  return html('label', { class: 'row2' }, html('span', {}, word), html('span', {}, input, html('i', {}, unit)));
}
/** @type {Record<string, number[]>} */
const NUDGE = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
export function onBed() {
  const box = $('on-bed'),
    at = document.activeElement?.dataset?.lies,
    bodies = now.report.bodies;
  box.hidden = !bodies.length;
  $('on-bed-list').replaceChildren(
    ...bodies.map((/** @type {any} */ b) => {
      const item = html('li', {});
      const name = html(
        'button',
        {
          type: 'button',
          class: 'chip',
          'data-lies': b.id,
          'aria-pressed': String(lies.held === b.id),
          onclick: () => hold(lies.held === b.id ? null : b.id),
        },
        b.title,
      );
      name.addEventListener('keydown', event => {
        const by = NUDGE[event.key],
          far = event.shiftKey ? 10 : 1;
        if (!by && event.key !== 'r') return;
        event.preventDefault();
        lies.held = b.id;
        put(b.id, by ? { x: b.x + by[0] * far, y: b.y + by[1] * far } : { turn: (b.turn + 90) % 360 });
      });
      item.append(name);
      if (lies.held === b.id) {
        const on = html(
          'select',
          { 'data-lies': 'bed', onchange: e => put(b.id, { bed: Number(e.currentTarget.value) }) },
          ...Array.from({ length: now.report.beds + (bodies.length > 1 ? 1 : 0) }, (_, i) =>
            html('option', { value: i + 1, selected: b.bed === i + 1 }, i < now.report.beds ? `${i + 1}` : 'a new one'),
          ),
        );
        item.append(
          field(b, 'x', 'middle, across', 'mm'),
          field(b, 'y', 'middle, deep', 'mm'),
          field(b, 'turn', 'turned', '°'),
          html('label', { class: 'row2' }, html('span', {}, 'on bed'), on),
        );
      }
      return item;
    }),
  );
  $('lay-anew').hidden = !bodies.some((/** @type {any} */ b) => b.id in lies.moved);
  if (at) box.querySelector(`[data-lies="${CSS.escape(at)}"]`)?.focus();
}
$('lay-anew').addEventListener('click', () => {
  lies.moved = {};
  forget(LIES);
  check();
});
// who looks at the part again when something lies elsewhere
/** @param {any} look */
export const hear = look => {
  check = look;
};
