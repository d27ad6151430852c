// The Shelf: dialogs. Everything else on the page works by itself.
document.addEventListener('click', (event) => {
  const opener = event.target.closest('[data-dialog]');
  if (opener) {
    const dialog = document.getElementById(opener.dataset.dialog);
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
  if (event.target.closest('[data-close]')) event.target.closest('dialog').close();
  for (const menu of document.querySelectorAll('details.menu[open]')) if (!menu.contains(event.target)) menu.removeAttribute('open');
});
document.addEventListener('keydown', (event) => {
  if (event.key !== 'Escape') return;
  for (const menu of document.querySelectorAll('details.menu[open]')) { menu.removeAttribute('open'); menu.querySelector('summary').focus(); }
});
document.addEventListener('htmx:configRequest', (event) => { event.detail.headers['X-CSRFToken'] = document.querySelector('meta[name=csrf]').content; });
