// What stands in the view while a step is made: the handle, which does the same as its main number, and what its
// preview shows to belong together.
import { $, svg, targetOf } from '../core/dom.js';
import { S } from '../core/state.js';
import { bare, exact } from '../core/units.js';
import { extra, redraw } from '../sketch/layer.js';
import { add, camera } from '../view/camera.js';
import { niceStep } from '../view/places.js';

// `open`: the step that is being made, as the bar has it; `put`: a value into one of its blanks
/** @param {() => any} open @param {(name: string, text: string) => void} put */
export function standInView(open, put) {
  /** @type {any} */
  let pulling = null;
  const shownNow = () => open()?.result?.preview ?? null;
  extra.push(() => {
    const h = shownNow()?.handle;
    if (!h) return [];
    const at = camera.project(h.origin),
      way = camera.project(add(h.origin, h.direction));
    const per = [way[0] - at[0], way[1] - at[1]],
      l = Math.hypot(...per);
    if (l < 0.05 * camera.scale) return [];
    const mm = pulling?.mm ?? heightOf(h);
    const tip = [at[0] + (per[0] * mm) / h.factor, at[1] + (per[1] * mm) / h.factor];
    const g = svg(
      'g',
      { class: 'handle', 'data-handle': h.field },
      svg('line', { x1: at[0], y1: at[1], x2: tip[0], y2: tip[1] }),
      svg('circle', { cx: tip[0], cy: tip[1], r: 7 }),
      svg('text', { class: 'handlenum', x: tip[0] + 13, y: tip[1] + 4 }, bare(mm)),
    );
    return [g];
  });
  // what a preview shows to belong together: a line through its places, in their order
  extra.push(() => {
    const traces = open()?.kind.traces,
      spots = traces ? (shownNow()?.spots ?? []) : [];
    if (spots.length < 2) return [];
    /** @type {number[][]} */
    const at = spots.map((/** @type {{ at: number[] }} */ s) => camera.project(s.at));
    const [x, y] = at[0];
    return [
      svg('path', { class: 'gauge', fill: 'none', d: `M${at.map(([px, py]) => `${px} ${py}`).join('L')}` }),
      ...at.map(([cx, cy]) => svg('circle', { class: 'gaugeend', cx, cy, r: 4 })),
      svg('text', { class: 'gaugenum', x: x + 10, y: y + 16 }, traces),
    ];
  });
  /** @param {any} h */
  const heightOf = h => {
    const tool = shownNow().tools[0];
    if (!tool) return 0;
    const [lo, hi] = tool.box;
    const span = [0, 1, 2].reduce((sum, i) => sum + Math.abs(h.direction[i]) * (hi[i] - lo[i]), 0);
    return span;
  };
  $('view').addEventListener(
    'pointerdown',
    event => {
      if (!open() || event.button !== 0 || !targetOf(event).closest('.handle')) return;
      const h = shownNow().handle;
      // a number below nought goes the other way, and the handle already points there
      const sign = /^\s*[-−]/.test(open().fields[h.field]) ? -1 : 1;
      pulling = { h, sign, mm: heightOf(h) };
      $('view').setPointerCapture(event.pointerId);
      event.stopPropagation();
    },
    true,
  );
  $('view').addEventListener('pointermove', event => {
    if (!pulling) return;
    const b = $('view').getBoundingClientRect(),
      { h } = pulling;
    const at = camera.project(h.origin),
      way = camera.project(add(h.origin, h.direction)),
      per = [way[0] - at[0], way[1] - at[1]];
    const raw =
      (((event.clientX - b.left - at[0]) * per[0] + (event.clientY - b.top - at[1]) * per[1]) /
        (per[0] ** 2 + per[1] ** 2)) *
      h.factor;
    const stepSize = niceStep(9);
    const wanted = Math.round(raw / stepSize) * stepSize,
      mm = h.through && wanted < 0 ? wanted : Math.max(stepSize, wanted);
    if (mm === pulling.mm) return;
    pulling.mm = mm;
    const text = `${exact(pulling.sign * mm, 8)} ${S.model.units}`;
    put(h.field, text);
    redraw();
  });
  $('view').addEventListener('pointerup', () => {
    if (pulling) {
      pulling = null;
      redraw();
    }
  });
  return () => pulling !== null;
}
