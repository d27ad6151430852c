// The buttons of the sketch tray: each puts down what was in hand and takes up its own.
import { $ } from '../core/dom.js';
import { S } from '../core/state.js';
import * as acts from './acts.js';
import { chain, remove, toggleConstruction } from './choosing.js';
import * as dimension from './dimension.js';
import { stopSwing } from './helping.js';
import { constrain, holding } from './holding.js';
import * as taking from './taking.js';
import * as tool from './tool.js';

const view = $('view');

export function putDown() {
  tool.stop();
  acts.stop();
  taking.stop();
  dimension.stop();
  holding.stop();
  stopSwing();
}
$('take').addEventListener('click', () => {
  const on = taking.active();
  putDown();
  if (!on) taking.start();
  view.focus({ preventScroll: true });
});
for (const button of document.querySelectorAll('[data-tool]'))
  button.addEventListener('click', () => {
    const same = tool.active()?.family === button.dataset.family && !button.classList.contains('only-chord');
    putDown();
    view.focus({ preventScroll: true });
    if (!same) tool.start(button.dataset.tool);
  });
for (const button of document.querySelectorAll('[data-act]'))
  button.addEventListener('click', () => {
    const chosen = S.selection;
    putDown();
    S.selection = chosen;
    view.focus({ preventScroll: true });
    acts.start(Number(button.dataset.act));
  });
$('dimension-tool').addEventListener('click', () => {
  const on = dimension.active(),
    chosen = S.selection;
  putDown();
  S.selection = chosen;
  if (!on) dimension.start();
  view.focus({ preventScroll: true });
});
$('copy').addEventListener('click', acts.copy);
$('paste').addEventListener('click', acts.paste);
$('chain').addEventListener('click', chain);
for (const button of document.querySelectorAll('[data-constraint]'))
  button.addEventListener('click', () => {
    const chosen = S.selection;
    $('constrain-menu').open = false;
    putDown();
    S.selection = chosen;
    constrain(button.dataset.constraint);
    view.focus({ preventScroll: true });
  });
$('delete').addEventListener('click', remove);
$('construction').addEventListener('click', toggleConstruction);
