// Builds and previews: the newest wins, progress and Stop after half a second.
import { $, S, emit, on } from './state.js';
import { ask } from './api.js';
import { complain } from '../ui/messages.js';

const me = Math.random().toString(36).slice(2, 10);
let wanted = 0;
let slow = null;

function startClock(ticket) {
  clearInterval(slow);
  const started = Date.now();
  slow = setInterval(async () => {
    if (Date.now() - started < 500) return;
    $('busy').hidden = false;
    const at = await ask(`/progress/${ticket}`).catch(() => ({}));
    $('busy').querySelector('span').textContent = at.title ? `Building ${at.title} (${at.number + 1} of ${at.count})` : 'Building…';
  }, 300);
}
function stopClock() { clearInterval(slow); slow = null; $('busy').hidden = true; }
$('stop').addEventListener('click', () => { ask('/stop', { ticket: `b${me}` }); ask('/stop', { ticket: `p${me}` }); });

export async function build() {
  const mine = ++wanted;
  startClock(`b${me}`);
  try {
    const result = await ask('/build', { part: S.partId, ticket: `b${me}` });
    if (mine !== wanted) return;
    S.build = result;
    emit('build');
    document.body.dispatchEvent(new CustomEvent('lathe:built'));
  } catch (problem) {
    if (mine === wanted && problem.status !== 499) complain(problem.message);
    else if (mine === wanted) complain('The build was stopped. The part shown is as it was before.', [['build again', build]]);
  } finally {
    if (mine === wanted) stopClock();
  }
}
on('model', build);

let asked = 0;
let flying = false;
let next = null;
// A preview of a draft step; answers only for the newest question.
export async function preview(draft, touched, hear) {
  next = { draft, touched, hear, number: ++asked };
  if (flying) return;
  flying = true;
  while (next) {
    const now = next;
    next = null;
    startClock(`p${me}`);
    try {
      const result = await ask('/build', { part: S.partId, ticket: `p${me}`, draft: now.draft, touched: now.touched });
      if (now.number === asked) now.hear(result, null);
    } catch (problem) {
      if (now.number === asked) now.hear(null, problem);
    }
  }
  stopClock();
  flying = false;
}
export const forgetPreviews = () => { asked += 1; next = null; };
