// Parts of other models: chosen, brought as they are there, brought up to date.
import { $, html, targetOf } from '../core/dom.js';
import { S, on, part, parts } from '../core/state.js';
import { ask, edit, link } from '../core/api.js';
import { show } from './parts.js';

const dialog = $('elsewhere'),
  models = $('elsewhere-model'),
  offered = $('elsewhere-part'),
  says = $('elsewhere-says');

export async function chooseElsewhere() {
  const { models: found } = await ask('/elsewhere');
  says.textContent = found.length ? '' : 'There is no other model yet.';
  models.replaceChildren(...found.map(m => html('option', { value: m.id }, `${m.name} (${m.project})`)));
  offered.replaceChildren();
  $('elsewhere-bring').disabled = true;
  dialog.showModal();
  if (found.length) await partsOf();
}
async function partsOf() {
  const wanted = models.value;
  $('elsewhere-bring').disabled = true;
  const answer = await fetch(`/api/models/${wanted}`, { headers: { Accept: 'application/json' } });
  const found = await answer.json().catch(() => ({}));
  if (models.value !== wanted) return;
  if (!answer.ok) {
    says.textContent = found.message ?? 'This model cannot be read.';
    offered.replaceChildren();
    return;
  }
  /** @type {Told.PartTold[]} */
  const there = (found.parts ?? []).filter(
    (/** @type {Told.PartTold} */ p) => !p.gone && p.sort === 'part' && p.steps.length,
  );
  says.textContent = there.length ? '' : 'Nothing in it has steps that could be brought.';
  offered.replaceChildren(...there.map(p => html('option', { value: p.id }, p.name)));
  $('elsewhere-bring').disabled = !there.length;
}
models.addEventListener('change', () => partsOf().catch(() => {}));
$('elsewhere-drop').addEventListener('click', () => dialog.close());
dialog.querySelector('form').addEventListener('submit', async event => {
  event.preventDefault();
  const known = new Set(parts().map(p => p.id));
  dialog.close();
  await link(models.value, offered.value).catch(() => {});
  const fresh = parts().find(p => !known.has(p.id));
  if (fresh) await show(fresh.id);
});

// whether what comes from elsewhere is newer there
let asked = 0;
async function look() {
  const mine = ++asked,
    { linked } = part();
  if (!linked) return;
  const answer = await ask('/elsewhere').catch(() => null);
  const found = answer?.linked.find(l => l.part === S.partId),
    place = $('linked-newer');
  if (mine !== asked || !found || !place) return;
  if (found.newest === null || found.newest === undefined)
    place.textContent = 'That model is gone; it keeps its shape. ';
  else if (found.newest > found.revision)
    place.replaceChildren(
      `Revision ${found.newest} is newer there: `,
      html(
        'button',
        {
          class: 'fix',
          type: 'button',
          id: 'take-newer',
          onclick: () => link(found.model, found.at, S.partId).catch(() => {}),
        },
        'take it',
      ),
      ' ',
      html(
        'details',
        {},
        html('summary', {}, 'what changed there'),
        html('ul', {}, ...found.since.map(summary => html('li', {}, summary))),
      ),
    );
  else place.textContent = '';
}
on('build', look);
$('steps').addEventListener('click', event => {
  const id = targetOf(event).closest('[data-unlink]')?.dataset.unlink;
  if (id) edit({ kind: 'unlink_part', part: id }).catch(() => {});
});
