// Two-letter chords, taken from the buttons themselves; Space or / finds any action by name.
import { $, html, sought, targetOf } from '../core/dom.js';
import { hint } from './messages.js';

let first = '';
let timer = 0;
// the line that names second letters goes again when none comes
/** @type {{ text: string, before: string } | null} */
let named = null;
function unname() {
  if (named && $('hint').textContent === named.text) hint(named.before);
  named = null;
}
function forget() {
  first = '';
  unname();
}
/** @param {string} letters of a chord, or of its beginning */
const begins = letters =>
  [...document.querySelectorAll('[data-chord]')].filter(n => n.dataset.chord?.startsWith(letters));
/** @type {((event: KeyboardEvent) => unknown)[]} */
const handlers = [];
// fn(event) → true when it used the key. Later ones are asked first.
/** @param {(event: KeyboardEvent) => unknown} fn */
export const onKey = fn => handlers.unshift(fn);

/** @param {HTMLElement} node */
const usable = node =>
  node.dataset.chord &&
  !node.disabled &&
  node.getClientRects().length + (node.closest('details.menu:not([open])')?.getClientRects().length ?? 0) > 0;
// what is not in sight and can be had all the same, once something else is done: node → how, or null
/** @type {((node: HTMLElement) => (() => void) | null)[]} */
export const ways = [];
/** @param {HTMLElement} node */
const wayTo = node => (node.disabled ? null : (ways.map(way => way(node)).find(Boolean) ?? null));
/** @param {HTMLElement} node */
const reached = node => usable(node) || Boolean(node.dataset.chord && wayTo(node));
const actions = () =>
  [...document.querySelectorAll('[data-name]')].filter(
    n =>
      !n.disabled &&
      (n.getClientRects().length || n.closest('details.menu:not([open])')?.getClientRects().length || wayTo(n)),
  );
/** @param {HTMLElement} node */
export function press(node) {
  const way = node.getClientRects().length ? null : wayTo(node);
  if (way) {
    way();
    return;
  }
  const menu = node.closest('details.menu');
  if (menu && node.tagName === 'SUMMARY') menu.open = !menu.open;
  else {
    // whoever calls a tool by its letters wants it, also where it is in hand already
    if ('again' in node.dataset && node.getAttribute('aria-pressed') === 'true') node.click();
    node.click();
  }
  if (menu && node.tagName !== 'SUMMARY') menu.open = false;
  if (menu?.open) menu.querySelector('.list button, .list a')?.focus();
}
/** @param {EventTarget | null} node */
const writing = node => node?.matches?.('input, select, textarea') || node?.closest?.('dialog[open]');

// a menu that is open takes no click meant for what lies beside it
document.addEventListener(
  'pointerdown',
  event => {
    for (const menu of document.querySelectorAll('details.menu[open]'))
      if (!menu.contains(/** @type {Node} */ (event.target))) menu.open = false;
  },
  true,
);
document.addEventListener('keydown', event => {
  if (event.key === 'Escape')
    for (const menu of document.querySelectorAll('details.menu[open]')) {
      menu.open = false;
      menu.querySelector('summary').focus();
    }
  if (event.ctrlKey || event.metaKey) {
    // with Shift the key arrives as a capital
    const key = event.key.toLowerCase(),
      way = key === 'z' ? (event.shiftKey ? 'redo' : 'undo') : key === 'y' ? 'redo' : '';
    if (way && !writing(event.target)) {
      event.preventDefault();
      sought(way)?.click();
      return;
    }
    if (!writing(event.target))
      for (const handle of handlers)
        if (handle(event)) {
          event.preventDefault();
          return;
        }
    return;
  }
  for (const handle of handlers)
    if (handle(event)) {
      event.preventDefault();
      first = '';
      return;
    }
  if (writing(event.target) || event.altKey) return;
  if (event.key === '/' || (event.key === ' ' && !targetOf(event).closest('button, summary, a, [role=button]'))) {
    event.preventDefault();
    openFinder();
    return;
  }
  if (!/^[a-z]$/.test(event.key)) {
    if (event.key !== 'Shift') forget();
    return;
  }
  clearTimeout(timer);
  // a letter that belongs to nothing that was begun begins anew
  const chord = begins(first + event.key).length ? first + event.key : event.key,
    found = begins(chord).filter(reached);
  if (chord.length === 2) {
    first = '';
    unname();
    if (found.length) {
      event.preventDefault();
      press(found[0]);
    }
  } else if (found.length) {
    first = chord;
    unname();
    document.dispatchEvent(new CustomEvent('chordbegun', { detail: chord }));
    named = {
      before: $('hint').textContent,
      text: `${chord} then: ${found.map(n => `${n.dataset.chord?.[1]} ${n.dataset.name ?? ''}`).join(', ')}`,
    };
    hint(named.text);
    timer = setTimeout(forget, 2500);
  }
});

// things of the model that can be gone to: () → [{name, where, go}]; quiet: only when words are typed
/** @type {(() => { name: string, where: string, go: () => void, quiet?: boolean }[])[]} */
export const findable = [];
function openFinder() {
  const dialog = $('finder');
  const text = $('finder-text');
  const list = $('finder-list');
  const all = [
    ...actions().map(n => ({
      name: n.dataset.name ?? '',
      quiet: false,
      about: `${n.title} ${n.dataset.synonyms ?? ''}`,
      keys: (n.dataset.chord ?? '').split('').join(' '),
      go: () => press(n),
    })),
    ...findable.flatMap(things => things()).map(t => ({ about: '', keys: t.where, ...t })),
  ];
  let chosen = 0;
  const show = () => {
    const words = text.value.toLowerCase().split(/\s+/).filter(Boolean);
    /** @param {string} s */
    const has = s => words.every(w => s.toLowerCase().includes(w));
    // what is called so comes before what only says so in its explanation
    const called = all.filter(a => has(a.name)),
      found = words.length
        ? [...called, ...all.filter(a => !called.includes(a) && has(`${a.name} ${a.about}`))]
        : all.filter(a => !a.quiet);
    chosen = Math.min(chosen, Math.max(found.length - 1, 0));
    list.replaceChildren(
      ...found.map((n, i) =>
        html(
          'li',
          { role: 'option', id: `found-${i}`, 'aria-selected': i === chosen ? 'true' : 'false', onclick: () => run(n) },
          html('span', {}, n.name),
          n.keys ? html('kbd', {}, n.keys) : '',
        ),
      ),
    );
    if (!found.length)
      list.replaceChildren(
        html(
          'li',
          { class: 'none', role: 'option', 'aria-disabled': 'true' },
          `Nothing here is called “${text.value.trim()}”.`,
        ),
      );
    text.setAttribute('aria-activedescendant', found.length ? `found-${chosen}` : '');
    list.children[chosen]?.scrollIntoView({ block: 'nearest' });
    return found;
  };
  /** @param {{ go: () => void }} action */
  const run = action => {
    dialog.close();
    action.go();
  };
  text.value = '';
  text.oninput = () => {
    chosen = 0;
    show();
  };
  text.onkeydown = event => {
    if (event.key === 'ArrowDown') chosen += 1;
    else if (event.key === 'ArrowUp') chosen = Math.max(0, chosen - 1);
    else if (event.key === 'Enter') {
      event.preventDefault();
      const found = show();
      if (found[chosen]) run(found[chosen]);
      return;
    } else return;
    event.preventDefault();
    show();
  };
  dialog.showModal();
  show();
  text.focus();
}
$('find').addEventListener('click', openFinder);
document.addEventListener('pointerdown', event => {
  for (const menu of document.querySelectorAll('details.menu[open]'))
    if (!menu.contains(targetOf(event))) menu.open = false;
});
