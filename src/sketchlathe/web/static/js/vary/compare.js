// Compare: two states of the part in one view, what is gone and what has come painted, what differs in words.
import { $, html, sought, svg, targetOf } from '../core/dom.js';
import { S, on } from '../core/state.js';
import { talk } from '../core/talk.js';
import { ask, edit, settled } from '../core/api.js';
import { showBeside, showStains } from '../view/overlays.js';
import { setDivide, showTrial } from '../view/scene.js';
import { complain } from '../ui/messages.js';
import { button, endStandIn, say, standIn } from '../ui/standin.js';
import { closeBar } from '../steps/bar.js';

const MARK = { gone: '−', come: '+' };
let open = false,
  /** @type {any} */
  states = null, // what can be chosen
  chosen = /** @type {Record<string, any>} */ ({ from: null, to: null }),
  /** @type {any[]} */
  files = [], // brought in to be compared with
  /** @type {any} */
  found = null,
  share = 0.5,
  asked = 0;

/** @param {any} side */
const key = side => (side === null ? 'now' : JSON.stringify(side));
/** @param {string} word @param {string} label */
function chooser(word, label) {
  /** @param {any} side @param {string} text */
  const option = (side, text) => html('option', { value: key(side), selected: key(side) === key(chosen[word]) }, text);
  /** @param {string} name @param {Node[]} options */
  const group = (name, options) => (options.length ? [html('optgroup', { label: name }, ...options)] : []);
  const select = html(
    'select',
    {
      class: 'gap',
      id: `compare-${word}`,
      'aria-label': label,
      onchange: () => {
        if (select.value === 'file') {
          $('compare-file').click();
          select.value = key(chosen[word]);
          return;
        }
        chosen = { ...chosen, [word]: select.value === 'now' ? null : JSON.parse(select.value) };
        run();
      },
    },
    option(null, `now, revision ${S.model.revision}`),
    ...group(
      'Revisions',
      states.revisions
        .filter((/** @type {any} */ r) => r.number !== S.model.revision)
        .map((/** @type {any} */ r) => option({ revision: r.number }, `${r.number}: ${r.summary.slice(0, 48)}`)),
    ),
    ...group(
      'Variants',
      states.variants.map((/** @type {any} */ v) => option({ variant: v.id }, v.name)),
    ),
    ...group(
      'Other models',
      states.models.map((/** @type {any} */ m) => option({ model: m.id }, m.name)),
    ),
    ...group('Files', [
      ...files.map(f => option({ file: f.file }, f.name)),
      ...(word === 'from' ? [html('option', { value: 'file' }, 'a file…')] : []),
    ]),
  );
  return select;
}
function nodes() {
  const slider = html('input', {
    type: 'range',
    id: 'compare-divide',
    min: 0,
    max: 100,
    value: Math.round(share * 100),
    'aria-label': 'Divide between the two states',
    title: 'Left of the divide the first, right of it the second',
    oninput: () => move(Number(slider.value) / 100),
  });
  return [
    html('span', {}, 'Compare '),
    chooser('from', 'Compare this state'),
    html('span', {}, ' with '),
    chooser('to', 'with this state'),
    slider,
    html('p', { class: 'tally', role: 'status', id: 'compare-says' }, ...tally()),
    button('Done', endStandIn, { class: 'btn k', id: 'older-end' }),
  ];
}
const tally = () =>
  found
    ? [
        html('span', { class: 'gone' }, `${MARK.gone} gone `, html('span', { class: 'num' }, found.volumes[0])),
        html('span', { class: 'come' }, `${MARK.come} come `, html('span', { class: 'num' }, found.volumes[1])),
        ...(found.exact ? [] : [html('span', {}, 'by triangles, not exact')]),
      ]
    : [html('span', {}, 'comparing…')];
/** @param {number} to */
function move(to) {
  share = to;
  setDivide(to);
  $('divide').style.left = `${to * 100}%`;
  $('divide').hidden = to <= 0 || to >= 1;
}
async function run() {
  const mine = ++asked;
  found = null;
  say(nodes());
  const ends = await ask('/compare', {
    part: S.partId,
    ticket: 'compare',
    from: chosen.from ?? {},
    ...(chosen.to ? { to: chosen.to } : {}),
  }).catch(problem => {
    if (mine === asked && open) {
      complain(problem.message);
      sought('compare-says')?.replaceChildren(problem.message);
    }
    return null;
  });
  if (mine !== asked || !open || !ends) return;
  found = ends;
  say(nodes());
  words();
  await Promise.all([
    showTrial(found.sides[1].bodies),
    showBeside(found.sides[0].bodies),
    showStains(['gone', 'come'].flatMap(sort => found[sort].map((/** @type {any} */ f) => ({ ...f, sort })))),
  ]);
  if (open) move(share);
}
// the two sketches side by side, changed curves marked
/** @param {any[][]} sides */
function sketches(sides) {
  const boxed = document.createElementNS('http://www.w3.org/2000/svg', 'svg'),
    all = sides.flat().map(d => d.path);
  // how large both are together, from the browser's own reckoning
  boxed.setAttribute('class', 'measuring');
  const probe = svg('path', { d: all.join(' ') });
  boxed.append(probe);
  document.body.append(boxed);
  const { x, y, width, height } = probe.getBBox();
  boxed.remove();
  const pad = 0.06 * Math.max(width, height, 1),
    view = `${x - pad} ${-(y + height) - pad} ${width + 2 * pad} ${height + 2 * pad}`;
  return html(
    'div',
    { class: 'twosketches' },
    ...sides.map((side, i) =>
      svg(
        'svg',
        { viewBox: view, role: 'img', 'aria-label': i ? 'the sketch after' : 'the sketch before' },
        svg(
          'g',
          { transform: 'scale(1,-1)' },
          ...[...side]
            .sort((a, b) => (a.mark === 'same' ? -1 : 1) - (b.mark === 'same' ? -1 : 1))
            .map(d =>
              svg('path', { d: d.path, class: `${d.mark} ${i ? 'after' : 'before'}${d.construction ? ' aid' : ''}` }),
            ),
        ),
      ),
    ),
  );
}
function words() {
  const now = chosen.to === null;
  /** @param {any} d */
  const line = d =>
    html(
      'li',
      { class: 'step' },
      html('span', { class: 'n' }, d.number ? String(d.number) : ''),
      html(
        'div',
        { class: 'say' },
        d.text,
        ...(d.detail ? [html('small', {}, d.detail)] : []),
        ...(d.sketches ? [sketches(d.sketches)] : []),
        ...(now && d.edits.length
          ? [
              html('br'),
              html(
                'button',
                {
                  class: 'fix',
                  type: 'button',
                  'data-back': d.key,
                  onclick: () =>
                    edit(
                      d.edits.length === 1
                        ? d.edits[0]
                        : { kind: 'together', edits: d.edits, word: `Brought back: ${d.text}`.slice(0, 120) },
                    ).catch(() => {}),
                },
                d.fix,
              ),
            ]
          : []),
      ),
    );
  const same = found.unchanged;
  $('older-steps').replaceChildren(
    html('h2', {}, 'What differs'),
    html('ol', { class: 'differs' }, ...found.differences.map(line)),
    html(
      'p',
      { class: 'px-1' },
      found.differences.length
        ? same
          ? `${same} step${same === 1 ? ' is' : 's are'} as before.`
          : ''
        : 'Nothing differs.',
    ),
    html('h2', {}, 'Figures'),
    html(
      'table',
      { class: 'partslist figures' },
      html(
        'thead',
        {},
        html(
          'tr',
          {},
          html('th', {}, html('span', { class: 'visually-hidden' }, 'figure')),
          ...found.sides.map((/** @type {any} */ s) => html('th', { scope: 'col', title: s.title }, s.title)),
        ),
      ),
      html(
        'tbody',
        {},
        ...found.figures.map((/** @type {any} */ [what, before, after]) =>
          html(
            'tr',
            { class: before === after ? '' : 'differs' },
            html('th', { scope: 'row' }, what),
            html('td', { class: 'num' }, before),
            html('td', { class: 'num' }, after),
          ),
        ),
      ),
    ),
  );
}
/** @param {any} from */
export async function compareWith(from) {
  if (S.mode === 'sketch') {
    complain('Keep or drop the open sketch first.');
    return;
  }
  closeBar();
  await settled();
  states = await ask('/states').catch(problem => {
    complain(problem.message);
    return null;
  });
  if (!states) return;
  const before = states.revisions.find((/** @type {any} */ r) => r.number < S.model.revision);
  chosen = { from: from ?? (before ? { revision: before.number } : null), to: null };
  open = true;
  share = 0.5;
  standIn({
    label: 'Two states compared',
    nodes: [],
    keeps: ['model'],
    ended: () => {
      open = false;
      found = null;
      asked += 1;
      document.body.classList.remove('looking');
      $('divide').hidden = true;
      setDivide(null);
      showBeside(null);
      showStains([]);
    },
  });
  document.body.classList.add('looking');
  $('older-steps').replaceChildren(html('h2', {}, 'What differs'));
  run();
  $('compare-from').focus({ preventScroll: true });
}
// what was brought back is seen at once
on('model', async () => {
  if (!open) return;
  states = (await ask('/states').catch(() => null)) ?? states;
  if (open) run();
});
$('compare').addEventListener('click', () => compareWith(null));
$('revisions').addEventListener('click', event => {
  const b = targetOf(event).closest('[data-compare]');
  if (b) compareWith({ revision: Number(b.dataset.compare) });
});
$('compare-file').addEventListener('change', async () => {
  const [file] = $('compare-file').files;
  $('compare-file').value = '';
  if (!file) return;
  const form = new FormData();
  form.append('file', file);
  const told = await talk(`/api/models/${S.model.id}/compare/file`, form).catch(problem => complain(problem.message));
  if (!told) return;
  files = [...files.filter(f => f.file !== told.file), told];
  chosen = { ...chosen, from: { file: told.file } };
  if (open) run();
});
// the divide can be dragged in the view itself
$('divide').addEventListener('pointerdown', event => {
  event.preventDefault();
  event.stopPropagation();
  $('divide').setPointerCapture(event.pointerId);
  const box = $('view').getBoundingClientRect();
  /** @param {MouseEvent} e */
  const go = e => {
    move(Math.min(0.99, Math.max(0.01, (e.clientX - box.left) / box.width)));
    $('compare-divide').value = String(Math.round(share * 100));
  };
  $('divide').addEventListener('pointermove', go);
  $('divide').addEventListener('pointerup', () => $('divide').removeEventListener('pointermove', go), { once: true });
});
