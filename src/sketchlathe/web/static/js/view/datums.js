// Datum planes, axes and points, and which sketches show: faint in the view, each with a box to hide it.
import { html, svg } from '../core/dom.js';
import { S, emit, on, part, stepKind } from '../core/state.js';
import { extra, redraw, showUnused } from '../sketch/layer.js';
import { add, camera, dot } from './camera.js';
import { corners } from './scene.js';

const hidden = new Set();
export const shownByHand = new Map(); // sketches: id → shown or not; those nothing uses yet show by themselves
S.shownSketches = shownByHand;
/** @param {Told.StepFacts[]} steps */
const among = steps => steps.flatMap(s => (s.datum ? [{ id: s.id, datum: s.datum }] : []));
const built = () => among(S.build?.steps ?? []);
export const reach = () =>
  Math.max(60 / camera.scale, ...(S.build?.bodies ?? []).flatMap(b => b.box.flat().map(Math.abs)), 1) * 1.08;
/** @param {string} id */
const titleOf = id => part().steps.find(s => s.id === id)?.title ?? 'as it would be';
/** @param {number[][]} points */
const line = points => points.map(p => camera.project(p).map(n => n.toFixed(1))).join('L');

// the piece of a plane beside or across the part; round its origin where there is none
/** @param {any} plane */
function patch({ origin, x, y }) {
  const points = (S.build?.bodies ?? []).flatMap(b => corners(b.box)).map(p => [0, 1, 2].map(i => p[i] - origin[i])),
    [us, vs] = [x, y].map(way => points.map(p => dot(p, way))),
    r = reach() * (points.length ? 0.12 : 0.7);
  /** @param {number[]} at @returns {[number, number]} */
  const span = at => [Math.min(...at, at.length ? Infinity : 0) - r, Math.max(...at, at.length ? -Infinity : 0) + r];
  const [[u0, u1], [v0, v1]] = [span(us), span(vs)];
  return [
    [u0, v0],
    [u1, v0],
    [u1, v1],
    [u0, v1],
  ].map(([u, v]) => add(add(origin, x, u), y, v));
}
extra.push(() =>
  S.mode === 'sketch'
    ? []
    : among(S.tried ?? S.build?.steps ?? [])
        .filter(s => !hidden.has(s.id))
        .flatMap(({ id, datum: d }) => {
          /** @param {number[]} p */
          const name = p => {
            const [x, y] = camera.project(p);
            return svg('text', { class: 'datumname', x: x + 5, y: y - 5 }, titleOf(id));
          };
          if (d.normal) {
            const corners = patch(d);
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
