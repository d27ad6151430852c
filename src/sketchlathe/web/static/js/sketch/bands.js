// What a tool shows between the first place and the pointer, and how large that is.
import { svg } from '../core/dom.js';
import { S } from '../core/state.js';
import { inSketch, toScreen } from '../view/places.js';

/** In pixels, and of a box in the plane too.
 @type {Record<string, (a: number[], b: number[], pa: number[], pb: number[]) => SVGElement[]>} */
export const bands = {
  point: () => [],
  drawn: () => [],
  segment: (a, b) => [svg('line', { class: 'band', x1: a[0], y1: a[1], x2: b[0], y2: b[1] })],
  box: (a, b, pa, pb) => [
    svg('path', {
      class: 'band',
      d: `M${a}L${toScreen(S.frame, [pb[0], pa[1]])}L${b}L${toScreen(S.frame, [pa[0], pb[1]])}Z`,
    }),
  ],
  circle: (a, b) => [svg('circle', { class: 'band', cx: a[0], cy: a[1], r: Math.hypot(b[0] - a[0], b[1] - a[1]) })],
};
/** @type {Record<string, (a: number[], b: number[]) => number[]>} */
export const measures = {
  segment: (a, b) => [Math.hypot(b[0] - a[0], b[1] - a[1]), Math.atan2(b[1] - a[1], b[0] - a[0])],
  box: (a, b) => [Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])],
  circle: (a, b) => [2, 1].map(k => k * Math.hypot(b[0] - a[0], b[1] - a[1])),
  point: () => [],
  drawn: () => [],
};
// what the server would draw
/** @param {{ path: string, construction?: boolean }[]} paths */
export const drawn = paths =>
  inSketch(
    ...paths.map(s =>
      svg('path', { class: `band ${s.construction ? 'thin' : ''}`, d: s.path, 'vector-effect': 'non-scaling-stroke' }),
    ),
  );
