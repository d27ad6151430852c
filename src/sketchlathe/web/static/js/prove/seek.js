// Make it come to…: the value of a parameter at which the part weighs so much, or is so large; with what was tried.
import { $, html, svg, targetOf } from '../core/dom.js';
import { S } from '../core/state.js';
import { ask, edit, whereAt } from '../core/api.js';

const dialog = $('seek-dialog'),
  says = $('seek-says'),
  me = `k${Math.random().toString(36).slice(2, 9)}`;
const LIGHTEST = 'lightest';
let name = '',
  /** @type {any[]} */
  figures = [],
  /** @type {any} */
  found = null,
  looking = 0;

$('parameters').addEventListener('click', event => {
  const wanted = targetOf(event).closest('[data-seek]')?.dataset.seek;
  if (!wanted) return;
  name = wanted;
  $('seek-what').textContent =
    `A value of ${name} is looked for, near the one it has. Nothing changes before it is kept.`;
  fresh();
  dialog.showModal();
  offer();
});
// what the part can come to, measurements included; as light as it can be comes last
async function offer() {
  const chosen = $('seek-figure').value;
  figures = await ask(`/figures/${S.partId}`).catch(() => []);
  $('seek-figure').replaceChildren(
    ...figures.map(f => html('option', { value: f.id, selected: f.id === chosen }, f.word)),
    html('option', { value: LIGHTEST, selected: chosen === LIGHTEST }, 'mass is least'),
  );
  $('seek-others').replaceChildren(
    ...S.model.parameters
      .filter(p => p !== name)
      .map(p =>
        html(
          'label',
          { class: 'num' },
          html('input', { type: 'checkbox', value: p, onchange: () => fresh() }),
          ` ${p}`,
        ),
      ),
  );
  turn();
}
const lightest = () => $('seek-figure').value === LIGHTEST;
function turn() {
  $('seek-lightest').hidden = !lightest();
  for (const node of dialog.querySelectorAll('[data-goal]')) node.hidden = lightest();
  $('seek-goal').placeholder = figures.find(f => f.id === $('seek-figure').value)?.usual ?? '';
}
$('seek-figure').addEventListener('change', turn);
// a plain number is in the units on the screen: which that is stands beside it as it is typed
let reading = 0;
async function readGoal() {
  const mine = ++reading,
    text = $('seek-goal').value;
  if (!text.trim() || lightest()) {
    $('seek-read').textContent = '';
    return;
  }
  const got = await ask('/goal', { part: S.partId, figure: $('seek-figure').value, text }).catch(() => null);
  if (mine === reading) $('seek-read').textContent = got?.text ? `= ${got.text}` : '';
}
$('seek-goal').addEventListener('input', readGoal);
$('seek-figure').addEventListener('change', readGoal);
function fresh(text = '', fine = false) {
  found = null;
  says.textContent = text;
  says.classList.toggle('fine', fine);
  $('seek-keep').hidden = true;
  $('seek-look').hidden = false;
  $('seek-curve').replaceChildren();
}
dialog.addEventListener('input', () => fresh());
const close = () => {
  if (looking) ask('/stop', { ticket: me }).catch(() => {});
  looking = 0;
  dialog.close();
};
$('seek-drop').addEventListener('click', close);
dialog.addEventListener('cancel', close);
dialog.querySelector('form').addEventListener('submit', async event => {
  event.preventDefault();
  if (found) {
    keep();
    return;
  }
  if (looking) return;
  const mine = (looking = Date.now());
  fresh('Looking…', true);
  const clock = setInterval(async () => {
    const at = await whereAt(me);
    if (looking === mine && at.title && !found) says.textContent = `${at.title}…`;
  }, 400);
  try {
    const answer = await look();
    if (looking !== mine) return;
    const also = 'others' in answer && answer.others.length ? ` So does ${answer.others.join(' and ')}.` : '';
    const words = Object.entries(answer.formulas).map(([p, formula]) => `${p} = ${formula}`);
    const held = 'held' in answer && answer.held ? ` Held back: ${answer.held}.` : '';
    fresh(`${words.join(', ')} comes to ${answer.says}, found in ${answer.builds} builds.${held}${also}`, true);
    found = answer;
    if ('tried' in answer) $('seek-curve').replaceChildren(curve(answer));
    $('seek-keep').hidden = false;
    $('seek-look').hidden = true;
    $('seek-keep').focus();
  } catch (/** @type {any} */ problem) {
    if (looking === mine && problem.status !== 499) fresh(problem.message);
  } finally {
    clearInterval(clock);
    if (looking === mine) looking = 0;
  }
});
function look() {
  const question = { part: S.partId, ticket: me };
  if (!lightest())
    return ask('/seek', { ...question, parameter: name, figure: $('seek-figure').value, goal: $('seek-goal').value });
  const still = Object.fromEntries([...dialog.querySelectorAll('[data-still]')].map(i => [i.dataset.still, i.value]));
  const others = [...$('seek-others').querySelectorAll(':checked')].map(i => i.value);
  return ask('/lighten', {
    ...question,
    parameters: [name, ...others],
    still: { ...still, wall: $('seek-wall').value },
  });
}
async function keep() {
  const edits = Object.entries(found.formulas).map(([p, formula]) => ({ kind: 'set_parameter', name: p, formula }));
  dialog.close();
  const word = `As light as it can be: ${edits.map(e => `${e.name} = ${e.formula}`).join(', ')}`.slice(0, 120);
  await edit(edits.length === 1 ? edits[0] : { kind: 'together', edits, word }).catch(() => {});
}
$('seek-keep').addEventListener('click', keep);

// the figure against the parameter: what was tried, joined, and the goal across
/** @param {Told.Sought} sought */
function curve({ tried, goal }) {
  const w = 380,
    h = 150,
    pad = 26,
    xs = tried.map(t => t[1]),
    ys = [...tried.map(t => t[2]), goal],
    [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)],
    /** @type {(v: number) => number} */
    x = v => pad + ((v - x0) / (x1 - x0 || 1)) * (w - 2 * pad),
    /** @type {(v: number) => number} */
    y = v => h - pad - ((v - y0) / (y1 - y0 || 1)) * (h - 2 * pad);
  const best = tried.reduce((a, b) => (Math.abs(a[2] - goal) <= Math.abs(b[2] - goal) ? a : b));
  return svg(
    'svg',
    {
      viewBox: `0 0 ${w} ${h}`,
      class: 'seek',
      role: 'img',
      'aria-label': `${tried.length} values tried, from ${tried[0][0]} to ${tried[tried.length - 1][0]}`,
    },
    svg('line', { class: 'goal', x1: pad, x2: w - pad, y1: y(goal), y2: y(goal) }),
    svg('polyline', { class: 'run', points: tried.map(t => `${x(t[1])},${y(t[2])}`).join(' ') }),
    ...tried.map(t =>
      svg('circle', { class: t === best ? 'best' : 'tried', cx: x(t[1]), cy: y(t[2]), r: t === best ? 5 : 3 }),
    ),
    svg('text', { x: pad, y: h - 6 }, tried[0][0]),
    svg('text', { x: w - pad, y: h - 6, 'text-anchor': 'end' }, tried[tried.length - 1][0]),
  );
}
