// The exercise this model is for: is it right, why not, hand in; its drawing pinned beside the work.
import { $, sought, targetOf } from '../core/dom.js';
import { S, partMeant } from '../core/state.js';
import { ask } from '../core/api.js';
import { local } from '../times.js';
import { complain, say } from '../ui/messages.js';
import { toggle } from '../view/pinned.js';

const box = sought('exercise'),
  me = `x${Math.random().toString(36).slice(2, 9)}`;
let asking = false;

/** @param {Told.ExerciseTold} told */
function fill(told) {
  if (!box) return;
  const focused = box.contains(document.activeElement) ? document.activeElement?.id : '';
  box.innerHTML = told.html;
  local(box);
  if (focused) sought(focused)?.focus();
  if (told.looking) setTimeout(look, 1500);
}
// a reason is looked for in the background
async function look() {
  try {
    fill(await ask('/exercise'));
  } catch {
    setTimeout(look, 6000);
  }
}
/** @param {string} what @param {string} done */
async function send(what, done, body = {}) {
  if (asking) return;
  asking = true;
  box?.setAttribute('aria-busy', 'true');
  try {
    fill(await ask(`/exercise/${what}`, { part: partMeant(), ticket: me, ...body }));
    if (done) say(done);
  } catch (/** @type {any} */ problem) {
    complain(problem.message);
  }
  asking = false;
  box?.removeAttribute('aria-busy');
}
box?.addEventListener('click', event => {
  const on = /** @param {string} what */ what => targetOf(event).closest(what);
  if (on('#try-answer')) send('answer', '');
  if (on('#hand-it-in')) send('hand-in', `Handed in: revision ${S.model.revision}.`);
  if (on('.withdraw')) send('withdraw', 'Withdrawn.', { id: on('.withdraw')?.dataset.id });
  if (on('#pin-task')) toggle($('pin-task').dataset.src ?? '');
});
if (box) {
  local(box);
  if (box.querySelector('.reason')) look();
}
