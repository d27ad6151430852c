// Curves by numbers: two formulas in t, or the places of a table.
import { $ } from '../core/dom.js';
import { S, openSketch } from '../core/state.js';
import { edit } from '../core/api.js';

const dialog = $('plot-dialog'),
  by = $('plot-by'),
  says = $('plot-says');
/** @type {any} */
let chosen = null;
/** @type {Record<string, string>} */
const fields = { x: 'plot-x', y: 'plot-y', start: 'plot-start', end: 'plot-end', text: 'plot-text' };

$('plot').addEventListener('click', () => {
  says.textContent = '';
  // of a curve that is picked its own formulas, to be changed
  chosen = openSketch().plots.find(p => S.selection.some(ref => p.curves.includes(ref.split('.')[0]))) ?? null;
  by.disabled = Boolean(chosen);
  if (chosen) {
    by.value = 'plot_formulas';
    by.dispatchEvent(new Event('change'));
    for (const name of ['x', 'y', 'start', 'end']) $(fields[name]).value = chosen[name];
  }
  $('plot-title').textContent = chosen ? 'Formulas of the picked curve' : 'Curve by numbers';
  dialog.showModal();
});
$('plot-drop').addEventListener('click', () => dialog.close());
by.addEventListener('change', () => {
  $('plot-formulas').hidden = by.value !== 'plot_formulas';
  $('plot-table').hidden = by.value !== 'plot_table';
  says.textContent = '';
});
dialog.querySelector('form').addEventListener('submit', async event => {
  event.preventDefault();
  /** @param {string} id */
  const value = id => $(id).value;
  const what =
    by.value === 'plot_table'
      ? { text: value('plot-text'), form: value('plot-form') }
      : {
          x: value('plot-x'),
          y: value('plot-y'),
          start: value('plot-start'),
          end: value('plot-end'),
          ...(chosen ? { instead: chosen.curves[0] } : {}),
        };
  for (const id of Object.values(fields)) $(id).classList.remove('bad');
  try {
    await edit({ kind: by.value, sketch: openSketch().id, ...what }, true);
    dialog.close();
  } catch (/** @type {any} */ problem) {
    says.textContent = problem.message;
    const at = $(fields[problem.where] ?? '');
    at?.classList.add('bad');
    at?.focus();
  }
});
