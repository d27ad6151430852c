// Bodies moved by hand: a press on one that is free drags it as its place allows; what it then stands at is written
// into its step.
import { $ } from '../core/dom.js';
import { S, emit } from '../core/state.js';
import { edit } from '../core/api.js';
import { withUnit } from '../core/units.js';
import { niceStep } from './places.js';
import { add, camera, cross, dot } from './camera.js';
import { highlight, setApart, setMoved } from './scene.js';
import { under } from './under.js';
import { isPulling } from '../steps/bar.js';
import { isOpen } from '../steps/filling.js';
import { hint } from '../ui/messages.js';

/** @type {any} */
let held = null;
export const isMoving = () => Boolean(held?.moving);
/** @param {MouseEvent} event @returns {[number, number]} */
const at = event => {
  const b = $('view').getBoundingClientRect();
  return [event.clientX - b.left, event.clientY - b.top];
};
// where a ray through a pixel meets the plane through a point
/** @param {number[]} pixel @param {number[]} point @param {number[]} normal */
function meets([x, y], point, normal) {
  const { at: near } = camera.ray(x, y),
    n = camera.normal(),
    k = dot(add(point, near, -1), normal) / (dot(n, normal) || 1e-9);
  return add(near, n, k);
}
/** @param {number[]} normal */
const flatEnough = normal => Math.abs(dot(camera.normal(), normal)) > 0.15;
// how far along a line the pixel means
/** @param {number[]} pixel @param {number[]} point @param {number[]} way */
function alongLine([x, y], point, way) {
  const n = camera.normal(),
    side = cross(way, n),
    across = cross(side, way);
  if (Math.hypot(...across) < 1e-6) return 0;
  const p = meets(
    [x, y],
    point,
    across.map(v => v / Math.hypot(...across)),
  );
  return dot(add(p, point, -1), way);
}
/** @param {number[]} pixel @param {{ turn: [number[], number[]] }} hand */
function angleAt(pixel, { turn: [point, way] }) {
  if (flatEnough(way)) {
    const d = add(meets(pixel, point, way), point, -1),
      u = cross(way, Math.abs(way[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0]),
      long = Math.hypot(...u),
      x = u.map(v => v / long),
      y = cross(way, x);
    return Math.atan2(dot(d, y), dot(d, x));
  }
  // seen from the side a turn is how far the pointer goes across the axis
  const [a, b] = [camera.project(point), camera.project(add(point, way))],
    long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  return (((pixel[0] - a[0]) * (b[1] - a[1]) - (pixel[1] - a[1]) * (b[0] - a[0])) / long / 80) * -1;
}
// to handy steps of about three pixels
/** @param {number} v */
const snapped = v => {
  const step = niceStep(3);
  return Math.round(v / step) * step;
};
// what a drag to a pixel means: a turn or a shift
/** @param {number[]} pixel @param {boolean} turning */
function motion(pixel, turning) {
  const { hand, start, point } = held;
  if (hand.turn && (turning || !(hand.slide || hand.shift))) {
    let angle = angleAt(pixel, hand) - angleAt(start, hand);
    if (angle > Math.PI) angle -= 2 * Math.PI;
    if (angle < -Math.PI) angle += 2 * Math.PI;
    const step = Math.PI / 180;
    return { at: hand.turn[0], way: hand.turn[1], angle: Math.round(angle / step) * step };
  }
  if (hand.slide) {
    const by = snapped(alongLine(pixel, point, hand.slide) - alongLine(start, point, hand.slide));
    return { by: hand.slide.map((/** @type {number} */ v) => v * by), along: by };
  }
  // what is free any way is moved on the level, unless that is seen from the side
  const plane = hand.on ?? [0, 0, 1],
    normal = flatEnough(plane) ? plane : camera.normal();
  let by = add(meets(pixel, point, normal), meets(start, point, normal), -1);
  if (hand.on && normal !== hand.on) by = add(by, hand.on, -dot(by, hand.on));
  return { by: by.map(snapped) };
}
/** @param {any} m */
const said = m =>
  m.angle !== undefined
    ? `turned by ${((m.angle * 180) / Math.PI).toFixed(0)}°`
    : m.along !== undefined
      ? `slid by ${withUnit(m.along, 4)}`
      : `moved by ${m.by.map((/** @type {number} */ v) => withUnit(v, 4).split(' ')[0]).join(', ')}`;

$('view').addEventListener('pointerdown', event => {
  if (
    event.button !== 0 ||
    event.pointerType === 'touch' ||
    S.mode !== 'solid' ||
    isOpen() ||
    isPulling() ||
    event.altKey
  )
    return;
  const pixel = at(event),
    [hit] = under(...pixel, ['face']),
    hand = hit && S.build?.hands?.[hit.facts.id];
  if (!hand || !(hand.turn || hand.slide || hand.shift)) return;
  held = { hand, start: pixel, point: hit.point, ids: [hand.body, ...hand.others], moving: false };
});
$('view').addEventListener('pointermove', event => {
  if (!held || !(event.buttons & 1)) return;
  const pixel = at(event);
  if (!held.moving) {
    if (Math.hypot(pixel[0] - held.start[0], pixel[1] - held.start[1]) < 5) return;
    held.moving = true;
    $('view').setPointerCapture(event.pointerId);
    highlight([], []);
    $('snapnote').hidden = true;
  }
  held.motion = motion(pixel, event.shiftKey);
  setMoved(held.ids, held.motion);
  const both = held.hand.turn && (held.hand.slide || held.hand.shift);
  hint(`${said(held.motion)}${both ? '; with Shift it turns' : ''}`);
});
/** @param {number} v */
const round = v => Number(v.toFixed(4));
$('view').addEventListener('pointerup', async () => {
  const mine = held;
  held = null;
  if (!mine?.moving || !mine.motion) return;
  const { hand, motion: m } = mine;
  hint('');
  const fields =
    m.angle !== undefined
      ? { turn: `${round(((hand.turned + m.angle) * 180) / Math.PI)} deg` }
      : m.along !== undefined
        ? { slide: `${round(hand.slid + m.along)} mm` }
        : Object.fromEntries(
            hand.shift[1].map((/** @type {string} */ name, /** @type {number} */ k) => [
              name,
              `${round(hand.shifted[k] + m.by[k])} mm`,
            ]),
          );
  const step = m.angle !== undefined || m.along !== undefined ? hand.step : hand.shift[0];
  // until the new build is there it stays where the hand left it
  await edit({ kind: 'set_fields', step, fields }).catch(() => setApart(null));
  emit('marked');
});
$('view').addEventListener('pointercancel', () => {
  if (held?.moving) setApart(null);
  held = null;
});
