import assert from 'node:assert/strict';
import { beforeEach, test } from 'node:test';
import { page } from './page.js';

page();
let last = null;
globalThis.WebSocket = class {
  static OPEN = 1;
  constructor() {
    this.readyState = 0;
    this.sent = [];
    last = this;
  }
  send(text) {
    this.sent.push(JSON.parse(text));
  }
  close() {
    this.readyState = 3;
    this.onclose?.();
  }
  open() {
    this.readyState = 1;
    this.onopen();
  }
  answer(rest = {}) {
    this.onmessage({ data: JSON.stringify({ n: this.sent.at(-1).n, ...rest }) });
  }
};
const { S } = await import('../../src/sketchlathe/web/static/js/core/state.js');
const { openChannel, closeChannel, talk } = await import('../../src/sketchlathe/web/static/js/sketch/channel.js');
const said = () => last.sent.map(m => m.do);

beforeEach(() => {
  S.sketch = { id: 's1' };
  closeChannel();
  openChannel();
  last.open();
});

test('one question is in flight, the others wait in order', () => {
  talk({ do: 'grab', ref: 'c1.end', at: [0, 0] }, () => {});
  talk({ do: 'to', at: [1, 0] }, () => {});
  assert.deepEqual(said(), ['grab']);
  last.answer();
  assert.deepEqual(said(), ['grab', 'to']);
});
test('of moves that wait only the newest is sent', () => {
  talk({ do: 'grab', ref: 'c1.end', at: [0, 0] }, () => {});
  for (let x = 1; x < 9; x += 1) talk({ do: 'to', at: [x, 0] }, () => {});
  last.answer();
  last.answer();
  assert.deepEqual(said(), ['grab', 'to']);
  assert.deepEqual(last.sent[1].at, [8, 0]);
});
test('a drop that waits is not replaced by the next grab', () => {
  const dropped = [];
  talk({ do: 'grab', ref: 'c1.end', at: [0, 0] }, () => {});
  talk({ do: 'to', at: [1, 0] }, () => {});
  talk({ do: 'drop' }, answer => dropped.push(answer));
  talk({ do: 'grab', ref: 'c2.end', at: [5, 5] }, () => {});
  talk({ do: 'to', at: [6, 5] }, () => {});
  for (let i = 0; i < 5; i += 1) last.answer({ coordinates: { c1: [1, 0] } });
  assert.deepEqual(said(), ['grab', 'to', 'drop', 'grab', 'to']);
  assert.equal(dropped.length, 1);
});
test('an answer to another question is not taken for this one', () => {
  const heard = [];
  talk({ do: 'preview', draw: 1 }, answer => heard.push(answer));
  last.onmessage({ data: JSON.stringify({ n: -5 }) });
  assert.equal(heard.length, 0);
  last.answer({ preview: 7 });
  assert.equal(heard[0].preview, 7);
});
const answers = { '/drag': { view: {}, coordinates: { c1: [4, 0] } } };
function posts() {
  const asked = [];
  globalThis.fetch = async (path, { body }) => {
    asked.push([String(path).split('/').at(-1), JSON.parse(body)]);
    const known = answers[`/${asked.at(-1)[0]}`] ?? {};
    return { ok: true, status: 200, headers: new Map([['content-type', 'application/json']]), json: async () => known };
  };
  return asked;
}
const soon = (ms = 20) => new Promise(go => setTimeout(go, ms));

test('what waits when the socket is lost is asked by what comes after it', async () => {
  const heard = [],
    asked = posts();
  talk({ do: 'dimension', on: ['c1'], at: [0, 0] }, () => heard.push('first'));
  talk({ do: 'preview', draw: 1 }, () => heard.push('second'));
  talk({ do: 'dimension', on: ['c1', 'c2'], at: [5, 5] }, () => heard.push('third'));
  last.close();
  await soon();
  assert.deepEqual(heard, ['first', 'second', 'third']);
  assert.deepEqual(asked[2][1].on, ['c1', 'c2']);
  // nor does the socket that is opened anew forget it
  const slow = globalThis.fetch;
  globalThis.fetch = async (...what) => (await soon(500), slow(...what));
  talk({ do: 'preview', draw: 2 }, () => heard.push('fourth'));
  talk({ do: 'stretch', ref: 'c1', at: [0, 0] }, () => heard.push('fifth'));
  const gone = last;
  await soon(400);
  assert.notEqual(last, gone);
  last.open();
  await soon(200);
  last.answer();
  assert.deepEqual(heard.slice(3), ['fourth', 'fifth']);
});
test('a drag whose socket is lost ends where it was dropped', async () => {
  const asked = posts(),
    dropped = [];
  talk({ do: 'grab', ref: 'c1.end', at: [0, 0] }, () => {});
  last.answer();
  talk({ do: 'to', at: [3, 0] }, () => {});
  last.answer({ view: {} });
  const gone = last;
  gone.close();
  await soon(400);
  assert.notEqual(last, gone);
  last.open();
  talk({ do: 'drop' }, answer => dropped.push(answer));
  await soon();
  assert.deepEqual(said(), []); // the new one does not know what is dragged
  assert.deepEqual(asked, [['drag', { ref: 'c1.end', grab: [0, 0], at: [3, 0] }]]);
  assert.deepEqual(dropped[0].coordinates, { c1: [4, 0] });
  // the next drag goes by the new one
  talk({ do: 'grab', ref: 'c2.end', at: [5, 5] }, () => {});
  assert.deepEqual(said(), ['grab']);
});
test('what was in flight when the socket closed goes by another way', async () => {
  const asked = [];
  globalThis.fetch = async path => {
    asked.push(path);
    return { ok: true, status: 200, headers: new Map([['content-type', 'application/json']]), json: async () => ({}) };
  };
  talk({ do: 'stretch', ref: 'c1', at: [0, 0] }, () => {});
  const first = last;
  first.close();
  await new Promise(go => setTimeout(go, 20));
  assert.equal(asked.length, 1);
  assert.match(String(asked[0]), /sketches\/s1\/stretch/);
  S.sketch = null;
});
