import assert from 'node:assert/strict';
import { beforeEach, test } from 'node:test';
import { page } from './page.js';

page();
const js = '../../src/sketchlathe/web/static/js/';
const { S } = await import(`${js}core/state.js`);
const { camera } = await import(`${js}view/camera.js`);
const { snap, all, cycle, resetCycle } = await import(`${js}sketch/snapping.js`);
const { toScreen } = await import(`${js}view/places.js`);

const point = (ref, x, y) => ({ ref, at: [x, y] });
const line = (id, a, b) => ({
  id,
  word: `line ${id}`,
  tags: ['line', 'curve'],
  points: [point(`${id}.start`, ...a), point(`${id}.end`, ...b)],
  ends: [`${id}.start`, `${id}.end`],
});
const circle = (id, [x, y], radius) => ({
  id,
  word: `circle ${id}`,
  tags: ['round', 'curve'],
  points: [point(`${id}.centre`, x, y)],
  ends: [],
  sizes: { radius },
});
const arc = (id, [x, y], radius, a, b) => ({
  ...circle(id, [x, y], radius),
  tags: ['round', 'arc', 'curve'],
  points: [point(`${id}.start`, ...a), point(`${id}.end`, ...b), point(`${id}.centre`, x, y)],
  ends: [`${id}.start`, `${id}.end`],
});
function open(curves, more = {}) {
  const snaps = curves.flatMap(c => c.points.map(p => ({ at: p.at, word: p.ref.split('.')[1], ref: p.ref })));
  S.sketch = { id: 's1', size: 100, curves, snaps: [{ at: [0, 0], word: 'origin', ref: 'origin' }, ...snaps], ...more };
}
const at = (x, y, how = {}) => snap([x, y], toScreen(S.frame, [x, y]), how);
const near = (p, q) => assert.ok(Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-9, `${p} is not ${q}`);

beforeEach(() => {
  // seen straight from above, ten pixels a millimetre
  Object.assign(camera, { az: -Math.PI / 2, el: Math.PI / 2, scale: 10, target: [0, 0, 0], width: 800, height: 600 });
  S.frame = { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] };
  resetCycle();
});

test('a place near the pointer is taken before the curve that it lies on', () => {
  open([line('c1', [0, 0], [30, 20])]);
  const found = at(29.6, 20.3);
  near(found.at, [30, 20]);
  assert.equal(found.ref, 'c1.end');
  assert.equal(found.word, 'end');
});
test('what is left out is neither a place nor a curve', () => {
  open([line('c1', [0, 0], [30, 20])]);
  assert.notEqual(at(29.6, 20.3, { exclude: 'c1.end' }).ref, 'c1.end');
  assert.equal(at(15, 10.2, { exclude: 'c1.end' }).ref, null);
});
test('on a curve the nearest place of it, and a circle brings its centre along', () => {
  open([circle('c1', [40, 0], 10), line('c2', [0, 30], [20, 30])]);
  const rim = at(40 + 7.3, 7.2);
  near(rim.at, [40 + (10 * 7.3) / Math.hypot(7.3, 7.2), (10 * 7.2) / Math.hypot(7.3, 7.2)]);
  assert.deepEqual([rim.ref, rim.snap], ['c1', 'on circle']);
  assert.ok(rim.more >= 2);
  cycle();
  assert.equal(at(40 + 7.3, 7.2).ref, 'c1.centre', 'the key goes on to the next');
  resetCycle();
  near(at(13.37, 30.4).at, [13.37, 30]);
});
test('beside everything: steps that are handy at this zoom', () => {
  open([]);
  S.sketch.snaps = [];
  near(at(12.34, 7.81).at, [12, 8]);
  camera.scale = 100;
  near(at(1.234, 0.781).at, [1.2, 0.8]);
});
test('level and plumb with the start of a line, and with what is drawn', () => {
  open([line('c1', [50, 40], [70, 55])]);
  const level = at(20, 5.1, { start: { at: [0.5, 5], ref: null } });
  assert.equal(level.word, 'horizontal');
  assert.equal(level.at[1], 5);
  const both = at(50.1, 4.9, { start: { at: [20, 5], ref: null } });
  near(both.at, [50, 5]);
  assert.equal(both.word, 'horizontal, plumb with start');
  assert.deepEqual(both.also, [{ snap: 'plumb with', ref: 'c1.start' }]);
  assert.deepEqual(both.guides, [[50, 40]]);
});
test('a line runs at right angles to another, or along it, when it nearly does', () => {
  open([line('c1', [100, 100], [140, 130])]);
  const start = { at: [20, 0], ref: null };
  const along = at(20 + 24.1, 17.9, { start });
  assert.equal(along.snap, 'parallel');
  assert.ok(Math.abs((along.at[0] - 20) * 30 - along.at[1] * 40) < 1e-9, 'exactly along');
  const across = at(20 - 15.1, 20.1, { start });
  assert.equal(across.snap, 'at right angles');
  assert.ok(Math.abs((across.at[0] - 20) * 40 + across.at[1] * 30) < 1e-9, 'exactly across');
});
test('from the end of an arc a line may run on', () => {
  open([arc('c1', [0, 20], 15, [15, 20], [15 * Math.cos(1), 20 + 15 * Math.sin(1)])]);
  const a = S.sketch.curves[0].points[1].at;
  const run = [-Math.sin(1), Math.cos(1)];
  const found = at(a[0] + 30.2 * run[0], a[1] + 30 * run[1], { start: { at: a, ref: 'c1.end' } });
  assert.equal(found.snap, 'tangent');
  assert.ok(Math.abs((found.at[0] - a[0]) * Math.cos(1) + (found.at[1] - a[1]) * Math.sin(1)) < 1e-9);
});
test('as long as another line, at whatever angle', () => {
  open([line('c1', [100, 100], [130, 140])]);
  const found = at(20 + 47.1, 17, { start: { at: [20, 0], ref: null } });
  assert.equal(found.snap, 'equal length');
  assert.ok(Math.abs(Math.hypot(found.at[0] - 20, found.at[1]) - 50) < 1e-9);
});
test('a box that is nearly square is', () => {
  open([]);
  const found = at(30.4, -29.8, { box: true, start: { at: [0.3, 0.2], ref: null } });
  assert.equal(found.word, 'square');
  assert.ok(Math.abs(found.at[0] - 0.3 + (found.at[1] - 0.2)) < 1e-9);
  assert.notEqual(at(30.4, -20, { box: true, start: { at: [0.3, 0.2], ref: null } }).word, 'square');
});
test('held free it goes there all the same, and binds nothing', () => {
  open([line('c1', [0, 0], [30, 20])]);
  const found = at(29.6, 20.3, { free: true });
  near(found.at, [30, 20]);
  assert.deepEqual([found.snap, found.ref, found.word], [null, null, 'end, not kept']);
});
test('the same place is offered once; places of the solid come after those of the sketch', () => {
  open([line('c1', [0, 0], [30, 0]), line('c2', [30, 0], [30, 20])], {
    around: [{ at: [30.2, 0], snap: 'corner', ref: null, word: 'corner', take: { edge: 1 } }],
  });
  assert.equal(all().length, 6);
  const found = at(30.15, 0.05);
  assert.equal(found.ref, 'c1.end', 'though the corner is nearer');
  cycle();
  assert.ok(at(30.15, 0.05).take, 'then the corner');
});
test('a line ends where it touches a circle, on either side', () => {
  open([circle('c1', [40, 0], 10)]);
  const start = { at: [3, 2], ref: null };
  for (const side of [1, -1]) {
    const found = at(side > 0 ? 38 : 37, side * 9.6, { start, straight: true });
    assert.deepEqual([found.snap, found.ref, found.word], ['touching', 'c1', 'tangent to circle c1']);
    const [x, y] = found.at;
    assert.ok(Math.abs(Math.hypot(x - 40, y) - 10) < 1e-9, 'on the circle');
    assert.ok(Math.abs((x - 3) * (x - 40) + (y - 2) * y) < 1e-9, 'at right angles to its radius');
  }
  assert.notEqual(at(38, 9.6, { start }).snap, 'touching', 'only a line does');
  assert.notEqual(at(38, 9.6, { start: { at: [40, 0], ref: null }, straight: true }).snap, 'touching');
});
test('from one circle to another it touches both, crossing over or not', () => {
  open([circle('c1', [0, 0], 15), circle('c2', [60, 0], 10)]);
  const start = { at: [6, Math.sqrt(189)], ref: 'c1', snap: 'on circle' };
  for (const [x, y, reach] of [
    [61, 9.8, 5],
    [56, -9.1, 25],
  ]) {
    const found = at(x, y, { start, straight: true, exclude: 'c1' });
    assert.equal(found.word, 'tangent to circle c1 and circle c2');
    assert.deepEqual(found.also, [{ snap: 'tangent', ref: 'c1' }]);
    const from = found.starts?.at ?? [];
    assert.ok(Math.abs(from[0] * (found.at[0] - from[0]) + from[1] * (found.at[1] - from[1])) < 1e-9);
    // the cosine of the normal's angle is the difference (crossing over: the sum) of the radii over the distance
    near(found.at, [
      60 + (10 * (reach === 5 ? 1 : -1) * reach) / 60,
      y > 0 ? 10 * Math.sqrt(1 - (reach / 60) ** 2) : -10 * Math.sqrt(1 - (reach / 60) ** 2),
    ]);
  }
});
test('a start at the top of a circle slides too, or stays there when asked to', () => {
  open([circle('c1', [0, 0], 15), circle('c2', [60, 0], 10)]);
  const start = { at: [0, 15], ref: 'c1', snap: 'quadrant' };
  const both = at(61, 9.8, { start, straight: true, exclude: 'c1' });
  assert.equal(both.word, 'tangent to circle c1 and circle c2');
  near(both.starts?.at ?? [], [15 / 12, 15 * Math.sqrt(1 - 1 / 144)]);
  cycle();
  const stays = at(61, 9.8, { start, straight: true, exclude: 'c1' });
  assert.deepEqual([stays.word, stays.starts], ['tangent to circle c2', undefined]);
});
test('what is held free binds nothing beside it either, and moves no start', () => {
  open([circle('c1', [0, 0], 15), circle('c2', [60, 0], 10)]);
  const start = { at: [0, 15], ref: 'c1', snap: 'quadrant' };
  const found = at(61, 9.8, { start, straight: true, exclude: 'c1', free: true });
  assert.deepEqual([found.snap, found.also, found.starts], [null, undefined, undefined]);
});
test('of an arc only what is there is taken, for touching too', () => {
  open([arc('c1', [40, 0], 10, [50, 0], [30, 0])]);
  assert.equal(at(40 + 7.1, 7.1).word, 'on arc');
  assert.equal(at(40 + 7.1, -7.1).ref, null);
  const start = { at: [0, 0], ref: null };
  assert.equal(at(37.5, 9.6, { start, straight: true }).snap, 'touching');
  assert.notEqual(at(37.5, -9.6, { start, straight: true }).snap, 'touching');
});
test('a line runs off a circle along it', () => {
  open([circle('c1', [0, 0], 10)]);
  const found = at(6 - 24, 8 + 18.2, { start: { at: [6, 8], ref: 'c1', snap: 'on circle' }, straight: true });
  assert.deepEqual([found.snap, found.ref], ['tangent', 'c1']);
  assert.ok(Math.abs((found.at[0] - 6) * 6 + (found.at[1] - 8) * 8) < 1e-9);
});
