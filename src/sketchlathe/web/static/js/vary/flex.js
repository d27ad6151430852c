// Flex test: how far every number goes before the part breaks; one line a number, filled while it is tried.
import { $, html, sought, svg, targetOf } from '../core/dom.js';
import { S, on, pictureOf } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { forgetPreviews, tryEdits } from '../core/building.js';
import { Live } from '../view/live.js';
import { endPreview, setInstead, showTrial } from '../view/scene.js';
import { complain } from '../ui/messages.js';
import { button, endStandIn, standIn } from '../ui/standin.js';
import { closeBar } from '../steps/bar.js';

/** @type {any} */
let told = { state: 'none' },
  clock = 0;
const spans = new Map(), // what stands in the fields of a range: id → [from, to]
  paired = new Set(),
  opened = new Set();
const running = () => ['waiting', 'running'].includes(told.state);
const path = () => `/flex/${S.partId}`;

/** @param {string[]} [numbers] @param {string[]} [pairs] */
async function begin(numbers = [], pairs = []) {
  const wanted = Object.fromEntries([...spans].filter(([id]) => numbers.includes(id) || !numbers.length));
  try {
    take(await ask('/flex', { part: S.partId, numbers, pairs, spans: wanted }));
  } catch (/** @type {any} */ problem) {
    complain(problem.message);
  }
}
async function look() {
  clearTimeout(clock);
  const part = S.partId;
  const answer = await ask(path()).catch(() => null);
  if (part === S.partId && answer) take(answer);
}
/** @param {any} answer */
function take(answer) {
  told = answer;
  fill();
  clearTimeout(clock);
  if (running()) clock = setTimeout(look, document.hidden ? 4000 : 900);
}

// a track from the least to the most that was tried; between the marks it holds
/** @param {any} n */
function bar(n) {
  const ends = [n.low.breaks ?? n.low.at, n.high.breaks ?? n.high.at],
    logs = ends.every(v => v > 0) && n.value > 0,
    /** @type {(v: number) => number} */
    f = v => (logs ? Math.log(v) : v),
    [a, b] = ends.map(f),
    /** @type {(v: number) => number} */
    x = v => 6 + (193 * (f(v) - a)) / (b - a || 1);
  /** @param {number} v */
  const mark = v => svg('path', { class: 'break', d: `M${x(v)} 2V16` });
  return svg(
    'svg',
    { class: 'reach', viewBox: '0 0 205 18', role: 'img', 'aria-label': `holds from ${n.low.said} to ${n.high.said}` },
    svg('line', { class: 'all', x1: 6, x2: 199, y1: 9, y2: 9 }),
    svg('line', { class: 'holds', x1: x(n.low.at), x2: x(n.high.at), y1: 9, y2: 9 }),
    ...(n.low.breaks === undefined ? [] : [mark(n.low.breaks)]),
    ...(n.high.breaks === undefined ? [] : [mark(n.high.breaks)]),
    svg('circle', { class: 'now', cx: x(n.value), cy: 9, r: 4.5, 'data-pull': n.id }),
  );
}
// The dot is dragged along its track and the part follows, whatever the number is: parameter, dimension, blank.
/** @type {any} */
let pulling = null;
/** @param {any} n @returns {(share: number) => number} */
const scaleOf = n => {
  const ends = [n.low.breaks ?? n.low.at, n.high.breaks ?? n.high.at],
    logs = ends.every(v => v > 0) && n.value > 0,
    [a, b] = ends.map(v => (logs ? Math.log(v) : v));
  return share => (logs ? Math.exp(a + share * (b - a)) : a + share * (b - a));
};
/** @param {any} n @param {number} value */
function editAt(n, value) {
  const { edit: pattern, unit, per, whole } = n.pull,
    number = whole ? Math.round(value) : +(value / per).toPrecision(3),
    words = unit ? `${number} ${unit}` : `${number}`;
  return [
    JSON.parse(JSON.stringify(pattern).replace('"{value}"', JSON.stringify(words))),
    words,
    whole ? number : number * per,
  ];
}
$('flexes').addEventListener('pointerdown', event => {
  const id = targetOf(event).closest('[data-pull]')?.dataset.pull,
    n = id && told.numbers?.[id];
  if (!n || S.mode === 'sketch' || told.revision !== S.model.revision) return;
  event.preventDefault();
  const dot = targetOf(event),
    track = /** @type {any} */ (dot.closest('svg')).getScreenCTM().inverse(),
    at = scaleOf(n);
  pulling = { n, dot, track, at, edit: null, live: null };
  dot.setPointerCapture(event.pointerId);
  pulling.live = new Live(
    n.value,
    value => editAt(n, value)[0],
    async (value, result) => {
      if (!result || !pulling || value !== pulling.live.value) return;
      await showTrial(result.bodies);
      if (pulling?.live.value === value) setInstead(null);
    },
  );
});
$('flexes').addEventListener('pointermove', event => {
  if (!pulling) return;
  const { n, dot, track, at, live } = pulling,
    place = new DOMPoint(event.clientX, event.clientY).matrixTransform(track).x,
    share = Math.min(1, Math.max(0, (place - 6) / 193));
  const [made, words, value] = editAt(n, at(share));
  pulling.edit = made;
  dot.setAttribute('cx', 6 + 193 * share);
  dot.closest('summary').querySelector('.ends').textContent = words;
  live.to(value);
});
/** @param {boolean} keep */
const letGo = async keep => {
  if (!pulling) return;
  const { edit: made, live } = pulling;
  pulling = null;
  if (keep && made) await edit(made).catch(() => {});
  live.end();
  endPreview();
  fill();
};
$('flexes').addEventListener('pointerup', () => letGo(true));
$('flexes').addEventListener('pointercancel', () => letGo(false));
// a click that ends a drag does not open the line
$('flexes').addEventListener('click', event => {
  if (targetOf(event).closest('[data-pull]')) event.preventDefault();
});
/** @param {any} way */
const breaks = way => (way.breaks === undefined ? null : way);
/** @param {any} n */
function findings(n) {
  const found = [n.low, n.high].map(breaks).filter(Boolean);
  if (!found.length) return [html('small', {}, 'holds all the way')];
  return found.map(way =>
    html(
      'small',
      {},
      `breaks at ${way.breaks_said}${way.where ? ` in ${way.where}` : ''}: ${way.why.replace(/\.$/, '')} `,
      html(
        'button',
        { class: 'fix', type: 'button', title: 'Show the part there; nothing is changed', onclick: () => show(n, way) },
        'show it',
      ),
    ),
  );
}
/** @param {any} n @param {any} way */
async function show(n, way) {
  closeBar();
  const edits = [way.edit];
  tryEdits(edits, async (result, problem) => {
    standIn({
      label: 'A trial',
      nodes: [
        html(
          'p',
          { role: 'status' },
          html('b', {}, `${n.title} at ${way.breaks_said}`),
          html('span', {}, `${way.where ? `${way.where}: ` : ''}${problem?.message ?? way.why}`),
        ),
        html(
          'div',
          { class: 'ends' },
          button('Make it so', () => {
            endStandIn();
            edit(way.edit).catch(() => {});
          }),
          button('Back to now', endStandIn, { class: 'btn k', id: 'older-end' }),
        ),
      ],
      ended: () => {
        forgetPreviews();
        for (const li of document.querySelectorAll('.step.broken')) li.classList.remove('broken');
      },
    });
    document.querySelector(`.step[data-step="${CSS.escape(way.step)}"]`)?.classList.add('broken');
    if (result) await showTrial(result.bodies);
    sought('older-end')?.focus({ preventScroll: true });
  });
}
/** @param {any} n */
const keepLimits = n =>
  edit({
    kind: 'set_limits',
    part: S.partId,
    knob: n.id,
    low: n.low.breaks === undefined ? '' : n.low.said,
    high: n.high.breaks === undefined ? '' : n.high.said,
  }).catch(() => {});
/** @param {any} way */
const picture = way =>
  html('img', {
    class: 'endpicture',
    loading: 'lazy',
    width: 100,
    height: 60,
    alt: `The part at ${way.said}`,
    src: pictureOf(told.revision, [way.edit_at]),
  });
// what else can be done with a number: another range, in pairs, pictures at both ends
/** @param {any} n */
function more(n) {
  const [from, to] = spans.get(n.id) ?? ['', ''];
  /** @param {number} i @param {string} value @param {string} label */
  const field = (i, value, label) =>
    html('input', {
      class: 'num',
      value,
      maxlength: 400,
      autocomplete: 'off',
      placeholder: 'where it ends',
      'aria-label': `${n.title}: ${label}`,
      onchange: e => {
        const ends = [...(spans.get(n.id) ?? ['', ''])];
        ends[i] = e.target.value;
        spans.set(n.id, ends);
      },
    });
  return html(
    'div',
    { class: 'more' },
    ...(n.same ? [] : [html('div', { class: 'pictures' }, picture(n.low), picture(n.high))]),
    html('label', { class: 'row2' }, html('span', {}, 'from'), field(0, from, 'try from')),
    html('label', { class: 'row2' }, html('span', {}, 'to'), field(1, to, 'try up to')),
    html(
      'div',
      { class: 'pairline' },
      html(
        'label',
        {},
        html('input', {
          type: 'checkbox',
          checked: paired.has(n.id),
          onchange: e => {
            paired[e.target.checked ? 'add' : 'delete'](n.id);
            fill();
          },
        }),
        ' in pairs',
      ),
      html('button', { class: 'fix', type: 'button', onclick: () => begin([n.id]) }, 'try it again'),
    ),
  );
}
/** @param {any} n */
function row(n) {
  const broken = !n.same && (breaks(n.low) || breaks(n.high)),
    known = S.model.limits?.[n.id];
  const details = html(
    'details',
    {
      'data-flex': n.id,
      ontoggle: () => {
        opened[details.open ? 'add' : 'delete'](n.id);
        if (details.open && !details.querySelector('.more')) details.append(more(n));
      },
    },
    html(
      'summary',
      { title: 'More about this number' },
      html('span', { class: 'num', title: n.title }, n.title),
      html(
        'span',
        { class: 'num ends' },
        n.same ? 'no matter' : `${bareOf(n.low.said, n.high.said)} to ${n.high.said}`,
      ),
      ...(n.same ? [] : [bar(n)]),
    ),
  );
  details.open = opened.has(n.id);
  if (details.open) details.append(more(n));
  return html(
    'li',
    { class: broken ? 'breaks' : '' },
    details,
    ...(n.same ? [html('small', {}, 'makes no difference to this part')] : findings(n)),
    ...(broken
      ? [
          known
            ? html('small', {}, `limits kept: ${known.join(' to ')}`)
            : html('button', { class: 'fix', type: 'button', onclick: () => keepLimits(n) }, 'give it these limits'),
        ]
      : []),
  );
}
// the unit once, where both have it
/** @param {string} one @param {string} other */
const bareOf = (one, other) => {
  const [value, unit] = one.split(' ');
  return unit && other.endsWith(` ${unit}`) ? value : one;
};
function pairs() {
  const found = told.pairs ?? [];
  if (!found.length) return [];
  const bad = found.filter((/** @type {any} */ p) => !p.holds);
  return [
    html('h3', {}, 'In pairs'),
    ...(bad.length ? [] : [html('p', { class: 'mb-0' }, `All ${found.length} ends hold.`)]),
    html(
      'ul',
      { class: 'flexes' },
      ...bad.map((/** @type {any} */ p) =>
        html(
          'li',
          { class: 'breaks' },
          html('small', {}, `${p.says} breaks${p.where ? ` in ${p.where}` : ''}: ${p.why.replace(/\.$/, '')}`),
        ),
      ),
    ),
  ];
}
function fill() {
  const numbers = told.numbers ?? {},
    order = told.order ?? [],
    known = order.filter((/** @type {string} */ id) => numbers[id]);
  $('flex-begin').textContent = running() ? 'stop' : known.length ? 'again' : 'try every number';
  $('flex-says').textContent = running()
    ? order.length
      ? `${known.length} of ${order.length} numbers, ${told.builds ?? 0} builds…`
      : 'waiting for its turn…'
    : told.state === 'none'
      ? 'How far does each number go before the part breaks?'
      : told.problem
        ? told.problem
        : `${told.builds ?? 0} builds, ${Math.max(1, Math.round(told.seconds ?? 0))} s` +
          (told.state === 'stopped' ? ', stopped' : '') +
          (told.revision === S.model.revision ? '' : `; of revision ${told.revision}`);
  $('flexes').classList.toggle('stale', told.state !== 'none' && told.revision !== S.model.revision);
  const rows = known.map((/** @type {string} */ id) => numbers[id]);
  /** @param {any} n */
  const broken = n => !n.same && (breaks(n.low) || breaks(n.high));
  $('flexes').replaceChildren(
    ...(told.warning ? [html('p', { class: 'mb-1' }, `▲ ${told.warning}`)] : []),
    html(
      'ul',
      { class: 'flexes' },
      ...rows.filter(broken).map(row),
      ...rows.filter((/** @type {any} */ n) => !broken(n)).map(row),
    ),
    ...pairs(),
    ...(paired.size > 1 && !running()
      ? [
          html(
            'button',
            { class: 'fix', type: 'button', onclick: () => begin([...paired], [...paired]) },
            `try the ${paired.size} in pairs`,
          ),
        ]
      : []),
  );
}
$('flex-begin').addEventListener('click', () => {
  $('flex-box').open = true;
  if (running()) ask(`${path()}/stop`, {}).then(take, problem => complain(problem.message));
  else begin();
});
$('flex-box').addEventListener('toggle', () => {
  if ($('flex-box').open) look();
});
on('part', () => {
  told = { state: 'none' };
  spans.clear();
  paired.clear();
  if ($('flex-box').open) look();
});
on('model', fill);
