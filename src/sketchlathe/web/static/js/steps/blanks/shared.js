// What the editors of several types of blank need.
import { html } from '../../core/dom.js';
import { S, part } from '../../core/state.js';

// a blank filled by picking; what it is called by includes what it shows
/** @param {Told.BlankKind} blank @returns {HTMLElement & { say: (text: string) => void }} */
export function button(blank) {
  const node = /** @type {any} */ (html('button', { class: 'gap', type: 'button', title: blank.hint }));
  /** @param {string} text */
  node.say = text => {
    node.textContent = text;
    node.setAttribute('aria-label', `${blank.label}: ${text}`);
  };
  return node;
}

/** @type {Record<string, string>} */
export const PLANES = { top: 'top plane', front: 'front plane', right: 'right plane' };
/** @type {Record<string, string>} */
export const AXES = { x: 'x axis', y: 'y axis', z: 'z axis' };
/** @param {BlankBar} bar */
export const before = bar => part().steps.slice(0, bar.before ?? part().now ?? part().steps.length);
// datum steps that came out as a plane, an axis or a point
/** @param {BlankBar} bar @param {string} what */
export const datums = (bar, what) =>
  before(bar).filter(s => {
    const d = S.build?.steps.find(r => r.id === s.id)?.datum;
    return d && !s.skipped && (d.normal ? 'plane' : d.direction ? 'axis' : 'point') === what;
  });
/** @param {string} id */
export const titleOf = id => part().steps.find(s => s.id === id)?.title ?? id;

// An editor is left: nothing of its own is listed, taken or marked any more
// (edges and faces stay marked while a number for them is typed: not theirs).
/** @param {BlankBar} bar */
export function leave(bar) {
  bar.list([]);
  bar.takes(null);
  bar.walks(null);
  bar.digits(null);
  bar.marked(null);
}
