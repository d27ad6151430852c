// The parts list's print times: asked for, kept until the part changes.
import { $, targetOf } from '../core/dom.js';
import { S } from '../core/state.js';
import { ask } from '../core/api.js';
import { recall } from '../core/kept.js';
import { complain } from '../ui/messages.js';

/** @type {{ key: string, seconds: number[] } | null} */
let known = null; // {key, seconds}
const key = () => `${S.partId} ${S.model.revision}`;
/** @param {number} s */
const said = s =>
  s >= 3600
    ? `${Math.floor(s / 3600)} h ${String(Math.round((s % 3600) / 60)).padStart(2, '0')}`
    : `${Math.max(1, Math.round(s / 60))} min`;

function fill() {
  const cells = [...$('parts-list').querySelectorAll('.time')],
    fresh = known?.key === key();
  for (const cell of cells) cell.hidden = !fresh;
  if (!fresh || !known) return;
  const { seconds } = known;
  let all = 0;
  $('parts-list')
    .querySelectorAll('tbody tr')
    .forEach((row, i) => {
      all += seconds[i] * Number(row.querySelector('.n').textContent);
      row.querySelector('.time').textContent = said(seconds[i]);
    });
  $('parts-list').querySelector('tfoot .time').textContent = said(all);
}
$('parts-list').addEventListener('lathe:filled', fill);
$('parts-list').addEventListener('click', async event => {
  const button = targetOf(event).closest('#print-times');
  if (!button) return;
  const mine = key();
  button.disabled = true;
  button.textContent = 'reckoning…';
  try {
    const process = recall('process', {});
    const seconds = await ask('/print/times', { part: S.partId, process, ticket: 'times' });
    if (mine === key()) known = { key: mine, seconds };
  } catch (/** @type {any} */ problem) {
    complain(problem.message);
  }
  button.disabled = false;
  button.textContent = 'times';
  fill();
});
