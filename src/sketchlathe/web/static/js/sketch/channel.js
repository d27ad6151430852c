// The socket of the open sketch: one question in flight, the others wait in order. Of questions that only the newest
// counts of (where a drag is now, a preview), a waiting one is replaced; a grab and a drop are never lost. Where there
// is no socket it asks by POST. A socket that is lost is opened anew; what waits goes on waiting, and a drag that began
// on the lost one ends by POST: the new one knows nothing of it.
import { S, openSketch } from '../core/state.js';
import { ask } from '../core/api.js';
import { working } from '../core/rest.js';

const NEWEST = ['to', 'dimension', 'preview', 'stretch'],
  OF_A_DRAG = ['to', 'drop'];
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
  connect();
}
function connect() {
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
        if (S.sketch && !socket) connect();
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
  const line = socket?.readyState === WebSocket.OPEN ? socket : null;
  if (item.do === 'grab') grabbed = { ref: item.ref, at: item.at, line, to: null, told: null };
  if (item.do === 'to') Object.assign(grabbed, { to: item.at, told: null });
  if (line && (!OF_A_DRAG.includes(item.do) || grabbed?.line === line)) {
    flying = item;
    const { hear, ...plain } = item;
    plain.n = item.n = ++counter;
    line.send(JSON.stringify(plain));
  } else byPost(item);
}
let posting = false;
/** @param {any} item */
async function byPost(item) {
  posting = true;
  /** @type {any} */
  let answer;
  try {
    answer = await posted(item);
  } catch (/** @type {any} */ problem) {
    answer = { message: problem.message };
  }
  posting = false;
  try {
    item.hear(answer);
  } finally {
    pump();
    tell();
  }
}
/** @param {any} item @returns {Promise<any>} */
async function posted(item) {
  const path = `/sketches/${openSketch().id}`;
  const dragged = async () =>
    (grabbed.told = await ask(`${path}/drag`, { ref: grabbed.ref, grab: grabbed.at, at: grabbed.to }));
  switch (item.do) {
    case 'dimension':
      return { dimension: await ask(`${path}/dimension`, { on: item.on, at: item.at, rim: item.rim ?? '' }) };
    case 'preview':
      return { preview: await ask(`${path}/preview`, { draw: item.draw }) };
    case 'stretch':
      return { stretch: await ask(`${path}/stretch`, { ref: item.ref, at: item.at }) };
    case 'to':
      return dragged();
    case 'drop':
      // where its last move was answered by a socket that is gone, it is asked for once more
      return { coordinates: (grabbed?.to && (grabbed.told ?? (await dragged())).coordinates) ?? {} };
    default:
      return {};
  }
}
