// The person's unit of length, and how a length in it is written. Inside everything is mm.
import { S } from './state.js';

/** @type {Record<string, number>} */
export const MM = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8, µm: 0.001 };
export const factor = () => MM[S.model.units];
/** @param {number} value */
const noNoise = value => (Math.abs(value) < 1e-9 ? 0 : value);

// a whole number of 64ths of an inch, shortened: 1 1/4; '' for what is none
/** @param {number} inches */
function fraction(inches) {
  const parts = Math.round(Math.abs(inches) * 64);
  if (Math.abs(Math.abs(inches) * 64 - parts) > 64e-6) return '';
  const whole = Math.floor(parts / 64),
    sign = inches < 0 && parts ? '-' : '';
  let over = parts % 64,
    under = 64;
  while (over && over % 2 === 0) {
    over /= 2;
    under /= 2;
  }
  return sign + [whole || !over ? `${whole}` : '', over ? `${over}/${under}` : ''].filter(Boolean).join(' ');
}
// a length in mm (or an area, power 2) as a number in the person's unit
/** @param {number} mm @param {number} power @param {(value: number) => number} round */
const written = (mm, power, round) =>
  (S.model.fractions && power === 1 && fraction(mm / 25.4)) || String(round(noNoise(mm / factor() ** power)));
/** @param {number} mm */
export const bare = (mm, digits = 3) => written(mm, 1, v => +v.toFixed(digits));
/** @param {number} mm */
export const exact = (mm, digits = 7, power = 1) => written(mm, power, v => +v.toPrecision(digits));
/** @param {number} mm */
export const withUnit = (mm, digits = 7, power = 1) =>
  `${exact(mm, digits, power)} ${S.model.units}${power > 1 ? '²' : ''}`;

// the handy lengths in the person's unit: 1, 2, 5 and their tens; with fractions halves, quarters, … below one inch
/** @param {number} least */
export function handyStep(least) {
  const wanted = least / factor();
  if (S.model.fractions && wanted <= 1) {
    for (const under of [64, 32, 16, 8, 4, 2, 1]) if (1 / under >= wanted * 0.999) return factor() / under;
  }
  const ten = 10 ** Math.floor(Math.log10(wanted));
  return factor() * ([1, 2, 5].map(k => k * ten).find(v => v >= wanted * 0.999) ?? 10 * ten);
}
// how many of these steps lie between two heavier ones
/** @param {number} step */
export const heavyEvery = step => (S.model.fractions && step < 0.999 * factor() ? 4 : 5);

// a plain number with or without its unit needs no asking; the server reads it again when it is kept
const PLAIN = /^([-+]?(?:\d+\.?\d*|\.\d+))\s*(mm|cm|m|in|deg|°)?$/;
/** @param {string} text @param {boolean} [angle] */
export function plainNumber(text, angle) {
  const found = PLAIN.exec(text.trim());
  if (!found || (angle ? /m|in/.test(found[2] ?? '') : /deg|°/.test(found[2] ?? ''))) return null;
  return angle ? (Number(found[1]) * Math.PI) / 180 : Number(found[1]) * MM[found[2] ?? S.model.units];
}
