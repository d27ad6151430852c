// The socket of the open sketch: one question in flight, the others wait in order. Of questions that only the newest
// counts of (where a drag is now, a preview), a waiting one is replaced; a grab and a drop are never lost. Falls back
// to POST.
import { S, openSketch } from '../core/state.js';
import { ask } from '../core/api.js';
import { working } from '../core/rest.js';

const NEWEST = ['to', 'dimension', 'preview', 'stretch'];
/** @type {WebSocket | null} */
let socket = null,
  /** @type {any} */
  flying = null,
  /** @type {any[]} */
  waiting = [],
  counter = 0,
  /** @type {any} */
  grabbed = null,
  tries = 0;

export function openChannel() {
  closeChannel();
  const scheme = location.protocol === 'https:' ? 'wss' : 'ws';
  const mine = new WebSocket(`${scheme}://${location.host}/models/${S.model.id}/sketches/${openSketch().id}/live`);
  socket = mine;
  mine.onopen = () => {
    tries = 0;
  };
  mine.onmessage = event => {
    const answer = JSON.parse(event.data);
    if (flying && answer.n === flying.n) {
      const done = flying;
      flying = null;
      done.hear(answer);
      pump();
      tell();
    }
  };
  mine.onclose = () => {
    if (socket !== mine) return;
    socket = null;
    if (flying) {
      const lost = flying;
      flying = null;
      byPost(lost);
    }
    if (S.sketch && (tries += 1) < 20)
      setTimeout(() => {
        if (S.sketch && !socket) openChannel();
      }, 300 * tries);
  };
}
export function closeChannel() {
  const old = socket;
  socket = null;
  flying = null;
  waiting = [];
  old?.close();
  tell();
}
const tell = () => working('channel', Boolean(flying || posting || waiting.length));

// hear(answer) gets {view}, {coordinates}, {dimension} or {message}
/** @param {any} message @param {(answer: any) => void} hear */
export function talk(message, hear) {
  const item = { ...message, n: ++counter, hear };
  if (NEWEST.includes(item.do) && waiting.at(-1)?.do === item.do) waiting.pop();
  waiting.push(item);
  pump();
  tell();
}
function pump() {
  if (flying || posting || !waiting.length) return;
  const item = waiting.shift();
  if (item.do === 'grab') grabbed = item;
  if (socket?.readyState === WebSocket.OPEN) {
    flying = item;
    const { hear, ...plain } = item;
    plain.n = item.n = ++counter;
    socket.send(JSON.stringify(plain));
  } else byPost(item);
}
/** @type {any} */
let lastTo = null,
  posting = false;
/** @param {any} item */
async function byPost(item) {
  posting = true;
  try {
    const path = `/sketches/${openSketch().id}`;
    if (item.do === 'dimension')
      item.hear({ dimension: await ask(`${path}/dimension`, { on: item.on, at: item.at, rim: item.rim ?? '' }) });
    if (item.do === 'preview') item.hear({ preview: await ask(`${path}/preview`, { draw: item.draw }) });
    if (item.do === 'stretch') item.hear({ stretch: await ask(`${path}/stretch`, { ref: item.ref, at: item.at }) });
    if (item.do === 'grab') item.hear({});
    if (item.do === 'to') {
      lastTo = await ask(`${path}/drag`, { ref: grabbed.ref, grab: grabbed.at, at: item.at });
      item.hear(lastTo);
    }
    if (item.do === 'drop') {
      item.hear({ coordinates: lastTo?.coordinates ?? {} });
      lastTo = null;
    }
  } catch (/** @type {any} */ problem) {
    item.hear({ message: problem.message });
  }
  posting = false;
  pump();
  tell();
}
