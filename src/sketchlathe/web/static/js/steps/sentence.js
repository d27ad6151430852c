// A step's sentence laid out in the bar: its words, an editor for each blank, and what editors get of the bar.
import { $, html } from '../core/dom.js';
import { ask } from '../core/api.js';
import { emit, kinds, part } from '../core/state.js';
import { lightListed } from '../sketch/layer.js';
import { hint } from '../ui/messages.js';
import { activate, changed, drop } from './bar.js';
import { EDITORS } from './blanks.js';
import { fresh, listening, now, picking, sentence, visible } from './filling.js';
import { askForSheet, lightSheet } from './sheets.js';
import { changeSizes } from './sizes.js';
import { refresh, told } from './trying.js';

export function layOut() {
  const row = $('bar').querySelector('.row1'),
    nodes = [],
    had = now.editors;
  now.editors = {};
  if (!now.kind.sentence[0][1].startsWith(now.kind.word)) nodes.push(html('b', {}, now.kind.word));
  // what may stay empty is folded away until it is asked for
  /** @param {string} name */
  const bare = name => {
    const v = now.fields[name],
      blank = now.kind.blanks[name];
    return (
      blank.optional &&
      !now.touched.has(name) &&
      (!v || !v.length || JSON.stringify(v) === JSON.stringify(fresh(blank)))
    );
  };
  /** @param {string} g @returns {string[]} */
  const inGroup = g =>
    sentence()
      .filter(([what, , h]) => what === 'blank' && h === g)
      .map(([, v]) => v);
  /** @param {string} g */
  const folded = g => g && !now.more && inGroup(g).every(n => !visible(n) || bare(n));
  const some = sentence().some(
    ([what, value, g]) => what === 'blank' && g && visible(value) && inGroup(g).every(n => !visible(n) || bare(n)),
  );
  const groups = new Set(
    sentence()
      .filter(([what, value]) => what === 'blank' && visible(value))
      .map(([, , g]) => g),
  );
  for (const [what, value, group] of now.kind.sentence) {
    if (group && (!groups.has(group) || folded(group))) continue;
    if (what === 'text') {
      const said = value.trim();
      if (said.startsWith(',')) {
        // a comma never begins a row
        /** @type {any[]} */
        const before = nodes.splice(nodes.at(-1)?.matches('.val') ? -2 : -1);
        nodes.push(html('span', { class: 'kept-together' }, ...before, html('span', { class: 'comma' }, ',')));
      }
      const rest = said.replace(/^,\s*/, '');
      if (rest) nodes.push(html('span', {}, rest));
      continue;
    }
    if (!visible(value)) continue;
    const blank = now.kind.blanks[value];
    // one that is still finding out what can be picked goes on with it
    const editor = had[value]?.looking ? had[value] : made(value);
    now.editors[value] = editor;
    nodes.push(editor.node);
    if (blank.table[0] && blank.table[0] === now.fields[value]) nodes.push(sizesButton(blank.table[1]));
    if (['length', 'angle', 'count'].includes(blank.type)) {
      editor.value = html('span', { class: 'val' });
      nodes.push(editor.value);
      showValue(value);
    }
  }
  const answer = html('span', { class: 'val', id: 'bar-answer' });
  if (some)
    nodes.push(
      html(
        'button',
        {
          class: 'fix',
          type: 'button',
          id: 'more-blanks',
          title: 'Blanks that may stay empty',
          onclick: () => {
            now.more = !now.more;
            relay();
          },
        },
        now.more ? 'less' : 'more…',
      ),
    );
  nodes.push(answer);
  // what ends the sentence stands apart from it: an answer that comes while it is being pressed moves it nowhere
  row.replaceChildren(
    html('div', { class: 'said' }, ...nodes),
    html(
      'span',
      { class: 'ends' },
      html('button', { class: 'btn k', type: 'submit', id: 'keep', disabled: true }, 'Keep ⏎'),
      html('button', { class: 'btn', type: 'button', id: 'drop', onclick: () => drop() }, 'Drop'),
      html(
        'button',
        { class: 'btn about', type: 'button', title: `What ${now.kind.word} does, in the handbook (F1)` },
        html('span', { 'aria-hidden': 'true' }, '?'),
        html('span', { class: 'visually-hidden' }, 'Handbook'),
      ),
    ),
  );
}
/** @param {string} name */
function made(name) {
  const editor = EDITORS[now.kind.blanks[name].type](
    now.kind.blanks[name],
    now.fields[name],
    v => changed(name, v),
    helpers(name),
  );
  editor.node.dataset.blank = name;
  editor.node.addEventListener('focus', () => {
    const mine = now;
    if (!mine.late) activate(name);
    else if (mine.active !== name)
      mine.late.then(() => {
        if (now === mine && document.activeElement === now.editors[name]?.node) activate(name, true);
      });
  });
  return editor;
}
const MANY = 12; // more are looked through by a word
let sought = '';
/** @param {Element} list */
function finder(list) {
  const field = html('input', {
    class: 'finder',
    type: 'search',
    placeholder: 'find…',
    'aria-label': 'Find in this list',
    value: sought,
  });
  const filter = () => {
    sought = field.value;
    const words = sought.toLowerCase().split(/\s+/);
    for (const label of list.querySelectorAll('label'))
      label.hidden = !words.every(w => (label.textContent ?? '').toLowerCase().includes(w));
  };
  field.addEventListener('input', filter);
  queueMicrotask(filter);
  return field;
}
// what a name means lights up, in the sketches and on the solid
/** @param {{ id?: string, hit?: () => any } | null} item */
function light(item) {
  lightListed(item?.id ?? null);
  const hot = item?.hit?.() ?? null;
  if (hot === picking.hot) return;
  picking.hot = hot;
  emit('marked');
}
/** @param {Element | null} place */
const said = place => (place?.closest('label') ?? place)?.textContent;
/** @param {string} table */
const sizesButton = table =>
  html(
    'button',
    { class: 'fix', type: 'button', title: kinds.tables[table].title, onclick: () => changeSizes(table, refresh) },
    'sizes…',
  );
// the bar laid out anew, in the blank where one was
export function relay() {
  const at = now.active;
  now.editors[at]?.deactivate?.();
  now.active = null;
  layOut();
  activate(now.editors[at] ? at : Object.keys(now.editors)[0]);
  told();
}
/** @param {string} name @returns {BlankBar} */
export const helpers = name => ({
  get before() {
    return now?.id ? part().steps.findIndex(s => s.id === now.id) : null;
  },
  get id() {
    return now?.id ?? null;
  },
  get single() {
    return Object.keys(now.kind.blanks).length === 1;
  },
  marked: which => {
    picking.marked = which;
    emit('marked');
  },
  walks: w => {
    picking.walks = w;
  },
  // other blanks filled at once, by what a pick means
  put: (fields, then) => {
    Object.assign(now.fields, fields);
    for (const [n, v] of Object.entries(fields)) if (v !== now.kind.blanks[n].default) now.touched.add(n);
    relay();
    refresh();
    if (then) activate(then);
  },
  isActive: () => now?.active === name,
  isOpen: node => node.isConnected,
  note: text => hint(text),
  list: (items, more = []) => {
    lightListed(null);
    const long = items.length > 8; // what is done with the pick would be scrolled out of sight
    const list = $('bar').querySelector('.picks'),
      held = list.contains(document.activeElement) ? said(document.activeElement) : null;
    if (now)
      list.replaceChildren(
        ...(long ? more : []),
        ...items.map(item =>
          html(
            'label',
            {
              onpointerenter: () => light(item),
              onpointerleave: () => light(null),
              onfocusin: () => light(item),
              onfocusout: () => light(null),
            },
            html('input', {
              type: item.radio ? 'radio' : 'checkbox',
              name: 'pick',
              checked: item.on,
              onchange: item.toggle,
            }),
            item.text,
          ),
        ),
        ...(long ? [] : more),
      );
    if (items.length > MANY) list.prepend(finder(list));
    // whoever walks through the list goes on from where they were
    const again = held && [...list.querySelectorAll('input, button')].find(other => said(other) === held);
    if (again) /** @type {HTMLElement} */ (again).focus({ preventScroll: true });
  },
  sheets: askForSheet,
  lightSheet,
  takes: (what, pick) => {
    picking.takes = what;
    picking.pick = pick ?? null;
    const given = what ? (now?.offered.filter((/** @type {Hit} */ hit) => what.includes(hit.what)) ?? []) : [];
    if (given.length && pick) {
      now.offered = [];
      for (const hit of given) pick(hit);
    }
  },
  digits: hear => {
    listening.digit = hear;
  },
  spots: () => now?.result?.preview?.spots ?? [],
});
/** @param {string} name */
export async function showValue(name) {
  const blank = now.kind.blanks[name],
    editor = now.editors[name],
    text = String(now.fields[name] ?? '');
  if (!/[A-Za-z_*/+(^-]/.test(text.replace(/^-?[\d.]+\s*(mm|cm|m|in|°|deg)?$/, ''))) {
    editor.value.textContent = '';
    return;
  }
  // a formula that is still being typed has no value yet
  if (/[-+*/^(,·×÷]\s*$/.test(text)) {
    editor.value.textContent = '';
    return;
  }
  const got = await ask('/number', { text, sort: blank.type }).catch(() => null);
  if (now?.editors[name] === editor) editor.value.textContent = got?.text ? `= ${got.text}` : '';
}
