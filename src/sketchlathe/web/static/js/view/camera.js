// The orthographic turntable camera. z is up; n points from the part to the eye.
import { emit } from '../core/state.js';

const { cos, sin, atan2, asin, hypot, max, min, PI } = Math;
/** @param {Vec} a @param {Vec} b */
export const dot = (a, b) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
/** @param {Vec} a @param {Vec} b */
export const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
/** @param {Vec} a @param {Vec} b */
export const add = (a, b, k = 1) => [a[0] + k * b[0], a[1] + k * b[1], a[2] + k * b[2]];
const still = matchMedia('(prefers-reduced-motion: reduce)');

/** @type {Page.Camera} */
export const camera = {
  // what nothing covers: left, top, right, bottom
  room: margin => [margin, margin, camera.width - margin, camera.height - margin],
  target: [0, 0, 0],
  az: -PI / 2 + 0.6,
  el: 0.5,
  scale: 6,
  width: 100,
  height: 100,
  moving: 0,
  normal() {
    return [cos(this.el) * cos(this.az), cos(this.el) * sin(this.az), sin(this.el)];
  },
  right() {
    return [-sin(this.az), cos(this.az), 0];
  },
  up() {
    return cross(this.normal(), this.right());
  },
  project(p) {
    const d = add(p, this.target, -1);
    return [this.width / 2 + this.scale * dot(d, this.right()), this.height / 2 - this.scale * dot(d, this.up())];
  },
  // the affine map of a plane's coordinates to pixels: [a, b, c, d, e, f] as in SVG
  matrix(frame) {
    const o = this.project(frame.origin),
      r = this.right(),
      u = this.up(),
      k = this.scale;
    return [k * dot(frame.x, r), -k * dot(frame.x, u), k * dot(frame.y, r), -k * dot(frame.y, u), o[0], o[1]];
  },
  ray(x, y) {
    const at = add(
      add(this.target, this.right(), (x - this.width / 2) / this.scale),
      this.up(),
      (this.height / 2 - y) / this.scale,
    );
    const n = this.normal();
    return { origin: add(at, n, 1e5), direction: [-n[0], -n[1], -n[2]], at };
  },
  onPlane(frame, x, y) {
    const { at } = this.ray(x, y),
      n = this.normal();
    const k = dot(add(frame.origin, at, -1), frame.normal) / (dot(n, frame.normal) || 1e-9);
    const d = add(add(at, n, k), frame.origin, -1);
    return [dot(d, frame.x), dot(d, frame.y)];
  },
  changed() {
    emit('camera');
  },
  turn(daz, del) {
    this.stop();
    this.az += daz;
    this.el = max(-PI / 2, min(PI / 2, this.el + del));
    this.changed();
  },
  pan(dx, dy) {
    this.stop();
    this.target = add(add(this.target, this.right(), -dx / this.scale), this.up(), dy / this.scale);
    this.changed();
  },
  zoom(factor, x = camera.width / 2, y = camera.height / 2) {
    this.stop();
    const before = this.ray(x, y).at;
    this.scale = max(1e-3, min(1e5, this.scale * factor));
    this.target = add(this.target, add(before, this.ray(x, y).at, -1));
    this.changed();
  },
  stop() {
    cancelAnimationFrame(this.moving);
    this.moving = 0;
  },
  go({ target = camera.target, az = camera.az, el = camera.el, scale = camera.scale }) {
    this.stop();
    while (az - this.az > PI) az -= 2 * PI;
    while (az - this.az < -PI) az += 2 * PI;
    const from = { target: this.target, az: this.az, el: this.el, scale: this.scale },
      start = performance.now();
    /** @param {number} t */
    const at = t => {
      this.target = from.target.map((v, i) => v + (target[i] - v) * t);
      this.az = from.az + (az - from.az) * t;
      this.el = from.el + (el - from.el) * t;
      this.scale = from.scale * (scale / from.scale) ** t;
      this.changed();
    };
    if (still.matches || document.hidden) {
      at(1);
      return;
    }
    const tick = () => {
      const t = min(1, (performance.now() - start) / 200);
      at(t * t * (3 - 2 * t));
      this.moving = t < 1 ? requestAnimationFrame(tick) : 0;
    };
    tick();
  },
  // the angles from which a plane is seen straight on, its x axis to the right
  facing(frame) {
    const n = frame.normal;
    const el = asin(max(-1, min(1, n[2])));
    return { el, az: hypot(n[0], n[1]) < 1e-6 ? atan2(-frame.x[0], frame.x[1]) : atan2(n[1], n[0]) };
  },
  // target and scale that show a box of points, with room for what lies over the view
  fitting(points, { az = camera.az, el = camera.el } = {}, margin = 30, most = 400) {
    const other = { ...this, az, el };
    const r = other.right(),
      u = other.up();
    const xs = points.map(p => dot(p, r)),
      ys = points.map(p => dot(p, u)),
      zs = points.map(p => dot(p, other.normal()));
    /** @type {(v: number[]) => number} */
    const mid = v => (max(...v) + min(...v)) / 2,
      /** @type {(v: number[]) => number} */
      span = v => max(...v) - min(...v);
    const [left, top, right, bottom] = this.room(margin);
    const scale = min(max(right - left, 60) / max(span(xs), 1e-6), max(bottom - top, 60) / max(span(ys), 1e-6), most);
    const across = ((left + right) / 2 - this.width / 2) / scale,
      up = (this.height / 2 - (top + bottom) / 2) / scale;
    const target = [0, 1, 2].map(i => r[i] * (mid(xs) - across) + u[i] * (mid(ys) - up) + other.normal()[i] * mid(zs));
    return { target, scale, az, el };
  },
};
