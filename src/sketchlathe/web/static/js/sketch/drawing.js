// What is being drawn: the tool in hand, the places set so far, where the pointer is, the sizes typed.
import { openSketch, there } from '../core/state.js';

/** @type {Page.Drawing} */
export const now = {
  tool: null,
  places: [],
  pointer: null,
  pixel: null,
  typed: [],
  chainStart: null,
  alt: false,
  shown: null,
  arc: false,
};
/** The tool, where one is in hand. */
export const inHand = () => there(now.tool);
/** @param {number[]} p @param {number[]} q */
export const near = (p, q) => Math.hypot(p[0] - q[0], p[1] - q[1]);
// what can be typed at the pointer: before the first place where that is, then the tool's sizes
/** @returns {{ label: string, angle?: boolean, settled?: number }[]} */
export const slots = () => (now.places.length === 0 ? [{ label: 'across' }, { label: 'along' }] : inHand().sizes);

/** @returns {number | null} */
/** @param {number} i */
export const typedValue = i => (now.typed[i]?.ok ? there(now.typed[i].value) : null);

/** @param {Page.Spot} [spot] @returns {[number, number] | undefined} */
const beside = spot => spot && [spot.at[0] + openSketch().size * 0.2, spot.at[1] + openSketch().size * 0.2];
// where the next point is, with typed sizes taken into account
/** @returns {[number, number]} */
export function aimed() {
  const p = now.pointer?.at ?? beside(now.places.at(-1)) ?? [1, 1];
  if (!now.places.length) return p;
  const a = now.places[0].at,
    [s, t] = [typedValue(0), typedValue(1)];
  if (inHand().band === 'box')
    return [
      s === null ? p[0] : a[0] + (p[0] < a[0] && s > 0 ? -s : s),
      t === null ? p[1] : a[1] + (p[1] < a[1] && t > 0 ? -t : t),
    ];
  const d = [p[0] - a[0], p[1] - a[1]],
    l = Math.hypot(...d) || 1;
  if (inHand().band === 'segment' && (s !== null || t !== null)) {
    const w = t === null ? Math.atan2(d[1], d[0]) : t,
      k = s === null ? l : s;
    return [a[0] + k * Math.cos(w), a[1] + k * Math.sin(w)];
  }
  if (inHand().band === 'circle' && (s !== null || t !== null)) {
    const r = s === null ? there(t) : s / 2;
    return [a[0] + (d[0] / l) * r, a[1] + (d[1] / l) * r];
  }
  return p;
}
/** @param {Page.Spot} spot */
export const plain = ({ at, snap: word, ref, also, take, typed }) => ({
  at,
  snap: word ?? null,
  ref: ref ?? null,
  also: also ?? [],
  ...(take ? { take } : {}),
  ...(typed ? { typed } : {}),
});
// a chain's next curve starts where the one before ends (`after`: that job), which the server may still be drawing
/** @param {Page.Spot} p @returns {Page.Spot} */
export const settled = p =>
  p.after ? { at: p.after.end?.at ?? p.at, snap: 'end', ref: p.after.end?.ref ?? null } : plain(p);
// for the preview nothing is taken from the solid yet
/** @param {Page.Spot} p */
export const shownAs = p => {
  const { take, typed, ...rest } = settled(p);
  return take ? { ...rest, snap: null, ref: null, also: [] } : rest;
};
