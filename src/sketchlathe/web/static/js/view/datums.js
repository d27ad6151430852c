// Datum planes, axes and points, and which sketches show: faint in the view, each with a box to hide it.
import { html, svg } from '../core/dom.js';
import { S, emit, on, part, stepKind } from '../core/state.js';
import { extra, redraw, showUnused } from '../sketch/layer.js';
import { add, camera } from './camera.js';

const hidden = new Set();
export const shownByHand = new Map(); // sketches: id → shown or not; those nothing uses yet show by themselves
S.shownSketches = shownByHand;
const built = () => (S.build?.steps ?? []).flatMap(s => (s.datum ? [{ id: s.id, datum: s.datum }] : []));
export const reach = () =>
  Math.max(60 / camera.scale, ...(S.build?.bodies ?? []).flatMap(b => b.box.flat().map(Math.abs)), 1) * 1.08;
/** @param {string} id */
const titleOf = id => part().steps.find(s => s.id === id)?.title ?? id;
/** @param {number[][]} points */
const line = points => points.map(p => camera.project(p).map(n => n.toFixed(1))).join('L');

extra.push(() =>
  S.mode === 'sketch'
    ? []
    : built()
        .filter(s => !hidden.has(s.id))
        .flatMap(({ id, datum: d }) => {
          /** @param {number[]} p */
          const name = p => {
            const [x, y] = camera.project(p);
            return svg('text', { class: 'datumname', x: x + 5, y: y - 5 }, titleOf(id));
          };
          if (d.normal) {
            const r = reach() * 0.7,
              corners = [
                [-1, -1],
                [1, -1],
                [1, 1],
                [-1, 1],
              ].map(([u, v]) => add(add(d.origin, d.x, u * r), d.y, v * r));
            return [svg('path', { class: 'datum', d: `M${line(corners)}Z`, 'data-datum': id }), name(corners[3])];
          }
          if (d.direction) {
            const a = add(d.origin, d.direction, -reach()),
              b = add(d.origin, d.direction, reach());
            return [svg('path', { class: 'datum axis', d: `M${line([a, b])}` }), name(b)];
          }
          const [x, y] = camera.project(d.origin);
          return [svg('path', { class: 'datum', d: `M${x - 7} ${y}h14M${x} ${y - 7}v14` }), name(d.origin)];
        }),
);

// rows for the View panel
export function datumRows() {
  const sketches = part().steps.filter(s => stepKind(s.kind).drawn && !s.skipped);
  const used = new Set(part().steps.flatMap(s => (s.skipped ? [] : s.uses)));
  /** @param {string} id @param {boolean} on_ @param {(on: boolean) => void} change */
  const row = (id, on_, change) => {
    const box = html('input', {
      type: 'checkbox',
      'aria-label': `Show ${titleOf(id)}`,
      onchange: () => change(box.checked),
    });
    box.checked = on_;
    return html('li', {}, box, html('span', {}, titleOf(id)));
  };
  return [
    ...sketches.map(s =>
      row(s.id, shownByHand.get(s.id) ?? !used.has(s.id), on_ => {
        shownByHand.set(s.id, on_);
        showUnused();
      }),
    ),
    ...built().map(s =>
      row(s.id, !hidden.has(s.id), on_ => {
        if (on_) hidden.delete(s.id);
        else hidden.add(s.id);
        redraw();
      }),
    ),
  ];
}
on('build', () => emit('view-panel'));
