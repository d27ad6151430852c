// What is selected in an open sketch: what it is called, measures and can take, and what of it can be changed there.
import { $, html } from '../core/dom.js';
import { S, on, openSketch } from '../core/state.js';
import { ask } from '../core/api.js';
import * as dimension from './dimension.js';
import { constrain } from './holding.js';
import { chip, drawing, mine, row } from './pieces.js';

let asking = 0;
on('selection', async () => {
  if (!drawing()) return;
  const refs = S.selection.filter(
    r => !openSketch().dimensions.some(d => d.id === r) && !openSketch().marks.some(m => m.id === r),
  );
  const dim = S.selection.length === 1 && openSketch().dimensions.find(d => d.id === S.selection[0]);
  const panel = $('selection-panel');
  panel.hidden = !S.selection.length;
  if (panel.hidden) return;
  const turn = ++asking;
  if (dim) {
    showDimension(dim);
    return;
  }
  const marks = S.selection.flatMap(r => openSketch().marks.find(m => m.id === r) ?? []);
  if (marks.length && !refs.length) {
    $('selection-title').textContent = 'Selected: constraint';
    $('selection-readout').replaceChildren(...marks.flatMap(m => [html('div', {}, m.text), ...counter(m)]));
    return;
  }
  const got = await ask(`/sketches/${openSketch().id}/selection`, { on: refs }).catch(() => null);
  if (!got || turn !== asking || !drawing()) return;
  $('selection-title').textContent =
    `Selected: ${got.names.length > 2 ? `${got.names.length} things` : got.names.join(' + ')}`;
  const following = [...openSketch().dimensions, ...openSketch().marks].filter(
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
/** @param {any} m */
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
/** @param {any} d */
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
/** @param {any} t */
function textFields(t) {
  /** @param {object} what */
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
