// The sentence bar by keyboard: Enter and Escape, walking through what can be picked, digits and formulas.
import { $, targetOf } from '../core/dom.js';
import { S, emit } from '../core/state.js';
import { hint } from '../ui/messages.js';
import { onKey } from '../ui/keys.js';
import { activate, changed, drop, keep } from './bar.js';
import { listening, now, picking, ready } from './filling.js';
import { nameOf } from './names.js';

onKey(event => {
  if (!now || S.mode === 'sketch' || targetOf(event).closest('dialog')) return false;
  // another form is being filled
  if (targetOf(event).matches('input, select, textarea') && !targetOf(event).closest('#bar')) return false;
  if (event.key === 'Escape') {
    drop();
    return true;
  }
  if (picking.walks && (event.key === ']' || event.key === '[')) {
    walkOn(event.key === ']' ? 1 : -1);
    return true;
  }
  if (picking.walks && picking.walked && event.key === 'Enter') {
    const thing = picking.walked;
    picking.hot = picking.walked = null;
    const problem = picking.walks.take(thing);
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
    activate(main);
    now.editors[main].node.value = event.key;
    changed(main, event.key);
    return true;
  }
  return false;
});

// walking with ] and [: what is lit is named, and is what Enter takes
/** @param {number} by */
function walkOn(by) {
  const thing = picking.walks?.walk(by);
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
      targetOf(event).click();
      return;
    }
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const all = [...$('bar').querySelectorAll('.picks input')];
    all[(all.indexOf(targetOf(event)) + by + all.length) % all.length].focus();
  });
