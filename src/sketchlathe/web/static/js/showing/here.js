// Who else has the model open, in another window or elsewhere; what they change arrives by itself.
import { $, html } from '../core/dom.js';
import { S } from '../core/state.js';
import { busy, refresh } from '../core/api.js';
import { talk } from '../core/talk.js';
import { say } from '../ui/messages.js';
import { loadComments } from './comments.js';

const ALONE = 4000,
  TOGETHER = 400; // ms from one question to the next
const mine = crypto.randomUUID().slice(0, 12);
/** @type {string | null} */
let said = null;
let pressed = false,
  timer = 0;
const address = `/api/models/${S.model.id}/here`;

const at = () => (S.sketch ? (S.model.parts.flatMap(p => p.steps).find(s => s.id === S.sketch?.id)?.title ?? '') : '');
/** @param {Told.AtIt[]} others */
function show(others) {
  const you = others.some(o => o.who === 'you'),
    told = others.filter(o => o.who !== 'you').map(o => o.name + (o.at ? ` (at ${o.at})` : ''));
  const words = [...new Set(told), ...(you ? ['you, in another window'] : [])].join(', ');
  const text = words && `with ${words}`;
  if ($('here').textContent !== text) $('here').replaceChildren(...(text ? [html('span', { title: text }, text)] : []));
}
// what came while a finger is down, or an edit of one's own is on its way, waits for that
const ready = () => !pressed && !busy();
/** @param {Told.Here} told */
async function take(told) {
  show(told.others);
  if (said !== null && told.said !== said) await loadComments();
  said = told.said;
  if (told.revision <= S.model.revision || !ready()) return;
  await refresh();
  $('saved').textContent = `saved, revision ${S.model.revision}`;
  if (told.since.length) say(told.since[0] + (told.since.length > 1 ? `, and ${told.since.length - 1} more` : ''));
}
async function look() {
  clearTimeout(timer);
  let next = ALONE;
  try {
    const told = await talk(address, { window: mine, revision: S.model.revision, at: at() });
    // the more there are, the less often each asks
    if (told.others.length) next = TOGETHER * Math.max(1, told.others.length / 4);
    await take(told);
  } catch {
    // whoever works here is told when they next change something
  }
  if (!document.hidden) timer = setTimeout(look, next);
}
document.addEventListener('visibilitychange', () => {
  if (!document.hidden) look();
});
window.addEventListener('pagehide', () => {
  talk(address, { window: mine, leaves: true }).catch(() => {});
});
for (const kind of ['pointerdown', 'pointerup', 'pointercancel'])
  window.addEventListener(kind, () => (pressed = kind === 'pointerdown'), true);
look();
