// Check & print: what was found, how to lie, layers, estimate, the printer live.
import { $, html, targetOf } from '../core/dom.js';
import { csrf } from '../core/talk.js';
import { lostSome, recall, remember } from '../core/kept.js';
import { hear, hold, lies, onBed, put } from './lying.js';
import { choose, fit, load, paint, setBed, setLoose, showLayer } from './plate.js';
import './printer.js';
import { ask, facts, hours, now, tell } from './shared.js';
// for those who watch the page from outside
export { onScreen } from './plate.js';

const me = `q${Math.random().toString(36).slice(2, 9)}`,
  KEPT = 'process';
const process = { ...facts.process, ...recall(KEPT, {}) };
for (const input of $('process').elements)
  if (input.name in process)
    input.value =
      typeof process[input.name] === 'string' ? process[input.name] : +Number(process[input.name]).toPrecision(5);
let asking = 0;
async function check() {
  const mine = ++asking;
  $('busy').hidden = false;
  $('busy').querySelector('span').textContent = 'Looking…';
  const clock = setInterval(async () => {
    const at = await ask(`/progress/${me}`).catch(() => null);
    if (mine === asking && at?.title) $('busy').querySelector('span').textContent = `${at.title}…`;
  }, 500);
  try {
    const found = await ask('/print/check', { part: facts.part, process, lay: now.lay, moved: lies.moved, ticket: me });
    if (mine !== asking) return;
    now.report = found;
    await load(found.mesh, found.layers, found.heights);
    fill();
  } catch (/** @type {any} */ problem) {
    if (mine === asking && problem.status !== 499) {
      $('findings').replaceChildren(
        html('li', { class: 'bad' }, html('span', { class: 'tick' }, '✗'), html('span', {}, problem.message)),
      );
    }
    const field = problem.where && $('process').elements[problem.where];
    if (field) {
      field.classList.add('bad');
      $('how').open = true;
      field.focus();
    }
  } finally {
    clearInterval(clock);
    if (mine === asking) $('busy').hidden = true;
  }
}
$('stop').addEventListener('click', () => ask('/stop', { ticket: me }).catch(() => {}));
/** @param {object[]} edits @param {string} word */
async function change(edits, word) {
  try {
    await ask('/edit', { base: facts.revision, edit: { kind: 'together', edits, word } });
    facts.revision += 1;
    $('says').textContent = `${word}: saved`;
    await check();
  } catch (/** @type {any} */ problem) {
    tell(problem.message);
    if (problem.stale) facts.revision = problem.revision;
  }
}
// several bodies, each as it lies best: on how many beds, and which one is shown
function beds() {
  const shown = now.report.layings.find((/** @type {any} */ w) => w.several)?.name === now.report.chosen;
  if (!shown) return html('span', { class: 'num' }, 'every body as it lies best');
  if (now.report.beds === 1) return html('span', { class: 'num' }, 'all on one bed');
  const choose = html(
    'select',
    {
      'aria-label': 'Bed',
      onchange: () => {
        now.lay = `${now.report.chosen}/${choose.value}`;
        check();
      },
    },
    ...Array.from({ length: now.report.beds }, (_, i) =>
      html('option', { value: i + 1, selected: now.report.bed === i + 1 }, `bed ${i + 1} of ${now.report.beds}`),
    ),
  );
  return html('span', { class: 'num' }, choose);
}
const queueSays = () => (now.report?.beds > 1 ? `Queue all ${now.report.beds} beds` : 'Queue this part');
/** @type {any} */
let spotted = null;
function fill() {
  const best = now.report.layings.find((/** @type {any} */ w) => !w.several) ?? now.report.layings[0];
  $('findings').replaceChildren(
    ...now.report.findings.map((/** @type {any} */ f) => {
      const item = html(
        'li',
        { class: f.well ? 'ok' : 'bad' },
        html('span', { class: 'tick', 'aria-hidden': 'true' }, f.well ? '✓' : '▲'),
      );
      const text = html(
        'div',
        {},
        html(
          f.triangles.length ? 'button' : 'span',
          f.triangles.length
            ? {
                class: 'spot',
                type: 'button',
                title: 'Show it on the part',
                'aria-pressed': 'false',
                onclick: e => spot(f, item, e.currentTarget),
              }
            : {},
          html('span', { class: 'visually-hidden' }, f.well ? 'fine: ' : 'to look at: '),
          html('b', {}, f.text),
        ),
        html(
          'small',
          {},
          [f.detail, f.titles.length ? `from ${f.titles.join(' and ')}` : ''].filter(Boolean).join('; '),
        ),
      );
      if (f.remedy)
        text.append(
          html(
            'button',
            { class: 'fix', type: 'button', onclick: () => change(f.remedy.edits, f.remedy.text) },
            f.remedy.text,
          ),
        );
      else if (f.lay && best.name !== now.report.chosen)
        text.append(
          html(
            'button',
            {
              class: 'fix',
              type: 'button',
              onclick: () => {
                now.lay = best.name;
                check();
              },
            },
            `Lay it ${best.name}`,
          ),
        );
      item.append(text);
      return item;
    }),
  );
  $('layings').replaceChildren(
    ...now.report.layings.map((/** @type {any} */ w) =>
      html(
        'li',
        {},
        html(
          'label',
          {},
          html('input', {
            type: 'radio',
            name: 'lay',
            checked: w.name === now.report.chosen,
            onchange: () => {
              now.lay = w.name;
              check();
            },
          }),
          html('b', {}, w.name),
          w.several
            ? beds()
            : html(
                'span',
                { class: 'num' },
                w.support === undefined
                  ? 'all together, as they stand'
                  : `support ${+(w.support / 100).toFixed(1)} cm², ${+w.height.toFixed(1)} mm high` +
                      (w.fits ? '' : ', too large'),
              ),
        ),
      ),
    ),
  );
  $('queue').textContent = queueSays();
  if (!now.report.bodies.some((/** @type {any} */ b) => b.id === lies.held)) lies.held = null;
  setLoose(
    now.report.bodies,
    (id, dx, dy) => {
      const b = now.report.bodies.find((/** @type {any} */ one) => one.id === id);
      put(id, { x: b.x + dx, y: b.y + dy });
    },
    hold,
  );
  onBed();
  choose(lies.held);
  const e = now.report.estimate;
  $('estimate').replaceChildren(
    ...[
      ['material', e.material],
      ['layers', `${e.layers} × ${now.report.process.layer} mm`],
      ['time', hours(e.seconds)],
      ['filament', `${e.grams.toFixed(1)} g, ${e.metres.toFixed(1)} m`],
      ['cost', `${process.currency} ${e.cost.toFixed(2)}`.trim()],
    ].map(([a, b]) =>
      html('div', { class: 'row2', 'data-estimate': a }, html('span', {}, a), html('span', { class: 'num' }, b)),
    ),
  );
  const layer = $('layer');
  layer.max = String(now.report.heights.length || 1);
  layer.value = String(Math.ceil(now.report.heights.length * 0.72) || 1);
  setBed(now.report.process.bed_x, now.report.process.bed_y);
  spotted = null;
  const worst = now.report.findings.find((/** @type {any} */ f) => !f.well && f.triangles.length);
  paint(worst ? worst.triangles : []);
  layers();
  if (!$('says').textContent.endsWith('saved')) $('says').textContent = `revision ${now.report.revision}`;
}
/** @param {any} finding @param {HTMLElement} item @param {HTMLElement} button */
function spot(finding, item, button) {
  for (const other of $('findings').querySelectorAll('.on')) {
    other.classList.remove('on');
    other.querySelector('.spot')?.setAttribute('aria-pressed', 'false');
  }
  spotted = spotted === finding ? null : finding;
  if (spotted) {
    item.classList.add('on');
    button.setAttribute('aria-pressed', 'true');
  }
  paint(spotted ? spotted.triangles : []);
}
function layers() {
  const n = Number($('layer').value),
    count = now.report?.heights.length ?? 0;
  const says = count ? `layer ${n} of ${count}` : '';
  $('layer-says').textContent = says;
  // what a reader speaks: how high it lies, too
  $('layer').setAttribute(
    'aria-valuetext',
    says ? `${says}, ${+now.report.heights[n - 1].toFixed(2)} mm up` : 'no layers yet',
  );
  showLayer(n, $('solid').checked);
}
$('layer').addEventListener('input', () => {
  $('solid').checked = false;
  layers();
});
$('solid').addEventListener('change', layers);
$('view').addEventListener('keydown', event => {
  const step = { PageUp: 1, PageDown: -1 }[event.key];
  if (!step) return;
  event.preventDefault();
  $('layer').value = String(Number($('layer').value) + step);
  $('solid').checked = false;
  layers();
});
$('process').addEventListener('submit', event => event.preventDefault());
$('process').addEventListener('change', event => {
  targetOf(event).classList.remove('bad');
  const words = typeof process[targetOf(event).name] === 'string',
    value = words ? targetOf(event).value.trim() : Number(targetOf(event).value.replace(',', '.'));
  if (!words && !Number.isFinite(value)) {
    targetOf(event).classList.add('bad');
    return;
  }
  process[targetOf(event).name] = value;
  remember(KEPT, process);
  check();
});

$('queue').addEventListener('click', async () => {
  const bad = now.report?.findings.find(
    (/** @type {any} */ f) => !f.well && ['watertight', 'fits', 'lying'].includes(f.kind),
  );
  if (bad) {
    tell(`${bad.text}: put that right first.`);
    return;
  }
  $('queue').disabled = true;
  $('queue').textContent = 'Sending…';
  try {
    // beds are queued in turn
    for (let bed = 1; bed <= now.report.beds; bed += 1) {
      const each = now.report.beds > 1 ? `${now.report.chosen}/${bed}` : now.lay;
      const job = await ask('/print/queue', {
        part: facts.part,
        process,
        lay: each,
        moved: lies.moved,
        ticket: `u${me}`,
      });
      $('says').textContent = `${job.name} is ${job.state}`;
    }
  } catch (/** @type {any} */ problem) {
    tell(problem.message);
  }
  $('queue').textContent = queueSays();
  $('queue').disabled = false;
});
$('program').addEventListener('click', async () => {
  const answer = await fetch(`/api/models/${facts.model}/print/program`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', 'X-CSRFToken': csrf, Accept: 'application/json' },
    body: JSON.stringify({ part: facts.part, process, lay: now.lay, moved: lies.moved }),
  });
  if (!answer.ok) {
    tell((await answer.json().catch(() => ({}))).message ?? 'The server did not answer.');
    return;
  }
  const link = html('a', {
    href: URL.createObjectURL(await answer.blob()),
    download: /filename="([^"]+)"/.exec(answer.headers.get('Content-Disposition') ?? '')?.[1] ?? 'part.gcode',
  });
  document.body.append(link);
  link.click();
  link.remove();
});
hear(check);
fit();
check();
if (lostSome()) tell('What this browser remembered could not be read: that begins anew.');
