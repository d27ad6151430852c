// Sizes typed at the pointer while something is drawn.
import { $, html } from '../core/dom.js';
import { S, openSketch } from '../core/state.js';
import { ask } from '../core/api.js';
import { bare, plainNumber } from '../core/units.js';
import { recall, remember } from '../core/kept.js';
import { hint } from '../ui/messages.js';
import { measures } from './bands.js';
import { inHand, now, slots } from './drawing.js';

// who draws hears of it: a size has changed, what is typed is to be placed, it is to go no further
let heard = { changed() {}, entered() {}, left() {} };
/** @param {any} ears */
export const hear = ears => {
  heard = ears;
};
// whether typed positions become dimensions from the origin; kept between sketches of this browser
export const positions = {
  get kept() {
    return recall('positions', false);
  },
  set kept(on) {
    remember('positions', on);
  },
};
/** @param {number[]} goal */
export function liveSizes(goal) {
  const box = $('sizes'),
    wanted = slots();
  if (!now.places.length && box.hidden) return;
  if (!wanted.length) {
    box.hidden = true;
    return;
  }
  const mine = `${inHand().kind}${Math.min(now.places.length, 1)}`;
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
    : inHand().band === 'drawn'
      ? (now.live ?? []).map(v => v ?? undefined)
      : measures[inHand().band](now.places[0].at, goal);
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
/** @param {number} i @param {string} text */
export async function type(i, text) {
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
    heard.changed();
    return undefined;
  }
  const mine = now.typed[i],
    number = plainNumber(text, Boolean(slots()[i].angle));
  if (number !== null) {
    mine.ok = true;
    mine.value = number;
    heard.changed();
    return undefined;
  }
  const sort = slots()[i].angle ? 'angle' : 'length';
  mine.waiting = ask('/number', { text, sort, sketch: openSketch().id }).then(
    got => {
      if (got.problem) {
        mine.problem = got.problem;
        inputs[i].title = got.problem;
        return;
      }
      mine.ok = true;
      mine.value = got.value;
      inputs[i].classList.remove('is-invalid');
      inputs[i].title = `= ${got.text}`;
      if (now.typed[i] === mine) heard.changed();
    },
    problem => {
      mine.problem = problem.message;
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
      hint(bad.problem ?? '');
      return;
    }
    heard.entered();
  }
  if (event.key === 'Escape') {
    event.preventDefault();
    event.stopPropagation();
    now.typed = [];
    $('view').focus();
    heard.left();
  }
});
