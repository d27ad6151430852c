// What the pointer may snap to, from the lists that the server sends. Feel only: the server decides what is kept.
import { S, openSketch, there } from '../core/state.js';
import { niceStep, toScreen } from '../view/places.js';

const NEAR = 10,
  STRAIGHT = 0.05;
let turn = 0;
export const cycle = () => {
  turn += 1;
};
export const resetCycle = () => {
  turn = 0;
};

/** @param {[number, number]} p @param {[number, number]} pixel
 @param {{ start?: any, exclude?: string | null, free?: boolean, box?: boolean, straight?: boolean }} how
 @returns {Page.Spot} */
// start is the point the band hangs from ({at, ref}), box whether a level box is being drawn, straight whether a
// line is
export function snap(p, pixel, { start = null, exclude = null, free = false, box = false, straight = false } = {}) {
  /** @type {Page.Spot[]} */
  const found = [...places(pixel, exclude), ...onCurves(p, pixel, exclude)];
  if (start && straight) found.push(...touching(pixel, start));
  const directed = start && !box ? directions(p, pixel, start) : [];
  if (!found.length) found.push(...aligned(p, pixel, box ? null : start?.at), ...directed);
  if (box && start) found.push(...square(p, pixel, start.at));
  if (!found.length) {
    const step = niceStep(7);
    /** @param {number} v */
    const whole = v => +(Math.round(v / step) * step).toPrecision(12);
    return { at: [whole(p[0]), whole(p[1])], snap: null, ref: null, word: '' };
  }
  found.sort((a, b) => (a.rank ?? 0) - (b.rank ?? 0) || (a.d ?? 0) - (b.d ?? 0));
  const best = found[turn % found.length];
  if (free) return { at: best.at, snap: null, ref: null, word: `${best.word}, not kept`, more: found.length };
  return { ...best, more: found.length };
}
// every place that can be snapped to, of the sketch and (taken along when used) of the solid around it
/** @returns {Page.Spot[]} */
export const all = () =>
  [...openSketch().snaps, ...(openSketch().crossings ?? [])]
    .map(s => ({ at: s.at, snap: s.word, ref: s.ref, word: s.word }))
    .concat((openSketch().around ?? []).map(({ at, snap, ref, word, take }) => ({ at, snap, ref, word, take })));
/** @param {number[]} pixel @param {string | null} exclude */
function places(pixel, exclude) {
  const seen = new Set();
  return all()
    .filter(s => s.ref !== exclude || !exclude)
    .map(s => {
      const q = toScreen(S.frame, s.at);
      return {
        ...s,
        d: Math.hypot(q[0] - pixel[0], q[1] - pixel[1]),
        rank: (['quadrant', 'middle', 'intersection'].includes(s.snap ?? '') ? 1 : 0) + (s.take ? 0.5 : 0),
      };
    })
    .filter(s => s.d < NEAR + 2)
    .filter(s => {
      const k = `${s.at.map(v => v.toFixed(6))}`;
      if (seen.has(k)) return false;
      seen.add(k);
      return true;
    });
}
/** @param {number[]} p @param {number[]} pixel @param {string | null} exclude */
function onCurves(p, pixel, exclude) {
  const found = [];
  for (const c of openSketch().curves) {
    if (exclude && exclude.split('.')[0] === c.id && !exclude.endsWith('.centre')) continue;
    const near = nearestOn(c, p);
    if (!near) continue;
    const q = toScreen(S.frame, near.at),
      d = Math.hypot(q[0] - pixel[0], q[1] - pixel[1]);
    if (d >= NEAR - 2) continue;
    found.push({ at: near.at, snap: near.snap ?? near.word, ref: c.id, word: near.word, d, rank: 2 });
    // the centre of a circle under the pointer is always among the candidates
    const centre = c.points.find(q => q.ref.endsWith('.centre'));
    if (centre) found.push({ at: centre.at, snap: 'centre', ref: centre.ref, word: `centre of ${c.word}`, d, rank: 7 });
  }
  return found;
}
// where a line from the start touches a circle; a start that lies on another circle slides there until it touches both
// (one at its top or side may stay there too)
/** @param {number[]} pixel @param {any} start @returns {Page.Spot[]} */
function touching(pixel, start) {
  /** @type {any[]} */
  const found = [],
    [x, y] = start.at,
    rounds = openSketch().curves.filter(c => c.tags.includes('round')),
    own = rounds.find(c => c.id === start.ref && ['on circle', 'quadrant'].includes(start.snap));
  /** @param {Curve} c @param {number[]} at @param {any} told */
  const offer = (c, at, told) => {
    const q = toScreen(S.frame, at),
      d = Math.hypot(q[0] - pixel[0], q[1] - pixel[1]);
    if (d < NEAR + 2 && reaches(c, at)) found.push({ at, snap: 'touching', ref: c.id, d, ...told });
  };
  for (const c of rounds) {
    if (c.id === start.ref || c.ends.includes(start.ref)) continue;
    if (own)
      for (const [from, at] of touchingBoth(own, c)) {
        // it stays on the side that was clicked
        if (Math.hypot(from[0] - x, from[1] - y) > own.sizes.radius || !reaches(own, from)) continue;
        const word = `tangent to ${own.word} and ${c.word}`,
          starts = { at: from, snap: 'on circle', ref: own.id };
        offer(c, at, { word, rank: 1, also: [{ snap: 'tangent', ref: own.id }], starts });
      }
    if (!own || start.snap === 'quadrant')
      for (const at of touchingFrom(start.at, c)) offer(c, at, { word: `tangent to ${c.word}`, rank: own ? 1.5 : 1 });
  }
  return found;
}
/** @param {Curve} c @returns {[number, number]} */
const centreOf = c => there(c.points.find(q => q.ref.endsWith('.centre'))).at;
// whether an arc goes so far round; it runs counterclockwise from its first end
/** @param {Curve} c @param {number[]} at */
function reaches(c, at) {
  if (!c.tags.includes('arc')) return true;
  const o = centreOf(c),
    /** @type {(p: number[]) => number} */
    angle = p => Math.atan2(p[1] - o[1], p[0] - o[0]),
    [start, end] = c.ends.map(ref => angle(there(c.points.find(q => q.ref === ref)).at)),
    /** @type {(a: number) => number} */
    round = a => (a + 4 * Math.PI) % (2 * Math.PI);
  return round(angle(at) - start) <= (round(end - start) || 2 * Math.PI);
}
// the normal of the line is at an angle whose cosine is known
/** @param {number[]} a @param {Curve} c @returns {number[][]} */
function touchingFrom(a, c) {
  const o = centreOf(c),
    r = c.sizes.radius;
  return normals([a[0] - o[0], a[1] - o[1]], r).map(n => [o[0] + r * n[0], o[1] + r * n[1]]);
}
// pairs of places: on the circle where the line starts, on the other
/** @param {Curve} own @param {Curve} c @returns {number[][][]} */
function touchingBoth(own, c) {
  const [o, r] = [centreOf(own), own.sizes.radius],
    [to, radius] = [centreOf(c), c.sizes.radius];
  return [radius, -radius].flatMap(s =>
    normals([to[0] - o[0], to[1] - o[1]], r - s).map(n => [
      [o[0] + r * n[0], o[1] + r * n[1]],
      [to[0] + s * n[0], to[1] + s * n[1]],
    ]),
  );
}
// the unit vectors that reach so far along d
/** @param {number[]} d @param {number} reach */
function normals(d, reach) {
  const l = Math.hypot(...d),
    k = reach / l;
  if (!(Math.abs(k) < 1)) return [];
  const h = Math.sqrt(1 - k * k),
    [x, y] = [d[0] / l, d[1] / l];
  return [
    [k * x - h * y, k * y + h * x],
    [k * x + h * y, k * y - h * x],
  ];
}
/** @param {Curve} c @param {number[]} p @returns {{ at: any, word: string, snap?: string } | null} */
function nearestOn(c, p) {
  if (c.tags.includes('line')) {
    const [a, b] = c.points.map(q => q.at),
      l = (b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2 || 1,
      t = ((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / l;
    return t > 0 && t < 1 ? { at: [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])], word: 'on line' } : null;
  }
  if (c.tags.includes('round')) {
    const o = centreOf(c),
      d = Math.hypot(p[0] - o[0], p[1] - o[1]) || 1,
      at = [o[0] + ((p[0] - o[0]) / d) * c.sizes.radius, o[1] + ((p[1] - o[1]) / d) * c.sizes.radius];
    return reaches(c, at) ? { at, snap: 'on circle', word: c.tags.includes('arc') ? 'on arc' : 'on circle' } : null;
  }
  if (c.tags.includes('elliptic') || c.tags.includes('spline')) {
    c.samples ??= sampled(c.path);
    let best = null,
      least = Infinity;
    for (const q of c.samples) {
      const d = (q[0] - p[0]) ** 2 + (q[1] - p[1]) ** 2;
      if (d < least) {
        least = d;
        best = q;
      }
    }
    return best && { at: best, word: 'on curve' };
  }
  return null;
}
/** @param {string} d */
function sampled(d) {
  const path = document.createElementNS('http://www.w3.org/2000/svg', 'path');
  path.setAttribute('d', d);
  const long = path.getTotalLength();
  return Array.from({ length: 241 }, (_, i) => {
    const q = path.getPointAtLength((long * i) / 240);
    return [q.x, q.y];
  });
}
// where a line from a start may go: along others, at right angles, running on, as long as another
/** @param {number[]} p @param {number[]} pixel @param {any} start */
function directions(p, pixel, start) {
  /** @type {Page.Spot[]} */
  const found = [];
  const a = start.at,
    d = [p[0] - a[0], p[1] - a[1]],
    l = Math.hypot(...d);
  const s = toScreen(S.frame, a);
  if (Math.hypot(pixel[0] - s[0], pixel[1] - s[1]) < 24) return found;
  const lines = openSketch().curves.filter(c => c.tags.includes('line'));
  /** @param {number[]} u @param {string} snap @param {string} ref @param {string} word */
  const close = (u, snap, ref, word) => {
    const k = d[0] * u[0] + d[1] * u[1],
      off = Math.abs(d[0] * u[1] - d[1] * u[0]) / l;
    if (off < STRAIGHT) found.push({ at: [a[0] + k * u[0], a[1] + k * u[1]], snap, ref, word, d: off * 100, rank: 5 });
  };
  for (const c of lines) {
    const [b, e] = c.points.map(q => q.at),
      m = Math.hypot(e[0] - b[0], e[1] - b[1]) || 1,
      u = [(e[0] - b[0]) / m, (e[1] - b[1]) / m];
    if (Math.abs(u[0]) < 1e-6 || Math.abs(u[1]) < 1e-6) continue; // level and plumb say it already
    const mine = start.ref && start.ref.split('.')[0] === c.id;
    if (!mine) close(u, 'parallel', c.id, `parallel to ${c.word}`);
    close([-u[1], u[0]], 'at right angles', c.id, `at right angles to ${c.word}`);
  }
  /** @param {Curve} c */
  const onIt = c => (c.tags.includes('arc') && c.ends.includes(start.ref)) || c.id === start.ref;
  const arc = start.ref && openSketch().curves.find(c => c.tags.includes('round') && onIt(c));
  if (arc) {
    const o = centreOf(arc),
      r = Math.hypot(a[0] - o[0], a[1] - o[1]) || 1;
    close([-(a[1] - o[1]) / r, (a[0] - o[0]) / r], 'tangent', arc.id, `tangent to ${arc.word}`);
  }
  const pixelsPer = Math.hypot(pixel[0] - s[0], pixel[1] - s[1]) / (l || 1);
  for (const c of lines) {
    const [b, e] = c.points.map(q => q.at),
      m = Math.hypot(e[0] - b[0], e[1] - b[1]);
    if (Math.abs(m - l) * pixelsPer < 5 && m > 0)
      found.push({
        at: [a[0] + (d[0] / l) * m, a[1] + (d[1] / l) * m],
        snap: 'equal length',
        ref: c.id,
        word: `as long as ${c.word}`,
        d: Math.abs(m - l) * pixelsPer,
        rank: 6,
      });
  }
  return found;
}
/** @param {number[]} p @param {number[]} pixel @param {number[]} a @returns {Page.Spot[]} */
function square(p, pixel, a) {
  const w = p[0] - a[0],
    h = p[1] - a[1],
    side = Math.max(Math.abs(w), Math.abs(h));
  if (!side || Math.abs(Math.abs(w) - Math.abs(h)) > 0.04 * side) return [];
  const m = (Math.abs(w) + Math.abs(h)) / 2;
  return [
    {
      at: [a[0] + Math.sign(w) * m, a[1] + Math.sign(h) * m],
      snap: 'square',
      ref: null,
      word: 'square',
      d: 0,
      rank: 3,
    },
  ];
}
/** @param {number[]} p @param {number[]} pixel @param {number[]} [start] */
function aligned(p, pixel, start) {
  /** @type {any[]} */
  const found = [];
  if (start) {
    const s = toScreen(S.frame, start),
      dx = Math.abs(pixel[0] - s[0]),
      dy = Math.abs(pixel[1] - s[1]);
    if (dx > 14 && dy < Math.max(4, dx * STRAIGHT))
      found.push({ at: [p[0], start[1]], snap: 'horizontal', ref: null, word: 'horizontal', d: dy, rank: 3 });
    if (dy > 14 && dx < Math.max(4, dy * STRAIGHT))
      found.push({ at: [start[0], p[1]], snap: 'vertical', ref: null, word: 'vertical', d: dx, rank: 3 });
  }
  // lined up with what is drawn; what is only near a corner of the solid is not tied to it
  for (const s of all()) {
    if (s.take) continue;
    const point = s.ref && (s.ref.includes('.') || s.ref === 'origin'),
      middle = s.snap === 'middle' && s.ref;
    if (!point && !middle) continue;
    const q = toScreen(S.frame, s.at),
      dx = Math.abs(q[0] - pixel[0]),
      dy = Math.abs(q[1] - pixel[1]),
      way = middle ? ' middle' : '';
    if (dy < 5 && dx > 16)
      found.push({
        at: [p[0], s.at[1]],
        snap: `level with${way}`,
        ref: s.ref,
        word: `level with ${s.word}`,
        d: dy,
        rank: 4,
        guide: s.at,
      });
    if (dx < 5 && dy > 16)
      found.push({
        at: [s.at[0], p[1]],
        snap: `plumb with${way}`,
        ref: s.ref,
        word: `plumb with ${s.word}`,
        d: dx,
        rank: 4,
        guide: s.at,
      });
  }
  /** @param {string[]} words */
  const first = words =>
    found.filter(f => words.some(w => f.snap.startsWith(w))).sort((a, b) => a.rank - b.rank || a.d - b.d)[0];
  const level = first(['horizontal', 'level with']),
    plumb = first(['vertical', 'plumb with']);
  const step = niceStep(7),
    /** @type {(v: number) => number} */
    round = v => +(Math.round(v / step) * step).toPrecision(12);
  if (level && !plumb) return [{ ...level, at: [round(level.at[0]), level.at[1]] }];
  if (plumb && !level) return [{ ...plumb, at: [plumb.at[0], round(plumb.at[1])] }];
  // both are shown, so both hold
  if (level && plumb) {
    const [main, second] = level.rank <= plumb.rank ? [level, plumb] : [plumb, level];
    return [
      {
        ...main,
        at: [plumb.at[0], level.at[1]],
        word: `${level.word}, ${plumb.word}`,
        also: [{ snap: second.snap, ref: second.ref }],
        guides: [level.guide, plumb.guide].filter(Boolean),
      },
    ];
  }
  return [];
}
