// Measuring what is picked: values, the line they are taken along; kept measurements follow the model.
import { $, html, sought, svg } from '../core/dom.js';
import { S, built, on } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { withUnit } from '../core/units.js';
import { camera } from '../view/camera.js';
import { extra, redraw } from '../sketch/layer.js';
import { thingOf } from '../steps/picks.js';

/** @type {any} */
let live = null,
  asked = 0,
  showing = true;
/** @param {any} row */
const text = ([, value, dimension]) =>
  dimension === 'angle'
    ? `${+((value * 180) / Math.PI).toPrecision(7)}°`
    : withUnit(value, 7, dimension === 'area' ? 2 : 1);

on('picked', async () => {
  await null; // the Bench says first what is picked
  const hits = S.picked ?? [],
    mine = ++asked;
  live = null;
  redraw();
  if (S.mode !== 'solid' || hits.length < 1 || hits.length > 2) {
    fill([]);
    return;
  }
  const things = hits.map(thingOf);
  if (things.includes(null)) {
    fill([]);
    return;
  }
  const found = await ask('/measure', { part: S.partId, things, ticket: 'measure' }).catch(() => null);
  if (mine !== asked || !found) return;
  live = { ...found, things };
  fill(found.rows);
  redraw();
});
/** @param {any[]} rows */
function fill(rows) {
  let box = sought('measured');
  if (!box) {
    box = html('div', { id: 'measured', 'aria-live': 'polite' });
    $('selection-panel').append(box);
  }
  box.replaceChildren(
    ...rows.map(r =>
      html(
        'div',
        { class: 'row2', 'data-gauge': r[0] },
        html('span', {}, r[0]),
        html('span', { class: 'num' }, text(r)),
      ),
    ),
    ...(rows.length
      ? [
          html(
            'button',
            {
              class: 'chip',
              type: 'button',
              id: 'keep-measure',
              'data-chord': 'wk',
              'data-name': 'Keep this measurement',
              title: 'Keep it (w k): taken again after every change',
              onclick: () => edit({ kind: 'keep_measurement', part: S.partId, things: live.things }).catch(() => {}),
            },
            'keep this',
          ),
        ]
      : []),
  );
}
on('build', () => {
  const kept = built().measurements ?? [];
  $('measure-panel').hidden = !kept.length;
  $('measures').replaceChildren(
    ...kept.map((m, i) =>
      html(
        'div',
        { class: 'kept', 'data-kept': m.id },
        html('b', {}, String.fromCharCode(65 + (i % 26))),
        html(
          'div',
          {},
          ...(m.problem
            ? [html('span', { class: 'verdict off' }, `✗ ${m.problem}`)]
            : m.rows
                .slice(0, 5)
                .map(r =>
                  html('div', { class: 'row2' }, html('span', {}, r[0]), html('span', { class: 'num' }, text(r))),
                )),
        ),
        html(
          'button',
          {
            class: 'iconbtn',
            type: 'button',
            'aria-label': `Drop measurement ${String.fromCharCode(65 + (i % 26))}`,
            title: 'Do not keep it',
            onclick: () => edit({ kind: 'drop_measurement', part: S.partId, id: m.id }).catch(() => {}),
          },
          '✕',
        ),
      ),
    ),
    ...(kept.length ? [html('label', {}, show(), ' in the view')] : []),
  );
});
function show() {
  const box = html('input', {
    type: 'checkbox',
    onchange: () => {
      showing = box.checked;
      redraw();
    },
  });
  box.checked = showing;
  return box;
}

/** @param {any} m @param {string} letter */
function lines(m, letter) {
  return m.lines.flatMap((/** @type {any} */ [a, b, row]) => {
    const p = camera.project(a),
      q = camera.project(b);
    if (Math.hypot(p[0] - q[0], p[1] - q[1]) < 2) return [];
    return [
      svg('line', { class: 'gauge', x1: p[0], y1: p[1], x2: q[0], y2: q[1] }),
      ...[p, q].map(([x, y]) => svg('circle', { class: 'gaugeend', cx: x, cy: y, r: 3.5 })),
      svg(
        'text',
        { class: 'gaugenum', x: (p[0] + q[0]) / 2 + 6, y: (p[1] + q[1]) / 2 - 6 },
        `${letter}${text(m.rows[row])}`,
      ),
    ];
  });
}
extra.push(() => {
  if (S.mode !== 'solid') return [];
  return [
    ...(live ? lines(live, '') : []),
    ...(showing
      ? (S.build?.measurements ?? []).flatMap((m, i) => lines(m, `${String.fromCharCode(65 + (i % 26))} `))
      : []),
  ];
});
on('mode', () => {
  live = null;
});
