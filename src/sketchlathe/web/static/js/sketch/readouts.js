// What stands beside an open sketch: how free it is, what looks unintended, what is selected and what it can take.
import { $, S, emit, html, kinds, on, svg } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { hint } from '../ui/messages.js';
import { camera } from '../view/camera.js';
import * as dimension from './dimension.js';
import { underlayRows } from './underlay.js';
import { draft, redraw, toScreen } from './layer.js';

const drawing = () => S.mode === 'sketch';
const row = (what, ...value) =>
  html('div', { class: 'row2' }, html('span', {}, what), html('span', { class: 'num' }, ...value));
const chip = (word, act, more = {}) => html('button', { class: 'chip', type: 'button', onclick: act, ...more }, word);
const mine = what => edit({ ...what, sketch: S.sketch.id }).catch(() => {});

export function readouts() {
  if (!S.sketch) return;
  const n = S.sketch.freedom,
    all = Math.max(S.sketch.curves.length * 4, n, 1),
    drawn = S.sketch.curves.length;
  $('sketch-panel').hidden = false;
  const repairs = S.sketch.repairs ?? [];
  $('sketch-readout').replaceChildren(
    html(
      'div',
      { class: 'row2' },
      html('span', {}, n ? 'free to move' : 'state'),
      html(
        'b',
        { id: 'freedom' },
        drawn ? (n ? `${n} way${n === 1 ? '' : 's'}` : 'fully constrained') : 'nothing drawn yet',
      ),
    ),
    html('div', { class: 'meter', 'aria-hidden': 'true' }, html('i')),
    ...(n && drawn
      ? [
          html(
            'div',
            { class: 'chips' },
            chip('show how it moves', swing, {
              id: 'swing',
              'data-name': 'Show how it moves',
              'data-chord': 'qm',
              title: 'Show how it moves (q m): swings what is free',
            }),
            chip('suggest', suggest, {
              id: 'suggest',
              'data-name': 'Suggest what would hold it',
              'data-chord': 'qs',
              title: 'Suggest (q s): what would hold what is free, one at a time',
            }),
          ),
        ]
      : []),
    html('div', { id: 'sketch-help', 'aria-live': 'polite' }),
    row('closed regions', html('span', { id: 'region-count' }, String(S.sketch.regions.length))),
    ...(S.sketch.open_ends.length ? [row('open ends', String(S.sketch.open_ends.length))] : []),
    ...(S.sketch.unmet
      ? [html('p', { class: 'mb-0 text-danger-emphasis' }, `Cannot have all its sizes: ${S.sketch.unmet}`)]
      : []),
    ...(repairs.length
      ? [
          html(
            'details',
            { class: 'repairs', open: repairs.some(r => r.what === 'gap') },
            html('summary', {}, `${repairs.length} thing${repairs.length > 1 ? 's' : ''} to look at`),
            html(
              'ul',
              {},
              ...repairs.slice(0, 6).map(r =>
                html(
                  'li',
                  {
                    onmouseenter: () => point(r.at),
                    onmouseleave: () => {
                      draft.nodes = [];
                      redraw();
                    },
                  },
                  r.text,
                  ' ',
                  html(
                    'button',
                    {
                      class: 'fix',
                      type: 'button',
                      onclick: () => {
                        draft.nodes = [];
                        mine({ kind: 'repair_sketch', finding: r.what, on: r.refs });
                      },
                    },
                    r.fix,
                  ),
                ),
              ),
            ),
          ),
        ]
      : []),
    html('label', { class: 'row2' }, html('span', {}, 'pick'), filterBox()),
    html('label', { class: 'row2' }, html('span', {}, 'constraint tags'), tagsBox()),
    ...underlayRows(() => emit('choosefile')),
  );
  $('sketch-readout').querySelector('.meter i').style.width = drawn ? `${Math.round(100 * (1 - n / all))}%` : '0';
}
function point(at) {
  const [x, y] = toScreen(S.frame, at);
  draft.nodes = [svg('circle', { class: 'look', cx: x, cy: y, r: 14 })];
  redraw();
}

// what can be picked: everything, or one sort only
export const FILTERS = {
  all: 'everything',
  curves: 'curves only',
  points: 'points only',
  dimensions: 'dimensions only',
  marks: 'constraint tags only',
};
function filterBox() {
  return html(
    'select',
    {
      id: 'pick-filter',
      'aria-label': 'What can be picked',
      onchange: e => {
        S.filter = e.target.value;
      },
    },
    ...Object.entries(FILTERS).map(([v, w]) => html('option', { value: v, selected: v === (S.filter ?? 'all') }, w)),
  );
}
function tagsBox() {
  const box = html('input', {
    type: 'checkbox',
    'aria-label': 'Show constraint tags',
    onchange: e => {
      S.tagsHidden = !e.target.checked;
      redraw();
    },
  });
  box.checked = !S.tagsHidden;
  return box;
}
export function passes(ref) {
  const f = S.filter ?? 'all';
  if (!ref || f === 'all') return true;
  if (f === 'points') return ref.includes('.') || ref === 'origin';
  if (f === 'curves') return !ref.includes('.') && (ref.endsWith('_axis') || S.sketch.curves.some(c => c.id === ref));
  return S.sketch[f].some(d => d.id === ref);
}

// show how it moves: real motions, frame by frame
let swinging = 0;
export function stopSwing() {
  swinging += 1;
}
async function swing() {
  const run = ++swinging,
    still = matchMedia('(prefers-reduced-motion: reduce)').matches;
  const motions = await ask(`/sketches/${S.sketch.id}/motions`).catch(() => []);
  const help = $('sketch-help');
  if (!motions.length || run !== swinging) {
    help.textContent = 'Nothing can move.';
    return;
  }
  help.replaceChildren(
    html(
      'ol',
      { class: 'motions' },
      ...motions.map((m, i) =>
        html(
          'li',
          {},
          html(
            'button',
            {
              class: 'fix',
              type: 'button',
              onclick: () => {
                swinging += 1;
                play([m], swinging, still);
              },
            },
            `${i + 1}. ${m.text}`,
          ),
        ),
      ),
    ),
  );
  play(motions, run, still);
}
async function play(motions, run, still) {
  for (const m of motions) {
    for (const [i, frame] of (still ? [m.frames[Math.floor(m.frames.length / 4)]] : m.frames).entries()) {
      if (run !== swinging || !drawing()) {
        draft.nodes = [];
        redraw();
        return;
      }
      draft.nodes = [
        svg(
          'g',
          {
            transform: `matrix(${camera
              .matrix(S.frame)
              .map(v => v.toFixed(5))
              .join(' ')})`,
          },
          ...Object.values(frame).map(d => svg('path', { class: 'swing', d, 'vector-effect': 'non-scaling-stroke' })),
        ),
      ];
      redraw();
      await new Promise(r => setTimeout(r, still ? 900 : 34));
      void i;
    }
  }
  draft.nodes = [];
  redraw();
}

async function suggest() {
  const found = await ask(`/sketches/${S.sketch.id}/suggestions`).catch(() => []);
  let at = 0;
  const help = $('sketch-help');
  const show = () => {
    if (!found.length) {
      help.textContent = 'No suggestion: drag what is free and dimension it.';
      return;
    }
    const p = found[at];
    S.selection = p.refs.filter(r => r !== 'new');
    emit('selection');
    help.replaceChildren(
      html('p', { class: 'suggestion' }, p.text + (p.value ? ` (now ${p.value})` : '')),
      chip(
        'do it',
        async () => {
          await mine(p.value ? { ...p.edit, value: p.value } : p.edit);
          S.selection = [];
          emit('selection');
          if (S.sketch?.freedom) suggest();
        },
        { id: 'do-suggestion' },
      ),
      ...(found.length > 1
        ? [
            chip('another', () => {
              at = (at + 1) % found.length;
              show();
            }),
          ]
        : []),
      chip('no', () => {
        help.replaceChildren();
        S.selection = [];
        emit('selection');
      }),
    );
    $('do-suggestion').focus();
  };
  show();
}

// a refused constraint or dimension: what it fights with, and the ways out
on('refused', problem => {
  if (!drawing() || !problem.fights?.length) return;
  S.fights = problem.fights;
  redraw();
  const help = $('sketch-help'),
    asked = problem.edit,
    over = () => {
      S.fights = [];
      help?.replaceChildren();
      redraw();
    };
  const word = id =>
    problem.words?.[problem.fights.indexOf(id)] ?? S.sketch.marks.find(m => m.id === id)?.text ?? 'a join';
  if (!help || !['add_constraint', 'add_dimension', 'set_dimension'].includes(asked?.kind)) {
    setTimeout(over, 6000);
    return;
  }
  const retry = async id => {
    over();
    if (await mine({ kind: 'delete_from_sketch', ids: [id] })) await mine(asked);
  };
  help.replaceChildren(
    html(
      'div',
      { class: 'fight', role: 'group', 'aria-label': 'Ways out of the conflict' },
      html('b', {}, 'It fights with what is marked.'),
      ...(asked.kind === 'add_dimension'
        ? [
            chip('make it a reference', () => {
              over();
              mine({ ...asked, driving: false });
              dimension.stop();
            }),
          ]
        : []),
      ...problem.fights.slice(0, 9).map(id =>
        chip(
          `remove ${word(id)}`,
          () => {
            dimension.stop();
            retry(id);
          },
          {
            onmouseenter: () => {
              S.hot = id;
              redraw();
            },
            onmouseleave: () => {
              S.hot = null;
              redraw();
            },
          },
        ),
      ),
      chip('drop it', () => {
        over();
        dimension.stop();
      }),
    ),
  );
});

const exists = r =>
  r === 'origin' ||
  r.endsWith('_axis') ||
  S.sketch.curves.some(c => c.id === r.split('.')[0]) ||
  S.sketch.marks.some(m => m.id === r) ||
  S.sketch.dimensions.some(d => d.id === r);
on('sketch', () => {
  stopSwing();
  readouts();
  S.selection = S.selection.filter(r => exists(r));
  emit('selection');
});

let asking = 0;
on('selection', async () => {
  if (!drawing()) return;
  const refs = S.selection.filter(
    r => !S.sketch.dimensions.some(d => d.id === r) && !S.sketch.marks.some(m => m.id === r),
  );
  const dim = S.selection.length === 1 && S.sketch.dimensions.find(d => d.id === S.selection[0]);
  const panel = $('selection-panel');
  panel.hidden = !S.selection.length;
  if (panel.hidden) return;
  const turn = ++asking;
  if (dim) {
    showDimension(dim);
    return;
  }
  const marks = S.selection.map(r => S.sketch.marks.find(m => m.id === r)).filter(Boolean);
  if (marks.length && !refs.length) {
    $('selection-title').textContent = 'Selected: constraint';
    $('selection-readout').replaceChildren(...marks.flatMap(m => [html('div', {}, m.text), ...counter(m)]));
    return;
  }
  const got = await ask(`/sketches/${S.sketch.id}/selection`, { on: refs }).catch(() => null);
  if (!got || turn !== asking || !drawing()) return;
  $('selection-title').textContent =
    `Selected: ${got.names.length > 2 ? `${got.names.length} things` : got.names.join(' + ')}`;
  const following = [...S.sketch.dimensions, ...S.sketch.marks].filter(
    m => m.counted && refs.length === 1 && m.members?.includes(refs[0].split('.')[0]),
  );
  $('selection-readout').replaceChildren(
    ...got.facts.map(([what, value]) => row(what, value)),
    ...following.flatMap(counter),
    ...(got.text ? textFields(got.text) : []),
    ...(refs.length <= 2 && refs.length
      ? [chip('dimension', () => dimension.start(), { title: 'Dimension what is selected (k d)' })]
      : []),
    ...(got.rims ? ['near', 'far'].map(rim => chip(`dimension to the ${rim} side`, () => dimension.start(rim))) : []),
    ...got.offers.map(o =>
      html(
        'button',
        {
          class: 'chip',
          type: 'button',
          disabled: Boolean(o.why),
          title: o.why || `${o.word} (${o.chord.split('').join(' ')})`,
          onclick: () => constrain(o.kind),
        },
        html('span', { 'aria-hidden': 'true' }, o.symbol),
        o.word,
        ...(o.why ? [html('span', { class: 'visually-hidden' }, `: ${o.why}`)] : []),
      ),
    ),
    ...got.offers
      .filter(o => o.why)
      .slice(0, 2)
      .map(o => html('small', { class: 'whynot' }, `${o.word}: ${o.why}`)),
  );
});
const counter = m =>
  m.counted
    ? [
        html(
          'label',
          { class: 'row2' },
          html('span', {}, m.counted),
          html('input', {
            type: 'number',
            class: 'count',
            min: 2,
            max: 200,
            value: m.count,
            'aria-label': `Number of ${m.counted}`,
            onchange: e => mine({ kind: 'set_count', id: m.id, count: Math.round(Number(e.target.value)) || 0 }),
          }),
        ),
      ]
    : [];
function showDimension(d) {
  $('selection-title').textContent = 'Selected: dimension';
  $('selection-readout').replaceChildren(
    row(d.word, d.text),
    ...counter(d),
    html(
      'label',
      { class: 'row2' },
      html('span', {}, 'name'),
      html('input', {
        class: 'count wide',
        maxlength: 40,
        value: d.name,
        placeholder: 'none',
        'aria-label': 'Name of the dimension',
        disabled: !d.driving,
        onchange: e => mine({ kind: 'set_dimension', id: d.id, name: e.target.value }),
      }),
    ),
    chip(d.driving ? 'make it a reference' : 'make it driving', () =>
      mine({ kind: 'set_dimension', id: d.id, driving: !d.driving }),
    ),
    ...(d.round && d.driving
      ? [
          chip(d.round === 'radius' ? 'as a diameter ⌀' : 'as a radius R', () =>
            mine({
              kind: 'set_dimension',
              id: d.id,
              value: d.round === 'radius' ? `⌀ 2*(${d.value})` : `R (${d.value})/2`,
            }),
          ),
        ]
      : []),
    ...(d.rim
      ? [
          chip(`measure to the ${d.rim === 'near' ? 'far' : 'near'} side`, () =>
            mine({ kind: 'set_dimension', id: d.id, rim: d.rim === 'near' ? 'far' : 'near' }),
          ),
        ]
      : []),
    ...(d.driving ? [chip('change', () => dimension.change(d.id))] : []),
  );
}
function textFields(t) {
  const set = what => mine({ kind: 'set_text', id: t.id, ...what });
  const mirrored = html('input', {
    type: 'checkbox',
    'aria-label': 'mirrored',
    onchange: e => set({ mirrored: e.target.checked }),
  });
  mirrored.checked = t.mirrored;
  return [
    html(
      'label',
      { class: 'row2' },
      html('span', {}, 'text'),
      html('input', {
        class: 'count wide',
        maxlength: 200,
        value: t.words,
        'aria-label': 'What the text says',
        onchange: e => set({ words: e.target.value }),
      }),
    ),
    html(
      'label',
      { class: 'row2' },
      html('span', {}, 'font'),
      html(
        'select',
        { 'aria-label': 'Font', onchange: e => set({ font: e.target.value }) },
        ...Object.entries(t.fonts).map(([f, w]) => html('option', { value: f, selected: f === t.font }, w)),
      ),
    ),
    html(
      'label',
      { class: 'row2' },
      html('span', {}, 'spacing'),
      html('input', {
        type: 'number',
        class: 'count',
        min: 0.5,
        max: 5,
        step: 0.05,
        value: t.spacing,
        'aria-label': 'Spacing',
        onchange: e => set({ spacing: Number(e.target.value) || 1 }),
      }),
    ),
    html('label', { class: 'row2' }, html('span', {}, 'mirrored'), mirrored),
  ];
}
// a constraint chosen before the things it is to hold: they are clicked after it, again and again until Esc
const held = { kind: null };
const holdable = () =>
  S.selection.filter(r => !S.sketch.dimensions.some(d => d.id === r) && !S.sketch.marks.some(m => m.id === r));
export const holding = {
  active: () => held.kind,
  stop() {
    held.kind = null;
  },
  back() {
    if (!held.kind) return false;
    held.kind = null;
    S.selection = [];
    emit('selection');
    hint('');
    redraw();
    return true;
  },
  async click(ref) {
    if (!ref || S.sketch.dimensions.some(d => d.id === ref) || S.sketch.marks.some(m => m.id === ref)) return;
    S.selection = S.selection.includes(ref) ? S.selection.filter(r => r !== ref) : [...S.selection, ref];
    emit('selection');
    redraw();
    const { kind } = held,
      refs = holdable();
    if (!refs.length) return;
    const offers = (await ask(`/sketches/${S.sketch.id}/selection`, { on: refs }).catch(() => null))?.offers ?? [];
    if (held.kind !== kind) return;
    if (offers.some(o => o.kind === kind.kind)) {
      await put(kind.kind, refs);
      S.selection = [];
      emit('selection');
      say();
      return;
    }
    if (refs.length >= kind.most) {
      hint(`${cap(kind.word)} cannot hold these. ${kind.hint}`);
      S.selection = [];
      emit('selection');
      return;
    }
    say();
  },
};
const cap = word => word[0].toUpperCase() + word.slice(1);
const say = () => {
  const next = S.selection.length ? 'the next thing' : 'what it is to hold';
  hint(`${cap(held.kind.word)}: click ${next}. ${held.kind.hint} Esc ends`);
};
const put = (kind, refs) =>
  edit({ kind: 'add_constraint', sketch: S.sketch.id, constraint: kind, on: refs.slice(0, 4) }).then(
    () => true,
    () => false,
  );
export async function constrain(kind) {
  const refs = holdable();
  if (!refs.length) {
    held.kind = kinds.constraints.find(c => c.kind === kind);
    say();
    return;
  }
  await edit({ kind: 'add_constraint', sketch: S.sketch.id, constraint: kind, on: refs.slice(0, 4) }).then(
    () => {
      S.selection = [];
      emit('selection');
    },
    () => {},
  );
}
