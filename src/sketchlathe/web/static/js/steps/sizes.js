// A table of sizes in which a model may have its own values.
import { $, html } from '../core/dom.js';
import { S, kinds } from '../core/state.js';
import { edit } from '../core/api.js';
import { bare } from '../core/units.js';

const dialog = $('bores'),
  form = dialog.querySelector('form'),
  rows = $('bores-rows');
let table = '',
  /** @type {(() => void) | null} */
  then = null;

// opens the table; `after` is called once something was changed
/** @param {string} key @param {() => void} after */
export function changeSizes(key, after) {
  table = key;
  then = after;
  const { title, of, source, usual } = kinds.tables[key],
    own = S.model.sizes[key] ?? {};
  $('bores-title').textContent = title;
  $('bores-source').textContent = source;
  $('bores-says').textContent = '';
  $('bores-of').textContent = `this model’s ${of}`;
  rows.replaceChildren(
    ...Object.entries(usual).map(([name, mm]) =>
      html(
        'tr',
        {},
        html('th', { scope: 'row' }, name),
        html('td', { class: 'num' }, bare(mm)),
        html(
          'td',
          {},
          html('input', {
            class: 'form-control num',
            name,
            maxlength: 400,
            autocomplete: 'off',
            'aria-label': `${of} for ${name}`,
            placeholder: 'as usual',
            value: own[name] === undefined ? '' : bare(own[name]),
          }),
        ),
      ),
    ),
  );
  dialog.showModal();
  rows.querySelector('input').focus();
}
form.addEventListener('submit', async event => {
  event.preventDefault();
  const sizes = Object.fromEntries([...rows.querySelectorAll('input')].map(i => [i.name, i.value]));
  try {
    await edit({ kind: 'set_sizes', table, sizes }, true);
  } catch (/** @type {any} */ problem) {
    $('bores-says').textContent = problem.message;
    const input = rows.querySelector(`input[name="${CSS.escape(problem.where ?? '')}"]`);
    (input ?? rows.querySelector('input')).focus();
    return;
  }
  dialog.close();
  then?.();
});
$('bores-drop').addEventListener('click', () => dialog.close());
