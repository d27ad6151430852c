import assert from 'node:assert/strict';
import { beforeEach, test } from 'node:test';
import { page } from './page.js';

page();
const js = '../../src/sketchlathe/web/static/js/';
const { S } = await import(`${js}core/state.js`);
const { aimed, now, plain, settled, shownAs, slots } = await import(`${js}sketch/drawing.js`);

const tool = (band, sizes = [{ label: 'length' }, { label: 'angle', angle: true }]) => ({
  band,
  sizes,
  steps: ['', ''],
});
const typed = (...values) => values.map(v => (v === null ? undefined : { text: String(v), ok: true, value: v }));
const close = (p, q) => assert.ok(Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-9, `${p} is not ${q}`);

beforeEach(() => {
  S.sketch = { id: 's1', size: 50 };
  Object.assign(now, { tool: tool('segment'), places: [], pointer: null, typed: [], chainStart: null, arc: false });
});

test('before the first place it is said where that is, then the sizes of the tool', () => {
  assert.deepEqual(
    slots().map(s => s.label),
    ['across', 'along'],
  );
  now.places = [{ at: [0, 0] }];
  assert.deepEqual(
    slots().map(s => s.label),
    ['length', 'angle'],
  );
});
test('a typed length keeps the direction of the pointer, a typed angle its distance', () => {
  now.places = [{ at: [10, 5] }];
  now.pointer = { at: [13, 9] };
  close(aimed(), [13, 9]);
  now.typed = typed(20, null);
  close(aimed(), [10 + 20 * 0.6, 5 + 20 * 0.8]);
  now.typed = typed(null, Math.PI / 2);
  close(aimed(), [10, 10]);
  now.typed = typed(7, Math.PI);
  close(aimed(), [3, 5]);
});
test('a size that cannot be read yet changes nothing', () => {
  now.places = [{ at: [0, 0] }];
  now.pointer = { at: [3, 4] };
  now.typed = [{ text: 'wide +', ok: false, value: 99 }];
  close(aimed(), [3, 4]);
});
test('a box opens to the side where the pointer is; a negative size turns it', () => {
  now.tool = tool('box', [{ label: 'width' }, { label: 'height' }]);
  now.places = [{ at: [10, 10] }];
  now.pointer = { at: [4, 18] };
  now.typed = typed(30, null);
  close(aimed(), [-20, 18]);
  now.typed = typed(30, 5);
  close(aimed(), [-20, 15]);
  now.typed = typed(-30, -5);
  close(aimed(), [-20, 5]);
});
test('a circle goes by its diameter, or by its radius', () => {
  now.tool = tool('circle', [{ label: 'diameter' }, { label: 'radius' }]);
  now.places = [{ at: [1, 1] }];
  now.pointer = { at: [1, 3] };
  now.typed = typed(24, null);
  close(aimed(), [1, 13]);
  now.typed = typed(null, 24);
  close(aimed(), [1, 25]);
});
test('without a pointer the next place is beside the last', () => {
  now.places = [{ at: [3, 4] }];
  close(aimed(), [13, 14]);
});
test('the next of a chain starts where the one before came to end', () => {
  const before = { end: undefined };
  assert.deepEqual(settled({ at: [5, 5], after: before }), { at: [5, 5], snap: 'end', ref: null });
  before.end = { at: [5.5, 5], ref: 'c9.end' };
  assert.deepEqual(settled({ at: [5, 5], after: before }), { at: [5.5, 5], snap: 'end', ref: 'c9.end' });
});
test('what the server is told of a place is what it binds to, and nothing of the screen', () => {
  const spot = { at: [1, 2], snap: 'middle', ref: 'c1', word: 'middle', d: 3, rank: 1, guide: [0, 0], more: 2 };
  assert.deepEqual(plain(spot), { at: [1, 2], snap: 'middle', ref: 'c1', also: [] });
  assert.deepEqual(plain({ at: [1, 2] }), { at: [1, 2], snap: null, ref: null, also: [] });
});
test('for the picture nothing is taken of the solid yet', () => {
  const spot = { at: [1, 2], snap: 'corner', ref: null, also: [], take: { edge: 'e' }, typed: ['1', '2'] };
  assert.deepEqual(shownAs(spot), { at: [1, 2], snap: null, ref: null, also: [] });
  assert.ok('take' in settled(spot));
});
