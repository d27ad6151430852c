// A model shown to others: the dialog that says to whom; and the page as it is for those it was shown to.
import { $, html, sought, targetOf } from '../core/dom.js';
import { may } from '../core/state.js';
import { ask } from '../core/api.js';
import { say } from '../ui/messages.js';

// who only looks is offered nothing that changes; what is read stays
$('parameters').inert = !may('change');

const dialog = $('shown-dialog');
/** @param {string} words */
const problem = words => {
  $('shown-says').textContent = words;
};
/** @param {Promise<Told.Showings>} asked */
async function fill(asked) {
  problem('');
  try {
    $('shown').innerHTML = (await asked).html;
    byForm();
    return true;
  } catch (/** @type {any} */ trouble) {
    problem(trouble.message);
    return false;
  }
}
const form = () => /** @type {HTMLFormElement} */ ($('show-form'));
const sort = () => form().querySelector('[name=sort]:checked').value;
// what a link may be for is less than what people may who are named
function byForm() {
  for (const node of form().querySelectorAll('[data-for]')) node.hidden = node.dataset.for !== sort();
  for (const node of form().querySelectorAll('[data-named]')) node.disabled = node.hidden = sort() === 'link';
  if (form().querySelector('#show-lets option:checked').disabled) $('show-lets').value = 'look';
}
sought('show-to')?.addEventListener('click', async () => {
  dialog.showModal();
  await fill(ask('/shown'));
});
$('shown-close').addEventListener('click', () => dialog.close());
dialog.addEventListener('change', event => {
  if (targetOf(event).name === 'sort') byForm();
});
dialog.addEventListener('submit', async event => {
  event.preventDefault();
  const to = sort() === 'person' ? $('show-address').value : sort() === 'class' ? $('show-class').value : '';
  const days = $('show-days').value;
  const body = { sort: sort(), to, lets: $('show-lets').value, days: days ? Number(days) : null };
  const chosen = sort();
  if (!(await fill(ask('/shown', body)))) return;
  form().querySelector(`[name=sort][value=${chosen}]`).click();
  // a link that was just made is what one wants next
  if (chosen === 'link') [...$('shown').querySelectorAll('[data-copy]')].at(-1)?.focus();
});
dialog.addEventListener('click', async event => {
  const { takeBack, copy } = targetOf(event).closest('button')?.dataset ?? {};
  if (takeBack) await fill(ask(`/shown/${takeBack}/take-back`, {}));
  if (!copy) return;
  const field = $(copy);
  field.select();
  // a page that came without HTTPS has no clipboard of its own, and copies what is selected
  const written = navigator.clipboard?.writeText(field.value).then(
    () => true,
    () => false,
  );
  const done = (await written) || document.execCommand('copy');
  targetOf(event).replaceChildren(html('span', { role: 'status' }, done ? 'Copied' : 'Press Ctrl+C'));
});

/** Says, where it is so, that a model is not one's to change. @returns {boolean} whether it may be changed */
export function mine() {
  if (may('change')) return true;
  const copy = sought('copy-mine');
  say('This model was shown to you to look at.', copy ? [['Copy it to my Shelf', () => copy.click()]] : []);
  return false;
}
