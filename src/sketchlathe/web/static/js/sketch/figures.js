// Dimensions as on drawings (ISO 129): extension lines, arrows, text above the line. Pixels out, as
// descriptions of nodes.
import { h } from 'preact';

/** @param {number[]} a @param {number[]} b */
const sub = (a, b) => [a[0] - b[0], a[1] - b[1]];
/** @param {number[]} a @param {number[]} b */
const add = (a, b, k = 1) => [a[0] + k * b[0], a[1] + k * b[1]];
/** @param {number[]} a @param {number[]} b */
const dot = (a, b) => a[0] * b[0] + a[1] * b[1];
/** @param {number[]} a */
const unit = a => {
  const l = Math.hypot(a[0], a[1]) || 1;
  return [a[0] / l, a[1] / l];
};
/** @param {number[]} a @param {number[]} b */
const line = (a, b) => h('line', { class: 'dimline', x1: a[0], y1: a[1], x2: b[0], y2: b[1] });
/** @param {number[]} tip @param {number[]} way */
function arrow(tip, way) {
  const w = unit(way),
    n = [-w[1], w[0]],
    back = add(tip, w, -10);
  return h('path', { class: 'dimarrow', d: `M${tip}L${add(back, n, 2.6)}L${add(back, n, -2.6)}Z` });
}

// the two ends of a diameter that runs towards its text
/** @param {number[]} c @param {number[]} rim @param {number[]} label */
function across(c, rim, label) {
  const r = Math.hypot(...sub(rim, c)),
    w = unit(sub(label, c));
  return [add(c, w, r), add(c, w, -r)];
}

/** @type {Record<string, (points: number[][], label: number[], at: (p: number[]) => number[]) => any>} */
const forms = {
  /** @param {number[][]} points @param {number[]} label @param {(p: number[]) => number[]} at */
  linear([a, b, way], label, at) {
    const n = [-way[1], way[0]],
      /** @type {(p: number[]) => number[]} */
      foot = p => add(p, n, dot(sub(label, p), n));
    const [A, B, C, D, L] = [a, b, foot(a), foot(b), label].map(at),
      along = unit(sub(D, C)),
      nodes = [];
    for (const [from, to] of [
      [A, C],
      [B, D],
    ]) {
      const v = sub(to, from);
      if (Math.hypot(...v) > 5) nodes.push(line(add(from, unit(v), 4), add(to, unit(v), 6)));
    }
    const length = dot(sub(D, C), along),
      t = dot(sub(L, C), along),
      narrow = length < 34;
    nodes.push(line(add(C, along, Math.min(0, t)), add(C, along, Math.max(length, t))));
    if (narrow)
      nodes.push(
        line(add(C, along, -18), C),
        line(D, add(D, along, 18)),
        arrow(C, along),
        arrow(D, [-along[0], -along[1]]),
      );
    else nodes.push(arrow(C, [-along[0], -along[1]]), arrow(D, along));
    return { nodes, at: add(C, along, t), along };
  },
  /** @param {number[][]} points @param {number[]} label @param {(p: number[]) => number[]} at */
  radial([c, rim], label, at) {
    const [C, N, L] = [c, across(c, rim, label)[0], label].map(at),
      way = unit(sub(N, C)),
      outside = dot(sub(L, N), way) > 0;
    return {
      nodes: [line(outside ? N : C, outside ? L : N), arrow(N, outside ? [-way[0], -way[1]] : way)],
      at: L,
      along: way,
    };
  },
  /** @param {number[][]} points @param {number[]} label @param {(p: number[]) => number[]} at */
  diametral([c, rim], label, at) {
    const [N, F, L] = [...across(c, rim, label), label].map(at),
      way = unit(sub(N, F)),
      outside = dot(sub(L, N), way) > 0;
    return { nodes: [line(F, outside ? L : N), arrow(N, way), arrow(F, [-way[0], -way[1]])], at: L, along: way };
  },
  /** @param {number[][]} points @param {number[]} label @param {(p: number[]) => number[]} at */
  angular([c, u, v], label, at) {
    const r = Math.hypot(...sub(label, c)),
      a0 = Math.atan2(u[1], u[0]);
    let a1 = Math.atan2(v[1], v[0]);
    while (a1 < a0) a1 += 2 * Math.PI;
    /** @param {number} a */
    const p = a => at([c[0] + r * Math.cos(a), c[1] + r * Math.sin(a)]),
      steps = 24,
      points = Array.from({ length: steps + 1 }, (_, i) => p(a0 + ((a1 - a0) * i) / steps)),
      C = at(c);
    return {
      nodes: [
        h('path', { class: 'dimline', d: `M${points.join('L')}` }),
        arrow(points[0], sub(points[0], points[1])),
        arrow(points[steps], sub(points[steps], points[steps - 1])),
        line(C, p(a0)),
        line(C, p(a1)),
      ],
      at: at(label),
      along: [1, 0],
    };
  },
};

// the middle of a dimension's text and the way it runs, in pixels, were its text put at `label`
/** @param {any} d @param {number[]} label @param {(p: number[]) => number[]} at */
export const textAt = (d, label, at) => {
  const {
    at: [x, y],
    along,
  } = forms[d.form](d.points, label, at);
  return { x, y, along, w: ((d.text || '…').length + (d.formula ? 2 : 0)) * 7.9 + 8 };
};

// `ref`: told of its node, and of its going
/** @param {any} d @param {(p: number[]) => number[]} at @param {string} style @param {any} [put] @param {any} [ref] */
export function drawDimension(d, at, style, put = d.label, ref = null) {
  const {
    nodes,
    at: [x, y],
    along,
  } = forms[d.form](d.points, put, at);
  let turn = (Math.atan2(along[1], along[0]) * 180) / Math.PI;
  if (turn > 89.99 || turn < -90.01) turn += 180; // read from below or from the right
  const text = `${d.text || '…'}${d.formula ? ' ƒ' : ''}`,
    w = text.length * 7.9 + 8;
  const label = h(
    'g',
    { transform: `translate(${x.toFixed(1)} ${y.toFixed(1)}) rotate(${turn.toFixed(2)})` },
    h('rect', { class: 'pad', x: -w / 2, y: -19, width: w, height: 17, rx: 3 }),
    h('rect', { class: 'grab', x: -w / 2, y: -20, width: w, height: 22 }),
    h('text', { x: 0, y: -6 }, text),
  );
  return h(
    'g',
    { class: style, key: d.id, ref, ...(d.id && d.id !== 'new' ? { 'data-id': d.id } : {}) },
    h('title', {}, `${d.word}${d.formula ? ' =' : ''} ${d.value ?? ''}`),
    ...nodes,
    label,
  );
}
