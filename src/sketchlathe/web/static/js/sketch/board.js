// The open sketch: opening it, keeping or dropping it, leaving it.
import { $, html } from '../core/dom.js';
import { S, emit, frameOf, on, openSketch, step, there, may } from '../core/state.js';
import { ask, edit, restore, settled } from '../core/api.js';
import { build } from '../core/building.js';
import { camera } from '../view/camera.js';
import { lookBack, straightOn } from '../view/controls.js';
import { complain, hint, question, say } from '../ui/messages.js';
import { ways } from '../ui/keys.js';
import { closeChannel, openChannel } from './channel.js';
import { forgetClick } from './choosing.js';
import { draft, redraw, showUnused } from './layer.js';
import { readouts } from './readouts.js';
import * as taking from './taking.js';
import { putDown } from './tray.js';

const view = $('view');
/** @type {number | null} */
let before = null; // the revision from which Drop can return
let fresh = false; // whether the open sketch was only just begun
/** @type {{ az: number, el: number } | null} */
let looked = null; // from where the part was looked at before

/** @param {string} id */
export async function open(id, made = false) {
  await settled();
  try {
    S.sketch = await ask(`/sketches/${id}`);
  } catch (/** @type {any} */ problem) {
    // it may have been taken back while it was asked for
    complain(problem.message);
    return;
  }
  for (let i = 0; i < 50 && !frameOf(id); i += 1) {
    await build();
    if (!frameOf(id)) await new Promise(r => setTimeout(r, 100));
  }
  if (S.sketch?.id !== id) return; // taken back, or another one opened, meanwhile
  S.frame = frameOf(id);
  if (!S.frame) {
    S.sketch = null;
    complain('This sketch has no plane to lie on yet; see its step.');
    return;
  }
  before = S.model.revision;
  fresh = made;
  looked = { az: camera.az, el: camera.el };
  S.mode = 'sketch';
  S.selection = [];
  S.fights = [];
  S.hot = null;
  showUnused();
  view.classList.add('drawing');
  $('tray-solid').hidden = true;
  $('tray-sketch').hidden = false;
  $('start').hidden = true;
  emit('mode');
  sketchBar();
  openChannel();
  taking.prepare();
  straightOn();
  readouts();
  theirs = [];
  hint(may('change') ? 'Draw with a tool below, or drag what is free. Start from the origin.' : '');
  view.focus({ preventScroll: true });
}
// what others changed since the sketch was opened
/** @type {string[]} */
let theirs = [];
on('came', since => theirs.unshift(...since));
function sketchBar() {
  const bar = $('bar'),
    s = there(step(openSketch().id));
  bar.hidden = false;
  bar.dataset.for = 'sketch';
  bar
    .querySelector('.row1')
    .replaceChildren(
      html('b', {}, s.title),
      `on the ${s.words.plane}`,
      html(
        'button',
        {
          class: 'btn k',
          type: 'button',
          id: 'keep-sketch',
          'data-chord': 'ok',
          'data-name': 'Keep the sketch',
          title: 'Keep (o k): leave the sketch as it is',
          onclick: keep,
        },
        may('change') ? 'Keep ⏎' : 'Done ⏎',
      ),
      html(
        'button',
        {
          class: 'btn',
          type: 'button',
          id: 'drop-sketch',
          title: 'Drop: back to what was before it was opened',
          onclick: drop,
        },
        'Drop',
      ),
    );
  bar.querySelector('.picks').replaceChildren();
  bar.querySelector('.why').replaceChildren();
}
export async function keep() {
  await settled();
  leave();
  build();
}
// from an open sketch straight to thickness: a solid tool keeps it and goes on with what it encloses
ways.push(node =>
  S.mode === 'sketch' && node.matches('[data-step].tool')
    ? async () => {
        putDown();
        await keep();
        node.click();
      }
    : null,
);
async function drop() {
  await settled();
  if (!S.sketch) return;
  const { id } = S.sketch;
  if (S.model.revision !== before) {
    const yes = await question(
      'Drop what was drawn?',
      theirs.length
        ? 'The model goes back to what it was before the sketch was opened, and with it what others changed since ' +
            `(${theirs.slice(0, 3).join('; ')}). All of it stays among the revisions.`
        : 'The sketch goes back to what it was before it was opened. What was drawn stays among the revisions.',
      [['yes', theirs.length ? 'Drop all of it' : 'Drop']],
    );
    if (!yes) return;
    if (!fresh) await restore(there(before));
  }
  // one that was only just begun goes as a whole: no empty step stays behind
  leave();
  if (fresh && step(id))
    await edit({ kind: 'delete_step', step: id, with_users: false, leave_users: true }).catch(() => {});
}
function leave() {
  putDown();
  closeChannel();
  lookBack(looked);
  S.sketch = null;
  S.frame = null;
  S.mode = 'solid';
  S.selection = [];
  draft.nodes = [];
  view.classList.remove('drawing');
  $('tray-solid').hidden = false;
  $('tray-sketch').hidden = true;
  $('bar').hidden = true;
  $('sketch-panel').hidden = true;
  $('selection-panel').hidden = true;
  emit('mode');
  redraw();
  hint('');
  forgetClick();
}
on('sketch-gone', () => {
  if (!S.sketch) return;
  hint('');
  leave();
  say('The sketch was taken back; Redo brings it again.', [['Redo', () => $('redo').click()]]);
});
