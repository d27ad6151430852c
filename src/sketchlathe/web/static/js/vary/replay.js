// Replay: the revisions of the model played in the view, each with its words; taken out as an animated picture.
import { $, html, sought } from '../core/dom.js';
import { S } from '../core/state.js';
import { ask, restore, settled } from '../core/api.js';
import { showTrial } from '../view/scene.js';
import { complain } from '../ui/messages.js';
import { button, endStandIn, say, standIn } from '../ui/standin.js';
import { showSteps } from '../steps/revisions.js';
import { closeBar } from '../steps/bar.js';

const PACE = 900; // ms a revision
let open = false,
  /** @type {any[]} */
  states = [],
  at = 1,
  playing = false,
  asked = 0,
  /** @type {any} */
  film = { state: 'none' },
  clock = 0;

const looks = new Map(); // revision → what it looked like, on its way or there
/** @param {number} number */
const look = number => {
  if (!looks.has(number))
    looks.set(
      number,
      ask(`/revisions/${number}/look`, { part: S.partId, ticket: `replay${number % 2}` }).catch(problem => {
        looks.delete(number);
        throw problem;
      }),
    );
  return looks.get(number);
};
/** @param {number} to */
async function go(to) {
  const mine = ++asked;
  at = Math.min(Math.max(1, to), S.model.revision);
  fill();
  const found = await look(at).catch(() => null);
  if (mine !== asked || !open) return;
  if (found) {
    showSteps(`Steps of revision ${at}`, found);
    await showTrial(found.bodies);
  }
  if (playing && at < S.model.revision) look(at + 1).catch(() => {});
}
async function play() {
  playing = true;
  if (at === S.model.revision) at = 0;
  while (playing && open && at < S.model.revision) {
    const began = performance.now();
    await go(at + 1);
    await new Promise(done => {
      setTimeout(done, Math.max(0, PACE - (performance.now() - began)));
    });
  }
  playing = false;
  if (open) fill();
}
const busy = () => ['waiting', 'running'].includes(film.state);
function makers() {
  if (busy())
    return [
      html(
        'span',
        { role: 'status' },
        film.of ? `making the film: ${film.done ?? 0} of ${film.of}` : 'making the film…',
      ),
      button('Stop', () => ask(`/replay/${S.partId}/stop`, {}).then(watch)),
    ];
  const kind = html(
    'select',
    { class: 'gap', id: 'replay-kind', 'aria-label': 'Kind of animated picture' },
    html('option', { value: 'gif' }, 'GIF'),
    html('option', { value: 'png' }, 'PNG, animated'),
  );
  return [
    ...(film.url
      ? [html('a', { class: 'fix', href: film.url, download: '', id: 'replay-file' }, 'take the film out')]
      : []),
    html('span', {}, 'as '),
    kind,
    button('Make a film', () => make(kind.value), { id: 'replay-make' }),
  ];
}
/** @param {string} kind */
async function make(kind) {
  try {
    film = await ask('/replay', { part: S.partId, kind });
  } catch (/** @type {any} */ problem) {
    complain(problem.message);
  }
  watch();
}
async function watch() {
  clearTimeout(clock);
  film = await ask(`/replay/${S.partId}`).catch(() => film);
  if (!open) return;
  if (film.problem) complain(film.problem);
  fill();
  if (busy()) clock = setTimeout(watch, 700);
}
function fill() {
  const said = states.find(r => r.number === at);
  const slider = html('input', {
    type: 'range',
    id: 'replay-at',
    min: 1,
    max: S.model.revision,
    value: at,
    'aria-label': 'Revision',
    oninput: () => {
      playing = false;
      go(Number(slider.value));
    },
  });
  slider.setAttribute('aria-valuetext', `revision ${at}: ${said?.summary ?? ''}`);
  say([
    button(playing ? 'Pause' : 'Play', () => (playing ? (playing = false) : play()), { id: 'replay-play' }),
    slider,
    html(
      'p',
      { class: 'tally', 'aria-live': 'polite' },
      html('b', { class: 'num' }, String(at)),
      html('span', { class: 'words' }, said?.summary ?? ''),
    ),
    html(
      'div',
      { class: 'ends' },
      ...makers(),
      ...(at < S.model.revision
        ? [
            button('Bring it back', () => {
              const number = at;
              endStandIn();
              restore(number);
            }),
          ]
        : []),
      button('Done', endStandIn, { class: 'btn k', id: 'older-end' }),
    ),
  ]);
}
$('replay').addEventListener('click', async () => {
  if (S.mode === 'sketch') {
    complain('Keep or drop the open sketch first.');
    return;
  }
  closeBar();
  await settled();
  const told = await ask('/states').catch(problem => {
    complain(problem.message);
    return null;
  });
  if (!told) return;
  states = told.revisions;
  open = true;
  at = 1;
  looks.clear();
  standIn({
    label: 'Replay',
    nodes: [],
    ended: () => {
      open = false;
      playing = false;
      asked += 1;
      clearTimeout(clock);
      document.body.classList.remove('looking');
    },
  });
  document.body.classList.add('looking');
  watch();
  play();
  sought('replay-play')?.focus({ preventScroll: true });
});
