// Who else has the model open, in another window or elsewhere; what they change arrives by itself.
import { $, html } from '../core/dom.js';
import { S, emit } from '../core/state.js';
import { busy, refresh } from '../core/api.js';
import { talk } from '../core/talk.js';
import { complain, say } from '../ui/messages.js';
import { loadComments } from './comments.js';

const ALONE = 4000,
  EACH = 100; // ms from one question to the next: by oneself; for each who is there, so that all together ask as often
const mine = Math.random().toString(36).slice(2, 14); // pages that come without HTTPS have no better
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
  // an answer of one's own may have come first
  if (!told.fresh || told.fresh.revision <= S.model.revision || !ready()) return;
  emit('came', told.since);
  await refresh(told.fresh);
  $('saved').textContent = `saved, revision ${S.model.revision}`;
  if (told.since.length) say(told.since[0] + (told.since.length > 1 ? `, and ${told.since.length - 1} more` : ''));
}
async function look() {
  clearTimeout(timer);
  let next = ALONE;
  try {
    const told = await talk(address, { window: mine, revision: S.model.revision, part: S.partId, at: at() });
    if (told.others.length) next = Math.min(EACH * (told.others.length + 1), ALONE);
    await take(told);
  } catch (/** @type {any} */ problem) {
    if ([401, 403, 404].includes(problem.status)) {
      $('here').replaceChildren();
      complain('This model is not shown to you any more.');
      return;
    }
    // whoever works here is told of anything else when they next change something
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
