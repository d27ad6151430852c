import assert from 'node:assert/strict';
import test from 'node:test';
import { page } from './page.js';

page();
const { during, later, stir, working } = await import('../../src/sketchlathe/web/static/js/core/rest.js');
const rests = () => document.body.dataset.rests === 'yes';
const moment = (ms = 20) => new Promise(go => setTimeout(go, ms));
// comes to rest, however slow the machine is
const settles = async () => {
  for (let i = 0; i < 200 && !rests(); i += 1) await moment(20);
  return rests();
};

test('rests two pictures after the last thing', async () => {
  stir();
  assert.ok(!rests());
  assert.ok(await settles());
});

test('does not rest while something is under way, whether it comes or fails', async () => {
  let come, fail;
  during(new Promise(go => (come = go)));
  during(new Promise((_, no) => (fail = no))).catch(() => {});
  await moment();
  assert.ok(!rests());
  come();
  await moment();
  assert.ok(!rests());
  fail(new Error('gone'));
  assert.ok(await settles());
});

test('a state by name is over when it is said to be, however often it began', async () => {
  working('drag', true);
  working('drag', true);
  await moment();
  assert.ok(!rests());
  working('drag', false);
  assert.ok(await settles());
});

test('what is done later counts until it is done', async () => {
  let done = false;
  later(() => (done = true), 40);
  await moment(15);
  assert.ok(!rests() && !done);
  assert.ok((await settles()) && done);
});
