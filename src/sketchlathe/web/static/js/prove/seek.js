// Make it come to…: the value of a parameter at which the part weighs so much, or is so large; with what was tried.
import { $, S, svg } from '../core/state.js';
import { ask, edit } from '../core/api.js';

const dialog = $('seek-dialog'),
  says = $('seek-says'),
  me = `k${Math.random().toString(36).slice(2, 9)}`;
let name = '',
  found = null,
  looking = 0;

$('parameters').addEventListener('click', event => {
  const wanted = event.target.closest('[data-seek]')?.dataset.seek;
  if (!wanted) return;
  name = wanted;
  $('seek-what').textContent =
    `A value of ${name} is looked for, near the one it has. Nothing changes before it is kept.`;
  fresh();
  dialog.showModal();
});
function fresh(text = '', fine = false) {
  found = null;
  says.textContent = text;
  says.classList.toggle('fine', fine);
  $('seek-keep').hidden = true;
  $('seek-look').hidden = false;
  $('seek-curve').replaceChildren();
}
for (const id of ['seek-goal', 'seek-figure']) $(id).addEventListener('input', () => fresh());
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
    const at = await ask(`/progress/${me}`).catch(() => ({}));
    if (looking === mine && at.title && !found) says.textContent = `${at.title}…`;
  }, 400);
  try {
    const answer = await ask('/seek', {
      part: S.partId,
      parameter: name,
      figure: $('seek-figure').value,
      goal: $('seek-goal').value,
      ticket: me,
    });
    if (looking !== mine) return;
    fresh(`${name} = ${answer.formula} comes to ${answer.says}, found in ${answer.builds} builds.`, true);
    found = answer;
    $('seek-curve').replaceChildren(curve(answer));
    $('seek-keep').hidden = false;
    $('seek-look').hidden = true;
    $('seek-keep').focus();
  } catch (problem) {
    if (looking === mine && problem.status !== 499) fresh(problem.message);
  } finally {
    clearInterval(clock);
    if (looking === mine) looking = 0;
  }
});
async function keep() {
  const { formula } = found;
  dialog.close();
  await edit({ kind: 'set_parameter', name, formula }).catch(() => {});
}
$('seek-keep').addEventListener('click', keep);

// the figure against the parameter: what was tried, joined, and the goal across
function curve({ tried, goal }) {
  const w = 380,
    h = 150,
    pad = 26,
    xs = tried.map(t => t[1]),
    ys = [...tried.map(t => t[2]), goal],
    [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)],
    x = v => pad + ((v - x0) / (x1 - x0 || 1)) * (w - 2 * pad),
    y = v => h - pad - ((v - y0) / (y1 - y0 || 1)) * (h - 2 * pad);
  const best = tried.reduce((a, b) => (Math.abs(a[2] - goal) <= Math.abs(b[2] - goal) ? a : b));
  return svg(
    'svg',
    {
      viewBox: `0 0 ${w} ${h}`,
      class: 'seek',
      role: 'img',
      'aria-label': `${tried.length} values tried, from ${tried[0][0]} to ${tried.at(-1)[0]}`,
    },
    svg('line', { class: 'goal', x1: pad, x2: w - pad, y1: y(goal), y2: y(goal) }),
    svg('polyline', { class: 'run', points: tried.map(t => `${x(t[1])},${y(t[2])}`).join(' ') }),
    ...tried.map(t =>
      svg('circle', { class: t === best ? 'best' : 'tried', cx: x(t[1]), cy: y(t[2]), r: t === best ? 5 : 3 }),
    ),
    svg('text', { x: pad, y: h - 6 }, tried[0][0]),
    svg('text', { x: w - pad, y: h - 6, 'text-anchor': 'end' }, tried.at(-1)[0]),
  );
}
