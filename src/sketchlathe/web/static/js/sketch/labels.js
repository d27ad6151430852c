// Where the texts of dimensions stand: what a person laid stays, the others make room for each other, for tags and
// for the drawing.
import { $ } from '../core/dom.js';
import { openSketch } from '../core/state.js';
import { camera } from '../view/camera.js';
import { textAt } from './figures.js';

const chosen = new Map(); // by dimension: which candidate it took last, so that nothing jumps about
const MOST = 70;

/** @param {{ x: number, y: number, along: number[], w: number }} text */
function boxOf({ x, y, along, w }) {
  const c = Math.abs(along[0]),
    s = Math.abs(along[1]),
    n = [-along[1], along[0]],
    up = n[1] < 0 || (n[1] === 0 && n[0] < 0) ? 1 : -1;
  const mid = [x + n[0] * up * 10, y + n[1] * up * 10],
    half = [(w * c + 19 * s) / 2, (w * s + 19 * c) / 2];
  return [mid[0] - half[0], mid[1] - half[1], mid[0] + half[0], mid[1] + half[1]];
}
/** @param {number[]} a @param {number[]} b */
const common = (a, b) =>
  Math.max(0, Math.min(a[2], b[2]) - Math.max(a[0], b[0])) * Math.max(0, Math.min(a[3], b[3]) - Math.max(a[1], b[1]));
/** @param {number[]} box @param {number[]} at */
const inside = (box, [x, y]) => x > box[0] && x < box[2] && y > box[1] && y < box[3];

// places to try, nearest to the usual one first (sketch coordinates)
/** @type {Record<string, (d: any, px: number) => number[][]>} */
const places = {
  /** @param {any} d @param {number} px */
  linear({ points: [a, , way], label }, px) {
    const n = [-way[1], way[0]],
      off = (label[0] - a[0]) * n[0] + (label[1] - a[1]) * n[1],
      along = (label[0] - a[0]) * way[0] + (label[1] - a[1]) * way[1],
      side = off < 0 ? -1 : 1;
    /** @param {number} o @param {number} s */
    const at = (o, s) => [a[0] + n[0] * o + way[0] * s, a[1] + n[1] * o + way[1] * s];
    return [0, 1, 2, 3, 4]
      .flatMap(k => [at(off + side * k * 23 * px, along), at(-off - side * k * 23 * px, along)])
      .concat(
        [1, 2].flatMap(k => [
          at(off + side * k * 12 * px, along + 46 * px * k),
          at(off + side * k * 12 * px, along - 46 * px * k),
        ]),
      );
  },
  /** @param {any} d @param {number} px */
  radial({ points: [c, near], label }, px) {
    return around(c, Math.hypot(near[0] - c[0], near[1] - c[1]), label, px);
  },
  /** @param {any} d @param {number} px */
  diametral({ points: [c, near], label }, px) {
    return around(c, Math.hypot(near[0] - c[0], near[1] - c[1]), label, px);
  },
  /** @param {any} d @param {number} px */
  angular({ points: [c], label }, px) {
    const d = [label[0] - c[0], label[1] - c[1]],
      long = Math.hypot(...d) || px;
    return [1, 1.25, 0.75, 1.5, 1.8]
      .map(k => [c[0] + d[0] * k, c[1] + d[1] * k])
      .concat([30, 60].map(k => [c[0] + d[0] * (1 + (k * px) / long), c[1] + d[1] * (1 + (k * px) / long)]));
  },
};
/** @param {number[]} c @param {number} r @param {number[]} label @param {number} px */
function around(c, r, label, px) {
  const d = [label[0] - c[0], label[1] - c[1]],
    a = Math.atan2(d[1], d[0]),
    far = Math.max(Math.hypot(...d), r + 34 * px);
  const turns = [0, 0.5, -0.5, 1, -1, 1.6, -1.6, 2.2, -2.2, 2.8];
  return [far, far + 30 * px].flatMap(k => turns.map(t => [c[0] + k * Math.cos(a + t), c[1] + k * Math.sin(a + t)]));
}

/** @param {(p: number[]) => number[]} at @param {number[][]} tags */
function obstacles(at, tags) {
  const view = $('view').getBoundingClientRect(),
    boxes = tags.map(([x, y]) => [x - 10, y - 10, x + 10, y + 10]);
  for (const id of ['tray-sketch', 'bar', 'dial', 'options', 'hint']) {
    const r = $(id).getBoundingClientRect();
    if (r.width) boxes.push([r.left - view.left, r.top - view.top, r.right - view.left, r.bottom - view.top]);
  }
  const spots =
    openSketch().curves.length > 150 ? [] : openSketch().curves.flatMap(c => (c.outline ??= outline(c)).map(at));
  return { boxes, spots, ends: openSketch().curves.flatMap(c => c.points.map(p => at(p.at))) };
}
// places along a curve, close enough to tell whether a text lies over it
/** @param {Curve} c */
function outline(c) {
  const path = document.createElementNS('http://www.w3.org/2000/svg', 'path');
  if (!c.path) return []; // a point
  path.setAttribute('d', c.path);
  const long = path.getTotalLength();
  return Array.from({ length: 33 }, (_, i) => {
    const q = path.getPointAtLength((long * i) / 32);
    return [q.x, q.y];
  });
}

// → by id of the dimension, where its text stands (sketch coordinates); `tags`: middles of the constraint tags in
// pixels
/** @param {any[]} dimensions @param {(p: number[]) => number[]} at @param {number[][]} tags */
export function layLabels(dimensions, at, tags) {
  const put = new Map();
  if (dimensions.length > MOST) {
    for (const d of dimensions) put.set(d.id, d.label);
    return put;
  }
  const { boxes, spots, ends } = obstacles(at, tags),
    px = 1 / camera.scale,
    /** @type {number[][]} */
    taken = [];
  const laid = dimensions.filter(d => d.laid),
    free = dimensions.filter(d => !d.laid);
  for (const d of laid) {
    put.set(d.id, d.label);
    taken.push(boxOf(textAt(d, d.label, at)));
  }
  for (const d of free) {
    /** @type {any} */
    let best = null;
    places[d.form](d, px).forEach((/** @type {number[]} */ label, /** @type {number} */ i) => {
      const box = boxOf(textAt(d, label, at));
      let cost = i * 3 - (chosen.get(d.id) === i ? 14 : 0);
      for (const b of taken) cost += common(box, b) * 0.9;
      for (const b of boxes) cost += common(box, b) * 0.5;
      for (const p of ends) if (inside(box, p)) cost += 26;
      for (const p of spots) if (inside(box, p)) cost += 7;
      cost += Math.max(0, -box[0], -box[1], box[2] - camera.width, box[3] - camera.height) * 3;
      if (!best || cost < best.cost) best = { cost, label, i, box };
    });
    chosen.set(d.id, best.i);
    put.set(d.id, best.label);
    taken.push(best.box);
  }
  return put;
}
