// Between a plane's own coordinates and the pixels of the view.
import { S } from '../core/state.js';
import { svg } from '../core/dom.js';
import { handyStep } from '../core/units.js';
import { camera } from './camera.js';

// a handy length of at least so many pixels, mm
/** @param {number} pixels */
export function niceStep(pixels) {
  return handyStep(pixels / camera.scale);
}

/** @param {Frame} frame */
export const matrixText = frame =>
  `matrix(${camera
    .matrix(frame)
    .map(v => v.toFixed(5))
    .join(' ')})`;
// what a tool draws in the open sketch's own coordinates
/** @param {any[]} nodes */
export const inSketch = (...nodes) => svg('g', { transform: matrixText(S.frame) }, ...nodes);
/** @param {Frame} frame @param {Vec} p @returns {[number, number]} */
export function toScreen(frame, p) {
  const [a, b, c, d, e, f] = camera.matrix(frame);
  return [a * p[0] + c * p[1] + e, b * p[0] + d * p[1] + f];
}
