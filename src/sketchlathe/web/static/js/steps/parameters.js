// The table of parameters: changing, renaming, adding; dragging a value and watching the part follow.
import { $, targetOf } from '../core/dom.js';
import { S, there } from '../core/state.js';
import { edit } from '../core/api.js';
import { MM } from '../core/units.js';
import { Live } from '../view/live.js';
import { endPreview, setInstead, showTrial } from '../view/scene.js';
import { findable } from '../ui/keys.js';
import { complain, question } from '../ui/messages.js';
import { niceStep } from '../view/places.js';

const box = $('parameters');
let added = false; // the form has done its work
box.addEventListener('change', async event => {
  const row = targetOf(event).closest('.param');
  if (row && targetOf(event).tagName === 'INPUT') {
    await keep(targetOf(event));
  }
});
box.addEventListener('keydown', event => {
  if (targetOf(event).matches('.param input') && event.key === 'Enter') {
    event.preventDefault();
    targetOf(event).blur();
    $('view').focus({ preventScroll: true });
  }
  if (targetOf(event).matches('.param input') && event.key === 'Escape') {
    back(targetOf(event));
    targetOf(event).blur();
    event.stopPropagation();
  }
  if (targetOf(event).closest('#new-parameter') && event.key === 'Escape') {
    $('new-parameter').hidden = true;
    $('add-parameter').focus();
    event.stopPropagation();
  }
});
// Tab goes from value to value; Shift Tab also stops at renaming and deleting
box.addEventListener('keydown', event => {
  if (event.key !== 'Tab' || event.shiftKey || !targetOf(event).matches('.param input')) return;
  const all = [...box.querySelectorAll('.param input')],
    next = all[all.indexOf(targetOf(event)) + 1];
  if (next) {
    event.preventDefault();
    next.focus();
    next.select();
  }
});
findable.push(() =>
  [...box.querySelectorAll('.param input')].map(input => ({
    name: there(input.closest('.param')).dataset.parameter ?? '',
    where: 'parameter',
    go: () => {
      input.scrollIntoView({ block: 'nearest' });
      input.focus();
      input.select();
    },
  })),
);
box.addEventListener('click', async event => {
  if (targetOf(event).closest('#add-parameter')) {
    $('new-parameter').hidden = false;
    $('new-parameter').elements.name.focus();
  }
  const rename = targetOf(event).closest('[data-rename]'),
    dropped = targetOf(event).closest('[data-drop]');
  if (rename) {
    const to = await question(
      `Rename ${rename.dataset.rename}`,
      'Every formula that uses it follows.',
      [['ok', 'Rename']],
      rename.dataset.rename,
    );
    if (to !== null) await edit({ kind: 'rename_parameter', name: rename.dataset.rename, to }).catch(() => {});
  }
  const freed = targetOf(event).closest('[data-unlimit]')?.dataset.unlimit;
  if (freed) await edit({ kind: 'set_limits', part: S.partId, knob: `p:${freed}` }).catch(() => {});
  if (dropped) await edit({ kind: 'delete_parameter', name: dropped.dataset.drop }).catch(() => {});
});
box.addEventListener('submit', async event => {
  event.preventDefault();
  const f = targetOf(event).elements;
  added = true;
  await edit({ kind: 'add_parameter', name: f.name.value, formula: f.formula.value, sort: f.sort.value }).catch(() => {
    added = false;
    f.formula.focus();
  });
});

// a plain number can be dragged or stepped; formulas cannot
const PLAIN = /^(-?\d*\.?\d+)(\s*)(mm|cm|m|in|°|deg)?$/;
/** @param {any} input */
function read(input) {
  const found = input.defaultValue.trim().match(PLAIN);
  if (!found) return null;
  const unit = found[3] ?? '',
    size = Math.abs(Number(found[1])) || 1;
  const step = unit === '°' || unit === 'deg' ? 1 : unit ? niceStep(5) / MM[unit] : 1;
  return { value: Number(found[1]), tail: found[2] + unit, step: Math.min(step, 10 ** Math.floor(Math.log10(size))) };
}
/** @param {any} from @param {number} steps */
const text = (from, steps) => `${+(from.value + steps * from.step).toPrecision(10)}${from.tail}`;
// while a value is tried: the picture follows the hand, the exact part takes its place when the hand rests
/** @type {any} */
let live = null;
/** @param {any} input @param {number} steps */
function attempt(input, steps) {
  const from = read(input),
    name = input.closest('.param')?.dataset.parameter;
  if (!from || !name) return; // the panel was filled again meanwhile
  const words = text(from, steps);
  input.value = words;
  if (live?.name !== name) {
    endLive();
    /** @param {number} value */
    const saying = value => `${+value.toPrecision(10)}${from.tail}`;
    live = new Live(
      from.value,
      value => ({ kind: 'set_parameter', name, formula: saying(value) }),
      (value, result, problem) => {
        const failed =
          Boolean(problem) || result.steps.some((/** @type {{ status: string }} */ s) => s.status === 'failed');
        input.classList.toggle('bad', failed);
        if (result && (!live?.shows || failed)) showTrial(result.bodies);
        if (result && value === live?.value) rest(result.bodies, value);
      },
    );
    live.name = name;
  }
  live.to(from.value + steps * from.step);
}
// the hand rests: what is exact is shown
/** @param {any[]} bodies @param {number} value */
async function rest(bodies, value) {
  await showTrial(bodies);
  if (live?.value === value) setInstead(null);
}
function endLive() {
  live?.end();
  live = null;
}
/** @param {any} input */
function back(input) {
  endLive();
  input.tried = 0;
  input.value = input.defaultValue;
  input.classList.remove('bad');
  endPreview();
}

/** @type {any} */
let pulling = null;
box.addEventListener('pointerdown', event => {
  const grip = targetOf(event).closest('.grip');
  if (!grip || S.mode === 'sketch') return;
  const input = there(grip.closest('.param')).querySelector('input'),
    from = read(input);
  if (!from) {
    complain('Only a plain number can be dragged; this one is a formula.');
    return;
  }
  pulling = { input, from, x: event.clientX, steps: 0 };
  grip.setPointerCapture(event.pointerId);
});
box.addEventListener('pointermove', event => {
  if (!pulling) return;
  const steps = Math.round((event.clientX - pulling.x) / 5);
  if (steps === pulling.steps) return;
  pulling.steps = steps;
  attempt(pulling.input, steps);
});
box.addEventListener('pointerup', () => {
  if (!pulling) return;
  const { input, steps } = pulling;
  pulling = null;
  if (steps) keep(input);
});
box.addEventListener('keydown', event => {
  const input = targetOf(event);
  if (!input.matches('.param input') || !['ArrowUp', 'ArrowDown'].includes(event.key)) return;
  const from = read(input);
  if (!from) return;
  event.preventDefault();
  input.tried = (input.tried ?? 0) + (event.key === 'ArrowUp' ? 1 : -1);
  attempt(input, input.tried);
});
/** @param {any} input */
async function keep(input) {
  const name = input.closest('.param')?.dataset.parameter;
  if (name)
    await edit({ kind: 'set_parameter', name, formula: input.value }).catch(() => {
      input.value = input.defaultValue;
    });
  endLive();
  endPreview();
}
box.addEventListener('focusout', event => {
  if (targetOf(event).matches('.param input') && targetOf(event).value === targetOf(event).defaultValue)
    targetOf(event).tried = 0;
});

// a form that is being filled stays so when the panel is filled again
/** @type {any} */
let draft = null;
box.addEventListener('lathe:filling', () => {
  const form = $('new-parameter');
  draft =
    form && !form.hidden
      ? { values: [...form.elements].map(e => e.value), at: [...form.elements].indexOf(document.activeElement) }
      : null;
});
box.addEventListener('lathe:filled', () => {
  const form = $('new-parameter');
  if (!draft || !form || added) {
    added = false;
    return;
  }
  form.hidden = false;
  [...form.elements].forEach((e, i) => {
    e.value = draft.values[i];
  });
  form.elements[draft.at]?.focus();
});
