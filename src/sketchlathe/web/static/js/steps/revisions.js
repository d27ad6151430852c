// An older revision looked at without bringing it back: its solids in the view, its steps in words; the model stays
// as it is.
import { $, S, emit, html, on } from '../core/state.js';
import { ask, restore } from '../core/api.js';
import { endPreview, showTrial } from '../view/scene.js';
import { complain } from '../ui/messages.js';
import { closeBar } from './bar.js';
import { onKey } from '../ui/keys.js';

let looking = null,
  asked = 0;

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
  looking = number;
  document.body.classList.add('looking');
  const go = (to, word, title) =>
    html(
      'button',
      {
        class: 'btn',
        type: 'button',
        title,
        disabled: to < 1 || to > S.model.revision,
        onclick: () => (to === S.model.revision ? end() : look(to)),
      },
      word,
    );
  $('older').hidden = false;
  $('older').replaceChildren(
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
      html(
        'button',
        {
          class: 'btn',
          type: 'button',
          id: 'older-back',
          onclick: () => {
            end();
            restore(number);
          },
        },
        'Bring it back',
      ),
      html('button', { class: 'btn k', type: 'button', id: 'older-end', onclick: end }, 'Back to now'),
    ),
  );
  $('older-steps').replaceChildren(
    html('h2', {}, `Steps of revision ${number}`),
    html(
      'ol',
      {},
      ...found.steps.map((s, i) =>
        html(
          'li',
          { class: `step ${s.out ? 'out' : ''}` },
          html('span', { class: 'n' }, String(i + 1)),
          html('div', { class: 'say' }, s.text),
        ),
      ),
    ),
    ...(found.parameters.length ? [html('p', { class: 'num px-1' }, found.parameters.join(', '))] : []),
  );
  await showTrial(found.bodies);
  if (!$('older').contains(document.activeElement)) $('older-end').focus({ preventScroll: true });
}
function end() {
  asked += 1;
  if (looking === null) return;
  looking = null;
  document.body.classList.remove('looking');
  $('older').hidden = true;
  endPreview();
  emit('marked');
}
$('revisions').addEventListener('click', event => {
  const b = event.target.closest('[data-look]');
  if (b) look(Number(b.dataset.look));
});
// whatever else begins ends it
for (const name of ['model', 'mode', 'bar']) on(name, end);
onKey(event => {
  if (looking === null || event.key !== 'Escape' || event.target.closest('dialog')) return false;
  end();
  $('view').focus({ preventScroll: true });
  return true;
});
