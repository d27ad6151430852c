// Moments as the person's clock has them; what is typed into a field of one goes out with its zone.
import { targetOf } from './core/dom.js';

const said = new Intl.DateTimeFormat(undefined, {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
});
export function local(/** @type {ParentNode} */ root) {
  for (const node of root.querySelectorAll('time[datetime]')) {
    const at = new Date(node.getAttribute('datetime') ?? '');
    if (!Number.isNaN(at.getTime())) node.textContent = said.format(at);
  }
}
local(document);
document.addEventListener('htmx:afterSettle', () => local(document));

/** @param {Date} at */
const asField = at => new Date(at.getTime() - at.getTimezoneOffset() * 60000).toISOString().slice(0, 16);
for (const field of document.querySelectorAll('input[type=datetime-local][data-at]'))
  field.value = asField(new Date(field.dataset.at ?? ''));
document.addEventListener('submit', event => {
  for (const field of targetOf(event).querySelectorAll('input[type=datetime-local]')) {
    if (!field.value) continue;
    const exact = document.createElement('input');
    exact.type = 'hidden';
    exact.name = field.name;
    exact.value = new Date(field.value).toISOString();
    field.removeAttribute('name');
    field.after(exact);
  }
});

// what comes by itself does not take away what somebody is at
document.addEventListener('htmx:beforeRequest', event => {
  const place = targetOf(event);
  if (place.id === 'everybody' && (place.contains(document.activeElement) || place.querySelector('details[open]')))
    event.preventDefault();
});
