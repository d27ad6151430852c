// The Shelf: dialogs. Everything else on the page works by itself.
import { $, html, targetOf } from './core/dom.js';
import { csrf } from './core/talk.js';

document.addEventListener('click', event => {
  const opener = targetOf(event).closest('[data-dialog]');
  if (opener) {
    const dialog = $(opener.dataset.dialog ?? '');
    const form = dialog.querySelector('form[data-action-of]');
    if (form && opener.dataset.base) form.action = `${opener.dataset.base}/${form.dataset.actionOf}`;
    const name = dialog.querySelector('input[name=name]');
    if (name && opener.dataset.name) name.value = opener.dataset.name;
    const said = dialog.querySelector('[data-said]');
    if (said) said.textContent = `“${opener.dataset.says}”`;
    opener.closest('details')?.removeAttribute('open');
    dialog.showModal();
    name?.select();
  }
  if (targetOf(event).closest('[data-close]')) targetOf(event).closest('dialog')?.close();
  for (const menu of document.querySelectorAll('details.menu[open]'))
    if (!menu.contains(targetOf(event))) menu.removeAttribute('open');
});
document.addEventListener('keydown', event => {
  if (event.key !== 'Escape') return;
  for (const menu of document.querySelectorAll('details.menu[open]')) {
    menu.removeAttribute('open');
    menu.querySelector('summary').focus();
  }
});
document.addEventListener('htmx:configRequest', event => {
  event.detail.headers['X-CSRFToken'] = csrf;
});

// files dropped anywhere on the Shelf become models, one after the other; one alone is opened
const shelf = document.querySelector('[data-bring]');
/** @param {any} event */
const carries = event => shelf && [...event.dataTransfer.types].includes('Files');
/** @param {string} text */
const telling = text =>
  $('problem').replaceChildren(html('div', { class: 'telling', role: 'status' }, html('p', {}, text)));
document.addEventListener('dragover', event => {
  if (carries(event)) {
    event.preventDefault();
    shelf.classList.add('dropping');
  }
});
document.addEventListener('dragleave', event => {
  if (!event.relatedTarget) shelf?.classList.remove('dropping');
});
document.addEventListener('drop', async event => {
  if (!carries(event)) return;
  event.preventDefault();
  shelf.classList.remove('dropping');
  const files = [...(event.dataTransfer?.files ?? [])];
  let last = '';
  for (const [i, file] of files.entries()) {
    telling(`Reading ${file.name}${files.length > 1 ? ` (${i + 1} of ${files.length})` : ''}…`);
    const form = new FormData();
    form.set('file', file);
    try {
      last = (await fetch(shelf.dataset.bring ?? '', { method: 'POST', body: form, headers: { 'X-CSRFToken': csrf } }))
        .url;
    } catch {
      last = '';
    }
    if (!last) {
      telling(`${file.name} could not be sent.`);
      return;
    }
    if (last.includes('problem=')) break;
  }
  location.href = files.length > 1 && !last.includes('problem=') ? location.href : last;
});
