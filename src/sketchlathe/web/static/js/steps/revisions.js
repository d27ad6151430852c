// An older revision looked at without bringing it back: its solids in the view, its steps in words; the model stays
// as it is.
import { $, html, targetOf } from '../core/dom.js';
import { S } from '../core/state.js';
import { ask, restore } from '../core/api.js';
import { showTrial } from '../view/scene.js';
import { complain } from '../ui/messages.js';
import { button, endStandIn, standIn } from '../ui/standin.js';
import { closeBar } from './bar.js';

let asked = 0;

/** @param {number} number */
async function look(number) {
  if (S.mode === 'sketch') {
    complain('Keep or drop the open sketch first.');
    return;
  }
  closeBar();
  const mine = ++asked;
  const found = await ask(`/revisions/${number}/look`, { part: S.partId, ticket: 'look' }).catch(problem => {
    if (mine === asked) complain(problem.message);
    return null;
  });
  if (mine !== asked || !found) return;
  /** @param {number} to @param {string} word @param {string} title */
  const go = (to, word, title) =>
    button(word, () => (to === S.model.revision ? endStandIn() : look(to)), {
      title,
      disabled: to < 1 || to > S.model.revision,
    });
  standIn({
    label: 'An older revision',
    nodes: [
      html(
        'p',
        { role: 'status' },
        html('b', {}, `Revision ${number}, as it was`),
        ...found.facts.map(([what, text]) => html('span', {}, `${what} `, html('span', { class: 'num' }, text))),
        ...(found.facts.length ? [] : [html('span', {}, 'no solid')]),
      ),
      html(
        'div',
        { class: 'ends' },
        go(number - 1, '‹ older', 'The revision before'),
        go(number + 1, 'newer ›', 'The revision after'),
        button(
          'Bring it back',
          () => {
            endStandIn();
            restore(number);
          },
          { id: 'older-back' },
        ),
        button('Back to now', endStandIn, { id: 'older-end', class: 'btn k' }),
      ),
    ],
    ended: () => {
      asked += 1;
      document.body.classList.remove('looking');
    },
  });
  asked = mine;
  document.body.classList.add('looking');
  showSteps(`Steps of revision ${number}`, found);
  await showTrial(found.bodies);
  if (!$('older').contains(document.activeElement)) $('older-end').focus({ preventScroll: true });
}
// steps of another state in words, in place of those of now
/** @param {string} title @param {{ steps: any[], parameters: any[] }} state */
export function showSteps(title, { steps, parameters }) {
  $('older-steps').replaceChildren(
    html('h2', {}, title),
    html(
      'ol',
      {},
      ...steps.map((s, i) =>
        html(
          'li',
          { class: `step ${s.out ? 'out' : ''}` },
          html('span', { class: 'n' }, String(i + 1)),
          html('div', { class: 'say' }, s.text),
        ),
      ),
    ),
    ...(parameters.length ? [html('p', { class: 'num px-1' }, parameters.join(', '))] : []),
  );
}
$('revisions').addEventListener('click', event => {
  const b = targetOf(event).closest('[data-look]');
  if (b) look(Number(b.dataset.look));
});
