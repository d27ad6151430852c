// On a copy made to try something: what was changed here, taken back into the original one by one.
import { $, html, sought } from '../core/dom.js';
import { on } from '../core/state.js';
import { ask } from '../core/api.js';
import { complain, say } from '../ui/messages.js';

const chosen = new Set();
/** @type {any} */
let known = null,
  asked = 0;
async function load() {
  if (!sought('tried-panel')) return;
  const mine = ++asked;
  const found = await ask('/tried').catch(() => null);
  if (mine !== asked || !found) return;
  known = found;
  fill();
}
function fill() {
  const { origin, changes } = known;
  if (!origin) {
    $('tried').replaceChildren('What this was copied from is gone.');
    return;
  }
  /** @param {any} c */
  const row = c =>
    html(
      'li',
      {},
      html(
        'label',
        {},
        html('input', {
          type: 'checkbox',
          checked: chosen.has(c.key),
          onchange: e => {
            chosen[e.target.checked ? 'add' : 'delete'](c.key);
            fill();
          },
        }),
        ` ${c.text}`,
      ),
      ...(c.conflict ? [html('small', { class: 'clash' }, `▲ changed there too: ${c.conflict}`)] : []),
    );
  const count = changes.filter((/** @type {any} */ c) => chosen.has(c.key)).length;
  $('tried').replaceChildren(
    html(
      'p',
      { class: 'mb-1' },
      'A copy of ',
      html('a', { href: origin.url }, origin.name),
      `, revision ${origin.revision}${origin.newest > origin.revision ? `; it is at ${origin.newest} now` : ''}.`,
    ),
    changes.length
      ? html('ul', { class: 'trieds' }, ...changes.map(row))
      : html('p', { class: 'mb-0 text-secondary-emphasis' }, 'Nothing is different here yet.'),
    ...(changes.length
      ? [
          html(
            'button',
            { class: 'btn', type: 'button', id: 'take-back', disabled: !count, onclick: back },
            count ? `Take ${count} back into it` : 'Take back…',
          ),
        ]
      : []),
  );
}
async function back() {
  try {
    const told = await ask('/tried/take-back', {
      keys: known.changes.map((/** @type {any} */ c) => c.key).filter((/** @type {string} */ k) => chosen.has(k)),
    });
    chosen.clear();
    say(`“${told.name}” has it now, as revision ${told.revision}.`);
    await load();
  } catch (/** @type {any} */ problem) {
    complain(problem.message);
  }
}
on('model', load);
load();
