// What can be done with a thing, asked on the thing itself: a face, an edge, a body, a curve, a step. Opened by the
// right button, by the menu key or a full stop, on what lies under the pointer or is picked.
import { $, html, targetOf } from '../core/dom.js';
import { S, part, step, stepKind, there } from '../core/state.js';
import { edit } from '../core/api.js';
import { onKey } from '../ui/keys.js';
import { complain } from '../ui/messages.js';
import { open as openSketchStep } from '../sketch/board.js';
import { remove, select, toggleConstruction } from '../sketch/choosing.js';
import * as dimension from '../sketch/dimension.js';
import { straightOn } from '../view/controls.js';
import { cutAcross } from '../view/section.js';
import { highlight, isHidden, setHidden } from '../view/scene.js';
import { openBar } from './bar.js';
import { actOn } from './list.js';
import { nameOf, titleOfBody } from './names.js';

const NUMBERS = ['length', 'angle', 'count'];
/** @type {HTMLElement | null} */
let card = null;
/** @type {any} */
let from = null;
export const isAsking = () => card !== null;
export function shut() {
  card?.remove();
  card = null;
  highlight([], S.picked ?? []);
  if (!document.activeElement || document.activeElement === document.body) from?.focus?.({ preventScroll: true });
}
/** @param {string} words @param {() => unknown} act @param {boolean} [strong] */
const line = (words, act, strong = false) =>
  html(
    'button',
    {
      type: 'button',
      class: strong ? 'first' : null,
      onclick: async (/** @type {MouseEvent} */ event) => {
        event.stopPropagation();
        shut();
        await Promise.resolve(act()).catch(() => {});
      },
    },
    words,
  );
// the numbers of a step, to be changed where one stands
/** @param {any} s */
function numbers(s) {
  const kind = stepKind(s.kind),
    /** @type {string[]} */
    said = s.said ?? Object.keys(kind.blanks),
    names = said.filter(n => NUMBERS.includes(kind.blanks[n]?.type) && String(s.fields[n] ?? '').trim());
  return names.slice(0, 3).map(name => {
    const input = html('input', {
      class: 'num',
      value: s.fields[name],
      'aria-label': `${kind.blanks[name].label} of ${s.title}`,
    });
    input.addEventListener('keydown', async (/** @type {KeyboardEvent} */ event) => {
      event.stopPropagation();
      if (event.key === 'Escape') shut();
      if (event.key !== 'Enter') return;
      event.preventDefault();
      try {
        await edit({ kind: 'set_fields', step: s.id, fields: { [name]: input.value } });
        shut();
      } catch {
        input.select();
      }
    });
    return html('label', { class: 'row2' }, html('span', {}, kind.blanks[name].label), input);
  });
}
/** @param {any} s */
const shownNumbers = s => {
  const kind = stepKind(s.kind),
    /** @type {(name: string) => boolean} */
    shown = name => {
      const { when, after } = kind.blanks[name];
      if (after && !s.fields[after]) return false;
      return !when || (when[1].includes(String(s.fields[when[0]])) && shown(when[0]));
    };
  return { ...s, said: Object.keys(kind.blanks).filter(shown) };
};
/** @param {any} s */
const aboutStep = s => [
  html('p', { class: 'of' }, s.title),
  ...(stepKind(s.kind).drawn ? [] : numbers(shownNumbers(s))),
  line(`Change ${s.title}`, () => (stepKind(s.kind).drawn ? openSketchStep(s.id) : openBar(s.kind, s.id)), true),
  line(`Skip ${s.title}`, () => edit({ kind: 'skip_step', step: s.id, skipped: true })),
  line(`Delete ${s.title}`, () => actOn('delete', s.id)),
];
/** @param {string} id */
const aboutBody = id => {
  const name = titleOfBody(id),
    all = (S.build?.bodies ?? []).map(b => b.id),
    several = all.length > 1;
  return [
    html('p', { class: 'of' }, name),
    line(`Hide ${name}`, () => setHidden([...all.filter(isHidden), id])),
    ...(several ? [line(`Show only ${name}`, () => setHidden(all.filter(b => b !== id)))] : []),
    ...leaving(id),
  ];
};
/** @param {string} id */
const leaving = id =>
  (S.build?.bodies ?? []).length > 1
    ? [
        line(`Leave ${titleOfBody(id)} out`, () =>
          edit({ kind: 'add_step', part: S.partId, step: 'leave_out', fields: { bodies: [id] } }),
        ),
      ]
    : [];
/** @param {Hit} hit */
function makersOf(hit) {
  const faces = hit.what === 'face' ? [hit.index] : hit.what === 'edge' ? hit.body.edges[hit.index].faces : [],
    made = new Set(faces.flatMap((/** @type {number} */ i) => hit.body.faces[i].made.map(m => m.by)));
  return part().steps.filter(s => made.has(s.id));
}
/** @param {Hit} hit @param {(hit: Hit) => void} pick */
function aboutHit(hit, pick) {
  const makers = makersOf(hit),
    frame = hit.what === 'face' ? hit.body.faces[hit.index].frame : null;
  const lines = [line('Measure it', () => pick(hit))];
  if (frame) {
    const flat = there(frame);
    lines.push(
      line('Draw on it', async () => {
        const known = new Set(part().steps.map(s => s.id));
        await edit({
          kind: 'add_step',
          part: S.partId,
          step: 'sketch',
          fields: { plane: { face: hit.body.faces[hit.index].pick } },
        });
        const fresh = part().steps.find(s => !known.has(s.id));
        if (fresh) await openSketchStep(fresh.id, true);
      }),
      line('Look straight on it', () => straightOn(flat)),
      line('Cut the view along it', () => cutAcross('face', flat.normal)),
    );
  }
  return [
    html('p', { class: 'of' }, nameOf(hit)),
    ...lines,
    ...makers.slice(0, 3).flatMap(aboutStep),
    ...aboutBody(hit.facts.id),
  ];
}
/** @param {string} ref */
function aboutDrawn(ref) {
  const size = S.sketch?.dimensions.find(d => d.id === ref);
  if (size)
    return [
      line('Change its number', () => dimension.change(ref), true),
      line('Delete it', () => {
        select([ref], false);
        return remove();
      }),
    ];
  return [
    line('Give it a size', () => {
      select([ref], false);
      dimension.start();
    }),
    line('Construction, or not', () => {
      select([ref.split('.')[0]], false);
      return toggleConstruction();
    }),
    line('Delete it', () => {
      select([ref.split('.')[0]], false);
      return remove();
    }),
  ];
}
/** @param {number} x @param {number} y @param {any[]} nodes */
function show(x, y, nodes) {
  shut();
  from = document.activeElement;
  card = html('div', { class: 'stack onthing', role: 'dialog', 'aria-label': 'What can be done here' }, ...nodes);
  // what is pressed here is not pressed in the view under it
  for (const kind of ['pointerdown', 'pointerup', 'pointermove', 'contextmenu'])
    card.addEventListener(kind, event => event.stopPropagation());
  $('view').append(card);
  const view = $('view');
  card.style.left = `${Math.max(8, Math.min(x + 4, view.clientWidth - card.offsetWidth - 8))}px`;
  card.style.top = `${Math.max(8, Math.min(y + 4, view.clientHeight - card.offsetHeight - 8))}px`;
  /** @type {HTMLElement | null} */ (card.querySelector('button'))?.focus();
}
document.addEventListener(
  'pointerdown',
  event => {
    if (card && !card.contains(targetOf(event))) shut();
  },
  true,
);
document.addEventListener(
  'keydown',
  event => {
    if (!card) return;
    const all = [...card.querySelectorAll('button, input')],
      by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (event.key === 'Escape') shut();
    else if (by) all[(all.indexOf(/** @type {any} */ (document.activeElement)) + by + all.length) % all.length].focus();
    else return;
    event.preventDefault();
    event.stopPropagation();
  },
  true,
);
/** @type {{ hit: (x: number, y: number) => Hit | undefined, pick: (hit: Hit) => void,
 drawn: (event: MouseEvent) => string | null }} */
let asks;
/** @param {typeof asks} how */
export function listenOn(how) {
  asks = how;
  const view = $('view');
  /** @type {number[] | null} */
  let down = null;
  view.addEventListener('pointerdown', event => {
    down = event.button === 2 ? [event.clientX, event.clientY] : null;
  });
  view.addEventListener('pointerup', event => {
    if (event.button !== 2 || !down || Math.hypot(event.clientX - down[0], event.clientY - down[1]) > 4) return;
    down = null;
    const box = view.getBoundingClientRect();
    ask(event.clientX - box.left, event.clientY - box.top, event);
  });
}
/** @param {number} x @param {number} y @param {MouseEvent} event */
function ask(x, y, event) {
  if (S.mode === 'sketch') {
    const ref = asks.drawn(event);
    if (ref) show(x, y, aboutDrawn(ref));
    return;
  }
  if ($('bar').hidden) askAt(x, y);
}
// of the solid
/** @param {number} x @param {number} y */
export function askAt(x, y) {
  const hit = asks.hit(x, y);
  if (!hit) return;
  show(x, y, aboutHit(hit, asks.pick));
  highlight([hit], S.picked ?? []);
}
// Delete pressed while something of the solid is picked: which of what made it goes, or the body
/** @param {Hit} hit */
const goes = hit => [
  html('p', { class: 'of' }, nameOf(hit)),
  ...makersOf(hit).map(s => line(`Delete ${s.title}`, () => actOn('delete', s.id))),
  ...leaving(hit.facts.id),
];
onKey(event => {
  if (event.key !== 'Delete' || S.mode !== 'solid' || !$('bar').hidden || !S.picked?.length) return false;
  if (targetOf(event).matches('input, select, textarea') || targetOf(event).closest('dialog, #steps')) return false;
  const view = $('view');
  show(view.clientWidth / 2, view.clientHeight / 4, goes(S.picked[0]));
  return true;
});
onKey(event => {
  if (!(event.key === 'ContextMenu' || (event.key === 'F10' && event.shiftKey) || event.key === '.')) return false;
  if (targetOf(event).matches('input, select, textarea') || targetOf(event).closest('dialog')) return false;
  const view = $('view');
  if (S.mode === 'sketch' && S.selection.length === 1) {
    show(view.clientWidth / 2, view.clientHeight / 3, aboutDrawn(S.selection[0]));
    return true;
  }
  const [hit] = S.picked ?? [];
  if (S.mode === 'solid' && hit && $('bar').hidden) {
    show(view.clientWidth / 2, view.clientHeight / 4, aboutHit(hit, asks.pick));
    return true;
  }
  return false;
});
// a step of the list: its own menu
$('steps').addEventListener('contextmenu', event => {
  const item = targetOf(event).closest('li[data-step]');
  if (!item) return;
  event.preventDefault();
  const s = step(item.dataset.step);
  if (!s) return;
  if (S.mode === 'sketch') complain('Keep or drop the open sketch first.');
  else /** @type {HTMLElement} */ (item.querySelector('details.menu summary'))?.click();
});
