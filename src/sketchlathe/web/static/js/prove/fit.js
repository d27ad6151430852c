// Fit check: how bodies go together, shown where it is, with what would cure it.
import { $, html, svg } from '../core/dom.js';
import { S, on } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { camera } from '../view/camera.js';
import { showOverlaps } from '../view/overlays.js';
import { highlight, shown } from '../view/scene.js';
import { extra, redraw } from '../sketch/layer.js';
import { complain } from '../ui/messages.js';

/** @type {Record<string, string[]>} */
const MARK = { bad: ['✗', 'overlap'], warn: ['▲', 'look at it'], fine: ['✓', 'fits'] };
/** @type {any} */
let found = null, // the last answer, and the revision and part it is of
  lit = -1,
  took = 0,
  cured = false, // by what the check itself offered: whether that cures it is to be seen, however long it takes
  running = false;

async function check() {
  if (running) return;
  running = true;
  lit = -1;
  $('fits').setAttribute('aria-busy', 'true');
  const started = Date.now();
  try {
    const answer = await ask('/fit', { part: S.partId, play: $('fit-play').value, ticket: 'fit' });
    found = { ...answer, part: S.partId };
    $('fit-play').value = answer.play;
  } catch (/** @type {any} */ problem) {
    complain(problem.message);
  }
  took = Date.now() - started;
  running = false;
  $('fits').removeAttribute('aria-busy');
  fill();
}
const current = () => found && found.part === S.partId && found.revision === S.model.revision;
/** @param {number} i */
function light(i) {
  lit = lit === i ? -1 : i;
  show();
  fill();
}
function show() {
  const f = current() ? found.findings[lit] : null;
  showOverlaps(f?.overlap ?? []);
  const bodies = f && !f.overlap.length ? shown.filter(s => [f.one, f.other].includes(s.facts.id)) : [];
  highlight(
    [],
    bodies.flatMap(item => item.body.faces.map((_, index) => ({ ...item, what: 'face', index }))),
  );
  redraw();
}
/** @param {any} f */
function cure(f) {
  cured = true;
  edit({ kind: 'together', edits: f.edits, word: `Fit: ${f.fix}` }).catch(() => {
    cured = false;
  });
}
/** @param {any} f @param {number} i */
function row(f, i) {
  const [mark, says] = MARK[f.verdict];
  return html(
    'li',
    { class: f.verdict },
    html('span', { class: 'tick', role: 'img', 'aria-label': says }, mark),
    html(
      'button',
      {
        type: 'button',
        class: 'spot',
        'aria-pressed': String(lit === i),
        title: 'Show it in the view',
        onclick: () => light(i),
      },
      f.title,
    ),
    html('span', { class: 'num' }, f.figure),
    html(
      'small',
      {},
      `${f.text} `,
      ...(f.fix ? [html('button', { class: 'fix', type: 'button', onclick: () => cure(f) }, f.fix)] : []),
    ),
  );
}
function fill() {
  const several = (S.build?.bodies ?? []).length > 1;
  $('fit-panel').hidden = !several || S.mode === 'sketch';
  $('fit-check').textContent = found?.part === S.partId ? 'again' : 'check';
  const fresh = current();
  $('fits').classList.toggle('stale', Boolean(found) && !fresh);
  if (!found || found.part !== S.partId) {
    $('fits').replaceChildren();
    return;
  }
  $('fits').replaceChildren(
    ...(found.unseen
      ? [
          html(
            'li',
            { class: 'warn' },
            html('span', { class: 'tick', 'aria-hidden': 'true' }, MARK.warn[0]),
            `${found.unseen} more pairs lie near each other and were not looked at: check fewer bodies at once.`,
          ),
        ]
      : []),
    ...(found.lacks
      ? [
          html(
            'li',
            { class: 'warn' },
            html('span', { class: 'tick', 'aria-hidden': 'true' }, MARK.warn[0]),
            `These parts are ${found.lacks}.`,
          ),
        ]
      : []),
    ...found.findings.map(row),
    ...(found.findings.length || found.unseen ? [] : [html('li', { class: 'fine' }, 'Nothing comes near anything.')]),
  );
}
$('fit-check').addEventListener('click', check);
$('fit-play').addEventListener('change', check);
on('build', () => {
  fill();
  lit = -1;
  showOverlaps([]);
  // what was asked for once is kept up to date while that is quick
  if (found?.part === S.partId && !current() && (cured || took < 2500)) {
    cured = false;
    check();
  }
});
on('mode', fill);
on('part', () => {
  found = null;
  showOverlaps([]);
});

extra.push(() => {
  const f = current() ? found.findings[lit] : null;
  if (!f?.ends || f.overlap.length || S.mode !== 'solid') return [];
  const [p, q] = f.ends.map((/** @type {number[]} */ e) => camera.project(e));
  return [
    svg('line', { class: 'gauge', x1: p[0], y1: p[1], x2: q[0], y2: q[1] }),
    ...[p, q].map(([x, y]) => svg('circle', { class: 'gaugeend', cx: x, cy: y, r: 3.5 })),
    svg('text', { class: 'gaugenum', x: (p[0] + q[0]) / 2 + 8, y: (p[1] + q[1]) / 2 - 8 }, f.figure),
  ];
});
