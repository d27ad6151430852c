import assert from 'node:assert/strict';
import { test } from 'node:test';
import { page } from './page.js';

page();
const { S } = await import('../../src/sketchlathe/web/static/js/core/state.js');
const { bare, exact, withUnit, handyStep, heavyEvery, plainNumber } =
  await import('../../src/sketchlathe/web/static/js/core/units.js');
const read = (units, fractions = false) => Object.assign(S.model, { units, fractions });

test('lengths are written in the unit that is read', () => {
  read('mm');
  assert.equal(bare(12.34567), '12.346');
  read('in');
  assert.equal(bare(25.4), '1');
  assert.equal(withUnit(645.16, 7, 2), '1 in²');
});
test('what is nought but for noise is nought', () => {
  read('mm');
  assert.equal(bare(-1e-12), '0');
  assert.equal(exact(3e-15), '0');
});
test('fractions are shown only where the value is a whole 64th', () => {
  read('in', true);
  assert.equal(bare(25.4 * 1.25), '1 1/4');
  assert.equal(bare((-25.4 * 3) / 64), '-3/64');
  assert.equal(bare(25.4 / 3), '0.333');
  assert.equal(exact(645.16, 7, 2), '1', 'an area has no fractions');
});
test('steps of a grid are 1, 2, 5 and their tens, or halves of an inch', () => {
  read('mm');
  assert.deepEqual([0.9, 1.1, 3, 7, 40].map(handyStep), [1, 2, 5, 10, 50]);
  assert.equal(heavyEvery(5), 5);
  read('in', true);
  assert.equal(handyStep(25.4 * 0.2), 25.4 / 4);
  assert.equal(heavyEvery(25.4 / 4), 4);
});
test('a plain number is read here, in its own unit or the one that is read in; anything else is asked', () => {
  read('cm');
  assert.deepEqual(
    ['2', ' 2.5 mm', '-.5in', '3m', '+4'].map(text => plainNumber(text, false)),
    [20, 2.5, -12.7, 3000, 40],
  );
  for (const text of ['', 'wide', '2 + 3', '1,5', '30 deg', '2 mm mm', '1e3', '1 1/4'])
    assert.equal(plainNumber(text, false), null, text);
  assert.equal(plainNumber('180', true), Math.PI);
  assert.equal(plainNumber('90°', true), Math.PI / 2);
  assert.equal(plainNumber('2 mm', true), null, 'no length is an angle');
});
