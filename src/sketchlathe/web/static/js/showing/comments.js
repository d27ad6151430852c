// What people say about the model: in the panel, and as a mark at the step it stands at.
import { $, html, sought, targetOf } from '../core/dom.js';
import { S, on, part, step } from '../core/state.js';
import { ask } from '../core/api.js';
import { complain } from '../ui/messages.js';
import { reveal } from '../steps/list.js';

const box = $('comments-box');
/** @type {{ step: string, answers: string }} */
let at = { step: '', answers: '' };
/** @type {Record<string, number>} */
let open = {};

/** @param {Promise<Told.Comments>} asked */
async function fill(asked) {
  try {
    const told = await asked;
    open = told.open;
    $('comments').innerHTML = told.html;
    const count = Object.values(open).reduce((sum, n) => sum + n, 0);
    $('comments-count').textContent = count ? `${count} open` : 'show';
    mark();
    return true;
  } catch (/** @type {any} */ problem) {
    complain(problem.message);
    return false;
  }
}
/** Ask anew what was said. */
export const loadComments = () => fill(ask('/comments'));

// a step about which something is open says so
function mark() {
  for (const old of document.querySelectorAll('#steps .talk')) old.remove();
  for (const [id, count] of Object.entries(open))
    sought(`step-${id}`)?.children[1]?.append(
      html(
        'small',
        { class: 'talk' },
        html('button', { class: 'fix', type: 'button', onclick: () => show(id) }, `${count} said about it`),
      ),
    );
}
$('steps').addEventListener('lathe:filled', mark);
/** @param {string} id of a step */
function show(id) {
  box.open = true;
  const there = $('comments').querySelector(`[data-at="${id}"]`);
  (there ?? box).scrollIntoView({ block: 'nearest' });
  there?.focus();
}

const form = sought('comment-form');
/** @param {{ step?: string, answers?: string }} [about] */
function begin(about = {}) {
  if (!form) return;
  at = { step: about.step ?? '', answers: about.answers ?? '' };
  const words = at.answers ? 'In answer:' : at.step ? `About ${step(at.step)?.title}:` : '';
  $('comment-about').textContent = words;
  $('comment-drop').hidden = !words;
  box.open = true;
  $('comment-text').focus();
  form.scrollIntoView({ block: 'nearest' });
}
on('talk', s => begin({ step: s.id }));
sought('comment-begin')?.addEventListener('click', () => begin());
sought('comment-drop')?.addEventListener('click', () => begin());
form?.addEventListener('submit', async event => {
  event.preventDefault();
  const text = $('comment-text').value;
  if (!text.trim()) return;
  const about = { part: S.partId, step: part().steps.some(s => s.id === at.step) ? at.step : '' };
  if (await fill(ask('/comments', { text, about, answers: at.answers || null }))) {
    $('comment-text').value = '';
    begin();
  }
});
form?.addEventListener('keydown', event => {
  if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) form.requestSubmit();
});
$('comments').addEventListener('click', event => {
  const told = targetOf(event).closest('button')?.dataset ?? {};
  if (told.answer) begin({ answers: told.answer });
  if (told.seeTo) fill(ask(`/comments/${told.of}/${told.seeTo}`, {}));
  if (told.at && step(told.at)) reveal(told.at);
});
loadComments();
