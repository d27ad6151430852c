// The sentence bar by keyboard: Enter and Escape, walking through what can be picked, digits and formulas.
import { $, targetOf } from '../core/dom.js';
import { S, emit } from '../core/state.js';
import { hint } from '../ui/messages.js';
import { onKey } from '../ui/keys.js';
import { changed, drop, keep } from './bar.js';
import { listening, now, picking, ready } from './filling.js';
import { nameOf } from './names.js';
import { everything } from './picks.js';

onKey(event => {
  if (!now || S.mode === 'sketch' || targetOf(event).closest('dialog')) return false;
  // another form is being filled
  if (targetOf(event).matches('input, select, textarea') && !targetOf(event).closest('#bar')) return false;
  if (event.key === 'Escape') {
    drop();
    return true;
  }
  if ((event.key === ']' || event.key === '[') && !targetOf(event).matches('input[type=text], input:not([type])')) {
    walkOn(event.key === ']' ? 1 : -1);
    return true;
  }
  if (picking.walked && event.key === 'Enter') {
    const thing = picking.walked,
      take = picking.walks?.take ?? picking.pick;
    picking.hot = picking.walked = null;
    const problem = take?.(thing);
    if (problem) hint(problem);
    return true;
  }
  if (event.key === 'Enter' && !targetOf(event).closest('button, select, summary, a')) {
    keep();
    return true;
  }
  if (event.key === 'Enter' && targetOf(event).closest('.gap') && ready()) {
    keep();
    return true;
  }
  // once a plane or an axis is chosen, digits are numbers again
  const { digit } = listening;
  if (
    digit &&
    now.editors[now.active]?.unchosen?.() &&
    /^[1-9]$/.test(event.key) &&
    !targetOf(event).matches('input[type=text], input:not([type])')
  ) {
    digit(Number(event.key));
    return true;
  }
  // letters start a formula where one is asked for
  const asked = now.kind.blanks[now.active];
  if (
    asked &&
    ['length', 'angle', 'count'].includes(asked.type) &&
    /^\p{L}$/u.test(event.key) &&
    !event.altKey &&
    event.target === $('view')
  ) {
    const { node } = now.editors[now.active];
    node.focus();
    node.value = event.key;
    changed(now.active, event.key);
    return true;
  }
  const main = Object.keys(now.editors).find(n => now.kind.blanks[n].main);
  if (main && /^[0-9.]$/.test(event.key) && !targetOf(event).matches('input:not([type]), input.gap, select')) {
    now.editors[main].node.focus();
    now.editors[main].node.value = event.key;
    changed(main, event.key);
    return true;
  }
  return false;
});

// walking with ] and [: what is lit is named, and is what Enter takes. A blank that says nothing of walking is walked
// through as it is picked: what its list names, then what it takes of the solid.
let at = -1;
/** @param {number} by */
function walkOn(by) {
  const listed = [...$('bar').querySelectorAll('.picks label:not([hidden]) input')],
    things = picking.takes && picking.pick ? everything(picking.takes) : [],
    all = listed.length + things.length;
  if (!picking.walks && all) {
    const focused = listed.findIndex(input => input === document.activeElement);
    at = focused < 0 ? (at < listed.length ? (by > 0 ? -1 : 0) : at) : focused;
    at = (at + by + all) % all;
    if (at < listed.length) {
      picking.hot = picking.walked = null;
      emit('marked');
      listed[at].focus();
      hint(`${listed[at].closest('label')?.textContent ?? ''}: Enter takes it; ] and [ walk on`);
      return;
    }
    if (focused >= 0) $('view').focus({ preventScroll: true });
  }
  const thing = picking.walks ? picking.walks.walk(by) : things[at - listed.length];
  picking.walked = thing;
  picking.hot = thing?.what ? thing : null;
  emit('marked');
  hint(thing ? `${thing.says ?? nameOf(thing)}: Enter takes it; ] and [ walk on` : 'There is nothing here to walk to');
}
// arrow keys go through the things listed without choosing them; Space or Enter chooses
$('bar')
  .querySelector('.picks')
  .addEventListener('keydown', event => {
    const by = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (!targetOf(event).matches('input[type=radio], input[type=checkbox]')) return;
    if (event.key === 'Enter') {
      event.preventDefault();
      event.stopPropagation();
      // what is chosen already is not let go: whoever is done keeps, or is led to what is missing
      if (/** @type {HTMLInputElement} */ (targetOf(event)).checked) keep();
      else targetOf(event).click();
      return;
    }
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const all = [...$('bar').querySelectorAll('.picks label:not([hidden]) input')];
    all[(all.indexOf(targetOf(event)) + by + all.length) % all.length].focus();
  });
