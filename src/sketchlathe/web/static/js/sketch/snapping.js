// What the pointer may snap to, from the lists that the server sends. Feel only: the server decides what is kept.
import { S } from '../core/state.js';
import { niceStep } from '../view/controls.js';
import { toScreen } from './layer.js';

const NEAR = 10;
let turn = 0;
export const cycle = () => { turn += 1; };
export const resetCycle = () => { turn = 0; };

// → {at, snap, ref, word, guide}; start is the point the band hangs from, if it is a segment
export function snap(p, pixel, { start = null, exclude = null, free = false } = {}) {
  const found = [...places(pixel, exclude), ...onCurves(p, pixel)];
  if (!found.length) found.push(...aligned(p, pixel, start));
  if (!found.length) { const step = niceStep(7); return { at: p.map((v) => +(Math.round(v / step) * step).toPrecision(12)), snap: null, ref: null, word: '' }; }
  found.sort((a, b) => a.rank - b.rank || a.d - b.d);
  const best = found[turn % found.length];
  return { ...best, ...(free ? { snap: null, ref: null, word: `${best.word}, not kept` } : {}), more: found.length };
}
function places(pixel, exclude) {
  const seen = new Set();
  return S.sketch.snaps.filter((s) => s.ref !== exclude).map((s) => { const q = toScreen(S.frame, s.at); return { at: s.at, snap: s.word, ref: s.ref, word: s.word, d: Math.hypot(q[0] - pixel[0], q[1] - pixel[1]), rank: ['quadrant', 'middle'].includes(s.word) ? 1 : 0 }; })
    .filter((s) => s.d < NEAR + 2).filter((s) => { const k = `${s.at.map((v) => v.toFixed(6))}`; if (seen.has(k)) return false; seen.add(k); return true; });
}
function onCurves(p, pixel) {
  const found = [];
  for (const c of S.sketch.curves) {
    let at = null, word = 'on line';
    if (c.tags.includes('line')) {
      const [a, b] = c.points.map((q) => q.at), l = (b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2 || 1, t = ((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / l;
      if (t > 0 && t < 1) at = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
    } else if (c.tags.includes('round')) {
      const o = c.points.find((q) => q.ref.endsWith('.centre')).at, d = Math.hypot(p[0] - o[0], p[1] - o[1]) || 1;
      at = [o[0] + (p[0] - o[0]) / d * c.sizes.radius, o[1] + (p[1] - o[1]) / d * c.sizes.radius]; word = 'on circle';
    }
    if (!at) continue;
    const q = toScreen(S.frame, at), d = Math.hypot(q[0] - pixel[0], q[1] - pixel[1]);
    if (d < NEAR - 2) found.push({ at, snap: word, ref: c.id, word, d, rank: 2 });
  }
  return found;
}
function aligned(p, pixel, start) {
  const found = [];
  if (start) {
    const s = toScreen(S.frame, start), dx = Math.abs(pixel[0] - s[0]), dy = Math.abs(pixel[1] - s[1]);
    if (dx > 14 && dy < Math.max(4, dx * 0.05)) found.push({ at: [p[0], start[1]], snap: 'horizontal', ref: null, word: 'horizontal', d: dy, rank: 3 });
    if (dy > 14 && dx < Math.max(4, dy * 0.05)) found.push({ at: [start[0], p[1]], snap: 'vertical', ref: null, word: 'vertical', d: dx, rank: 3 });
  }
  for (const s of S.sketch.snaps) {
    if (!s.ref || (!s.ref.includes('.') && s.ref !== 'origin')) continue;
    const q = toScreen(S.frame, s.at), dx = Math.abs(q[0] - pixel[0]), dy = Math.abs(q[1] - pixel[1]);
    if (dy < 5 && dx > 16) found.push({ at: [p[0], s.at[1]], snap: 'level with', ref: s.ref, word: `level with ${s.word}`, d: dy, rank: 4, guide: s.at });
    if (dx < 5 && dy > 16) found.push({ at: [s.at[0], p[1]], snap: 'plumb with', ref: s.ref, word: `plumb with ${s.word}`, d: dx, rank: 4, guide: s.at });
  }
  const level = found.filter((f) => ['horizontal', 'level with'].includes(f.snap)).sort((a, b) => a.rank - b.rank || a.d - b.d)[0];
  const plumb = found.filter((f) => ['vertical', 'plumb with'].includes(f.snap)).sort((a, b) => a.rank - b.rank || a.d - b.d)[0];
  const step = niceStep(7), round = (v) => +(Math.round(v / step) * step).toPrecision(12);
  if (level && !plumb) return [{ ...level, at: [round(level.at[0]), level.at[1]] }];
  if (plumb && !level) return [{ ...plumb, at: [plumb.at[0], round(plumb.at[1])] }];
  if (level && plumb) { const first = level.rank <= plumb.rank ? level : plumb; return [{ ...first, at: [plumb.at[0], level.at[1]] }]; }
  return [];
}
