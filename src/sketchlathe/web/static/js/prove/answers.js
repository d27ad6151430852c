// Answer check: what is expected, whether the part agrees, and what would account for a difference.
import { $, html, sought, targetOf } from '../core/dom.js';
import { S, on, there } from '../core/state.js';
import { ask, edit, whereAt } from '../core/api.js';
import { complain } from '../ui/messages.js';
import { reveal } from '../steps/list.js';

const box = $('answers'),
  me = `x${Math.random().toString(36).slice(2, 9)}`;
let adding = false,
  /** @type {any[] | null} */
  causes = null,
  /** @type {any} */
  looking = null,
  revision = 0;

box.addEventListener('click', async event => {
  if (targetOf(event).closest('#add-answer')) {
    adding = true;
    open();
    box.querySelector('.answer:has(input[value=""]) input, .answer input')?.focus();
  }
  if (targetOf(event).closest('#explain')) why();
});
function open() {
  for (const row of box.querySelectorAll('.answer')) row.hidden = false;
}
box.addEventListener('change', async event => {
  const row = targetOf(event).closest('.answer');
  if (!row) return;
  const fields = [...row.querySelectorAll('input')],
    [text, tolerance] = fields.map(n => n.value);
  if (!text.trim() && tolerance) return; // the tolerance came first
  // Enter and then leaving the field are one answer
  if (fields.every(n => n.value === n.defaultValue)) return;
  const before = fields.map(n => n.defaultValue);
  for (const n of fields) n.defaultValue = n.value;
  await edit({ kind: 'set_answer', part: S.partId, what: row.dataset.what, text, tolerance }).catch(() => {
    fields.forEach((n, i) => {
      n.defaultValue = before[i];
    });
    fields[0].focus();
  });
});
box.addEventListener('keydown', event => {
  if (!targetOf(event).matches('.answer input')) return;
  if (event.key === 'Enter') {
    event.preventDefault();
    targetOf(event).dispatchEvent(new Event('change', { bubbles: true }));
  }
  if (event.key === 'Escape') {
    event.stopPropagation();
    targetOf(event).value = targetOf(event).defaultValue;
    targetOf(event).blur();
  }
});
// typing goes on where it was when the panel is filled again
/** @type {any} */
let at = null;
box.addEventListener('lathe:filling', () => {
  const a = document.activeElement;
  at =
    a && box.contains(a) && a.matches('input')
      ? [
          there(a.closest('.answer')).dataset.what,
          a.classList.contains('within'),
          a.value === a.defaultValue ? null : a.value,
        ]
      : null;
});
box.addEventListener('lathe:filled', () => {
  if (adding) open();
  const field = at && box.querySelector(`.answer[data-what="${at[0]}"] input${at[1] ? '.within' : ''}`);
  if (field) {
    if (at[2] !== null) field.value = at[2];
    field.focus();
  }
  if (looking) {
    sought('causes')?.replaceChildren(looking);
    if (sought('explain')) $('explain').disabled = true;
  } else if (causes && revision === S.model.revision) list();
});
on('model', () => {
  if (revision !== S.model.revision) causes = null;
});

async function why() {
  if (looking) return;
  revision = S.model.revision;
  let done = false;
  $('explain').disabled = true;
  const stop = html('button', { class: 'btn', type: 'button', onclick: () => ask('/stop', { ticket: me }) }, 'Stop');
  const says = html('span', { class: 'text-secondary-emphasis' }, 'looking…');
  looking = html('li', {}, says, ' ', stop);
  $('causes').replaceChildren(looking);
  $('causes').scrollIntoView({ block: 'nearest' });
  (async () => {
    while (!done) {
      await new Promise(r => setTimeout(r, 400));
      const now = await whereAt(me);
      if (!done && now.title) says.textContent = `${now.title} (${(now.number ?? 0) + 1} of ${now.count})`;
    }
  })();
  try {
    causes = await ask('/explain', { part: S.partId, ticket: me });
  } catch (/** @type {any} */ problem) {
    causes = null;
    if (problem.status !== 499) complain(problem.message);
  }
  done = true;
  looking = null;
  if (revision !== S.model.revision) causes = null; // of a part that is no longer so
  if (sought('explain')) $('explain').disabled = false;
  if (sought('causes')) list();
}
function list() {
  if (!sought('causes')) return;
  requestAnimationFrame(() => sought('causes')?.scrollIntoView({ block: 'nearest' }));
  $('causes').replaceChildren(
    ...(causes ?? [])
      .slice(0, 5)
      .map(c =>
        html(
          'li',
          {},
          c.text,
          ...(c.edits.length
            ? [
                ' ',
                html(
                  'button',
                  {
                    class: 'fix',
                    type: 'button',
                    onclick: () => edit({ kind: 'together', edits: c.edits, word: c.fix }).catch(() => {}),
                  },
                  c.fix,
                ),
              ]
            : []),
          ...(c.steps.length
            ? [' ', html('button', { class: 'fix', type: 'button', onclick: () => reveal(c.steps[0]) }, 'show')]
            : []),
        ),
      ),
    ...(causes && !causes.length
      ? [html('li', {}, 'No single step, size, unit or material accounts for it: there may be more than one slip.')]
      : []),
  );
}
