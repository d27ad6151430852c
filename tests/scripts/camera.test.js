import assert from 'node:assert/strict';
import { test } from 'node:test';
import { page } from './page.js';

page();
const { camera, cross, dot } = await import('../../src/sketchlathe/web/static/js/view/camera.js');
Object.assign(camera, { width: 800, height: 600, target: [3, -2, 5], az: 0.7, el: 0.4, scale: 5 });
const close = (a, b, within = 1e-9) => a.forEach((v, i) => assert.ok(Math.abs(v - b[i]) < within, `${a} is not ${b}`));

test('right, up and the way to the eye are a right-handed frame of unit vectors', () => {
  const [r, u, n] = [camera.right(), camera.up(), camera.normal()];
  for (const v of [r, u, n]) assert.ok(Math.abs(dot(v, v) - 1) < 1e-12);
  close(cross(r, u), n);
});
test('what is looked at lies in the middle', () => close(camera.project(camera.target), [400, 300]));
test('the matrix of a plane agrees with the projection of its points', () => {
  const frame = { origin: [1, 2, 3], x: [0, 1, 0], y: [0, 0, 1], normal: [1, 0, 0] };
  const [a, b, c, d, e, f] = camera.matrix(frame);
  close([a * 4 + c * 7 + e, b * 4 + d * 7 + f], camera.project([1, 6, 10]));
});
test('a place on a plane comes back from the pixel it is drawn at', () => {
  const frame = { origin: [1, 2, 3], x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] };
  const [x, y] = camera.project([1 + 12.5, 2 - 8, 3]);
  close(camera.onPlane(frame, x, y), [12.5, -8], 1e-8);
});
