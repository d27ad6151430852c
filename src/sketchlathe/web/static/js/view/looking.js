// Ways to look: the three-quarter view, the view before this one, all of them by name; a part is seen again as it was
// left.
import { $ } from '../core/dom.js';
import { S, on } from '../core/state.js';
import { recall, remember } from '../core/kept.js';
import { findable } from '../ui/keys.js';
import { camera } from './camera.js';
import { boxPoints } from './scene.js';

const { PI } = Math;
/** @type {Record<string, [number, number]>} */
const WAYS = {
  'the top': [-PI / 2, PI / 2],
  'the bottom': [-PI / 2, -PI / 2],
  'the front': [-PI / 2, 0],
  'the back': [PI / 2, 0],
  'the right': [0, 0],
  'the left': [PI, 0],
};
const QUARTER = { az: -PI / 2 + 0.6, el: 0.5 };
const standing = () => ({ target: [...camera.target], az: camera.az, el: camera.el, scale: camera.scale });
/** @param {any} a @param {any} b */
const alike = (a, b) => JSON.stringify(a) === JSON.stringify(b);

// a view that is kept for a moment is one that may be gone back to
/** @type {any[]} */
const past = [];
/** @type {any} */
let here = null,
  settling = 0;
const place = () => `view.${S.model.id}.${S.partId}`;
function settled() {
  const now = standing();
  if (S.mode !== 'solid' || !there || alike(now, here)) return;
  if (here) past.push(here);
  if (past.length > 30) past.shift();
  here = now;
  remember(place(), now);
}
on('camera', () => {
  clearTimeout(settling);
  settling = setTimeout(settled, 350);
});
// how one part was looked at is not how the next one was left: nothing is remembered before that is there
let there = false;
on('part', () => {
  clearTimeout(settling);
  here = null;
  there = false;
});
on('shown', () => {
  there ||= Boolean(S.build?.bodies.length);
});
export function before() {
  settled();
  const last = past.pop();
  if (!last) return;
  here = last;
  camera.go(last);
}
export const quarter = () => camera.go({ ...QUARTER, ...fitted() });
const fitted = () => {
  const points = boxPoints();
  return points.length ? camera.fitting(points, QUARTER, 24) : {};
};
// as the part was left in this browser; false where it was never seen, or would not be seen so
export function asLeft() {
  /** @type {any} */
  const kept = recall(place(), {}),
    numbers = [...(Array.isArray(kept.target) ? kept.target : []), kept.az, kept.el, kept.scale];
  if (numbers.length !== 6 || !numbers.every(Number.isFinite) || kept.scale <= 0) return false;
  const was = standing();
  Object.assign(camera, kept);
  const inside = boxPoints().some(p => {
    const [x, y] = camera.project(p);
    return x > 0 && y > 0 && x < camera.width && y < camera.height;
  });
  if (!inside) Object.assign(camera, was);
  else camera.changed();
  return inside;
}
$('quarter').addEventListener('click', quarter);
$('view-before').addEventListener('click', before);
findable.push(() =>
  Object.entries(WAYS).map(([word, [az, el]]) => ({
    name: `Look from ${word}`,
    where: 'view',
    about: 'view direction see orientation',
    go: () => camera.go({ az, el }),
  })),
);
