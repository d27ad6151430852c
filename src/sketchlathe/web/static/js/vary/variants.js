// Variants: a table of named sets of values; each row with its picture and what it comes to.
import { $, html, targetOf } from '../core/dom.js';
import { S, kinds, on, part, pictureOf } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { recall } from '../core/kept.js';
import { complain } from '../ui/messages.js';

const dialog = $('variants-dialog');
/** @type {any} */
let table = null,
  facts = new Map(), // of a revision: variant → what it comes to
  factsOf = '',
  asking = 0,
  chosen = new Set();
/** @param {number} s */
const said = s =>
  s >= 3600
    ? `${Math.floor(s / 3600)} h ${String(Math.round((s % 3600) / 60)).padStart(2, '0')}`
    : `${Math.max(1, Math.round(s / 60))} min`;

async function load() {
  table = await ask(`/variants/${S.partId}`).catch(problem => {
    complain(problem.message);
    return null;
  });
  const mine = `${S.partId} ${table?.revision}`;
  if (mine !== factsOf) {
    facts = new Map();
    factsOf = mine;
  }
  fill();
  reckon();
}
// one after the other, those that are looked at; the table fills as they come
async function reckon() {
  const mine = ++asking;
  const process = recall('process', {});
  for (const row of table?.rows ?? []) {
    if (mine !== asking || !dialog.open) return;
    if (facts.has(row.id)) continue;
    const got = await ask(`/variants/${S.partId}/${row.id}`, { process, ticket: 'variants' }).catch(problem => ({
      holds: false,
      where: '',
      why: problem.message,
    }));
    if (mine !== asking) return;
    facts.set(row.id, got);
    cells(row.id);
  }
}
/** @param {string} id */
function outcome(id) {
  const got = facts.get(id);
  if (!got) return [html('td', { class: 'wait', colspan: 4 }, 'building…')];
  if (!got.holds)
    return [
      html(
        'td',
        { class: 'bad', colspan: 4 },
        html('b', {}, `✗ ${got.where || 'not made'} `),
        html('small', {}, got.why),
      ),
    ];
  return [
    html('td', { class: 'num' }, got.facts.mass ?? ''),
    html('td', { class: 'num' }, got.facts.volume ?? ''),
    html('td', { class: 'num' }, got.facts.box ?? ''),
    html('td', { class: 'num' }, got.seconds === undefined ? '' : said(got.seconds)),
  ];
}
/** @param {string} id */
function cells(id) {
  const tr = dialog.querySelector(`tr[data-variant="${id}"]`);
  if (!tr) return;
  for (const td of [...tr.querySelectorAll('.came > *, td.came')]) td.remove();
  for (const td of outcome(id)) {
    td.classList.add('came');
    tr.insertBefore(td, tr.lastElementChild);
  }
  const image = tr.querySelector('img');
  if (facts.get(id)?.holds && !image.src)
    image.src = pictureOf(table.revision, [{ kind: 'take_variant', variant: id }]);
}
/** @param {object} what */
const change = what => edit(what, true).catch(problem => complain(problem.message));
/** @param {any} row @param {string} head @param {string} text */
function place(row, head, text) {
  const input = html('input', {
    class: head === 'variant' ? '' : 'num',
    value: text,
    maxlength: 400,
    autocomplete: 'off',
    'aria-label': `${head} of ${row.name}`,
    placeholder: head === 'variant' ? '' : 'as now',
    'data-place': `${row.id} ${head}`,
    onchange: () => change({ kind: 'set_variant', variant: row.id, head, text: input.value, part: S.partId }),
  });
  return input;
}
function fill() {
  if (!table) return;
  const at = document.activeElement?.dataset?.place;
  const extra = ['mass', 'volume', 'box', 'prints in'];
  $('variants-table').replaceChildren(
    html(
      'thead',
      {},
      html(
        'tr',
        {},
        html('th', {}, html('span', { class: 'visually-hidden' }, 'take out')),
        html('th', {}, html('span', { class: 'visually-hidden' }, 'picture')),
        ...[...table.heads, ...extra].map(h => html('th', { scope: 'col', class: h === 'variant' ? '' : 'num' }, h)),
        html('th', {}, html('span', { class: 'visually-hidden' }, 'what to do')),
      ),
    ),
    html(
      'tbody',
      {},
      ...table.rows.map((/** @type {any} */ row) => {
        const tr = html(
          'tr',
          { 'data-variant': row.id, class: row.taken ? 'taken' : '' },
          html(
            'td',
            {},
            html('input', {
              type: 'checkbox',
              'aria-label': `Take out ${row.name}`,
              checked: chosen.has(row.id),
              onchange: e => {
                chosen[e.target.checked ? 'add' : 'delete'](row.id);
                ends();
              },
            }),
          ),
          html('td', {}, html('img', { width: 75, height: 45, alt: '' })),
          ...table.heads.map((/** @type {string} */ h, /** @type {number} */ i) =>
            html('td', {}, place(row, h, row.texts[i])),
          ),
          html(
            'td',
            { class: 'acts' },
            row.taken
              ? html('span', { class: 'isnow' }, 'is now')
              : html(
                  'button',
                  {
                    class: 'fix',
                    type: 'button',
                    title: `Give the model the values of ${row.name}`,
                    onclick: () => change({ kind: 'take_variant', variant: row.id }),
                  },
                  'take',
                ),
            ' ',
            html(
              'button',
              {
                class: 'fix',
                type: 'button',
                title: `Copy ${row.name}`,
                'aria-label': `Copy ${row.name}`,
                onclick: () => change({ kind: 'add_variant', like: row.id }),
              },
              'copy',
            ),
            ' ',
            html(
              'button',
              {
                class: 'iconbtn',
                type: 'button',
                title: `Delete ${row.name}`,
                'aria-label': `Delete ${row.name}`,
                onclick: () => change({ kind: 'delete_variant', variant: row.id }),
              },
              '✕',
            ),
          ),
        );
        return tr;
      }),
    ),
  );
  for (const row of table.rows) cells(row.id);
  $('variants-empty').hidden = table.rows.length > 0;
  if (at) dialog.querySelector(`[data-place="${CSS.escape(at)}"]`)?.focus();
  ends();
}
function ends() {
  const few = chosen.size && chosen.size < (table?.rows.length ?? 0);
  $('variants-out').textContent = few ? `Take out ${chosen.size}` : 'Take out all';
  $('variants-out').disabled = !table?.rows.length;
  $('variants-csv').hidden = !table?.rows.length;
  $('variants-csv').href = `/models/${S.model.id}/variants/${S.partId}/table.csv`;
}
/** @param {string} text */
async function bring(text) {
  await edit({ kind: 'bring_variants', part: S.partId, table: text }, true).then(
    () => {
      $('variants-says').textContent = '';
      $('variants-paste').open = false;
      $('variants-text').value = '';
    },
    problem => {
      $('variants-says').textContent = problem.message;
    },
  );
}
$('variants-open').addEventListener('click', () => {
  dialog.showModal();
  load();
});
$('variants-close').addEventListener('click', () => dialog.close());
dialog.addEventListener('close', () => {
  asking += 1;
  ask('/stop', { ticket: 'variants' }).catch(() => {});
});
$('variants-add').addEventListener('click', () => change({ kind: 'add_variant' }));
$('variants-bring').addEventListener('click', () => bring($('variants-text').value));
$('variants-file').addEventListener('change', async () => {
  const [file] = $('variants-file').files;
  $('variants-file').value = '';
  if (file) bring(await file.text());
});
// of each variant a file of the part, or its sheet
function offerFormats() {
  const of = part().sort === 'sheet' ? 'sheet' : 'part';
  $('variants-format').replaceChildren(
    ...kinds.formats
      .filter(f => f.of === of)
      .map(f => html('option', { value: f.kind, selected: f.kind === 'stl' }, f.word)),
  );
}
on('part', offerFormats);
offerFormats();
$('variants-out').addEventListener('click', async () => {
  const only = chosen.size && chosen.size < table.rows.length ? `&only=${[...chosen].join(',')}` : '';
  $('variants-out').disabled = true;
  $('variants-says').textContent = 'Making the files…';
  try {
    const answer = await fetch(
      `/models/${S.model.id}/variants/${S.partId}/take-out/${$('variants-format').value}?ticket=variants${only}`,
      { headers: { Accept: 'application/json' } },
    );
    if (!answer.ok) throw new Error((await answer.json().catch(() => ({}))).message ?? 'The files could not be made.');
    const name = /filename="([^"]+)"/.exec(answer.headers.get('Content-Disposition') ?? '')?.[1] ?? 'variants.zip';
    const link = html('a', { href: URL.createObjectURL(await answer.blob()), download: name });
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 60000);
    $('variants-says').textContent = `${name} was taken out.`;
  } catch (/** @type {any} */ problem) {
    $('variants-says').textContent = problem.message;
  }
  ends();
});
// the short list beside the view
$('variants').addEventListener('click', async event => {
  const id = targetOf(event).closest('[data-take-variant]')?.dataset.takeVariant;
  if (id) await edit({ kind: 'take_variant', variant: id }).catch(() => {});
});
on('model', () => {
  if (dialog.open) load();
});
on('part', () => {
  facts = new Map();
  chosen = new Set();
});
