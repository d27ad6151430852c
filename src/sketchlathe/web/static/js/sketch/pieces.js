// What the panels beside an open sketch are put together from.
import { html } from '../core/dom.js';
import { S, openSketch } from '../core/state.js';
import { edit } from '../core/api.js';

export const drawing = () => S.mode === 'sketch';
/** @param {string} what @param {any[]} value */
export const row = (what, ...value) =>
  html('div', { class: 'row2' }, html('span', {}, what), html('span', { class: 'num' }, ...value));
/** @param {string} word @param {() => void} act */
export const chip = (word, act, more = {}) =>
  html('button', { class: 'chip', type: 'button', onclick: act, ...more }, word);
/** @param {object} what */
export const mine = what => edit({ ...what, sketch: openSketch().id }).catch(() => {});
