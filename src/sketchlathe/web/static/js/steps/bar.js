// The sentence bar: a step being made or changed, with a live preview. Built from the step's description alone.
import { $, html } from '../core/dom.js';
import { S, emit, kinds, on, part, step, stepKind, there } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { forgetPreviews, preview } from '../core/building.js';
import { endPreview, showPreview } from '../view/scene.js';
import { showBlame } from '../view/blame.js';
import { hint, question } from '../ui/messages.js';
import { redraw, showUnused } from '../sketch/layer.js';
import { advice, draftStep, said } from './outcome.js';
import { EDITORS, TAKES, forget, isPick } from './blanks.js';
import { openDrawer } from '../ui/drawers.js';
import { standInView } from './handle.js';
import { askForSheet, lightSheet } from './sheets.js';
import { changeSizes } from './sizes.js';

/** @type {any} */
let now = null; // {kind, id, fields, touched, editors, active, result}
/** @type {Page.Picking} */
export const picking = { takes: null, pick: null, marked: null, walks: null, hot: null, walked: null };
/** @type {{ digit: ((number: number) => void) | null }} */
export const listening = { digit: null }; // who hears of digits while something is chosen by its number
export const isOpen = () => now !== null;
export const current = () => now;
export const isPulling = standInView(
  () => now,
  (name, text) => {
    now.editors[name].node.value = text;
    changed(name, text);
  },
);

// what stands in an untouched blank: a handy size in the person's unit
/** @param {Told.BlankKind} blank */
const fresh = blank => (blank.type === 'length' ? (S.model.handy[blank.default] ?? blank.default) : blank.default);
/** @param {string | undefined} kindName @param {string | null} id @param {string | null} activeBlank */
export function openBar(kindName, id = null, activeBlank = null) {
  closeBar();
  const kind = stepKind(kindName),
    old = id ? step(id) : null;
  /** @type {Record<string, any>} */
  const fields = {};
  const usual = part().sort === 'together' ? kind.usual_there : {};
  for (const [name, blank] of Object.entries(kind.blanks))
    fields[name] = old ? old.fields[name] : (usual[name] ?? fresh(blank));
  // what was selected before goes into the first blank that takes it
  now = {
    kind,
    id,
    fields,
    touched: new Set(Object.keys(old ? fields : usual)),
    editors: {},
    active: null,
    result: null,
    filled: 0,
    loading: 0,
    offered: old ? [] : [...(S.picked ?? [])],
    from: document.activeElement,
  };
  $('bar').hidden = false;
  $('bar').dataset.for = 'step';
  layOut();
  openDrawer(kind.group);
  for (const b of document.querySelectorAll('[data-step].tool'))
    b.setAttribute('aria-pressed', String(b.dataset.step === kindName));
  hint(kind.hint);
  const first =
    activeBlank ?? Object.keys(now.editors).find(n => isPick(kind.blanks[n].type)) ?? Object.keys(now.editors)[0];
  activate(first);
  emit('bar');
  refresh();
}
// whether anything is picked or typed there
/** @param {string} name */
const filledIn = name => {
  const value = now.fields[name];
  return value && typeof value === 'object' ? Object.values(value).some(Boolean) : Boolean(value);
};
/** @param {string} name @returns {boolean} */
const visible = name => {
  const { after } = now.kind.blanks[name];
  if (after && !filledIn(after)) return false;
  const when = now.kind.blanks[name].when;
  return !when || (when[1].includes(String(now.fields[when[0]])) && visible(when[0]));
};

/** @returns {[string, string, string][]} */
const sentence = () => now.kind.sentence;
function layOut() {
  const row = $('bar').querySelector('.row1'),
    nodes = [];
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
      if (value.trim()) nodes.push(html('span', { class: /^,/.test(value.trim()) ? 'comma' : null }, value.trim()));
      continue;
    }
    if (!visible(value)) continue;
    const blank = now.kind.blanks[value];
    const editor = EDITORS[blank.type](blank, now.fields[value], v => changed(value, v), helpers(value));
    now.editors[value] = editor;
    editor.node.dataset.blank = value;
    editor.node.addEventListener('focus', () => activate(value));
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
  nodes.push(
    html(
      'span',
      { class: 'ends' },
      answer,
      html('button', { class: 'btn k', type: 'submit', id: 'keep', disabled: true }, 'Keep ⏎'),
      html('button', { class: 'btn', type: 'button', id: 'drop', onclick: () => drop() }, 'Drop'),
    ),
  );
  row.replaceChildren(...nodes);
}
/** @param {string} table */
const sizesButton = table =>
  html(
    'button',
    { class: 'fix', type: 'button', title: kinds.tables[table].title, onclick: () => changeSizes(table, refresh) },
    'sizes…',
  );
// the bar laid out anew, in the blank where one was
function relay() {
  const at = now.active;
  now.editors[at]?.deactivate?.();
  now.active = null;
  layOut();
  activate(now.editors[at] ? at : Object.keys(now.editors)[0]);
  told();
}
/** @param {string} name @returns {BlankBar} */
const helpers = name => ({
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
  put: fields => {
    Object.assign(now.fields, fields);
    for (const [n, v] of Object.entries(fields)) if (v !== now.kind.blanks[n].default) now.touched.add(n);
    relay();
    refresh();
  },
  isActive: () => now?.active === name,
  isOpen: node => node.isConnected,
  note: text => hint(text),
  list: (items, more = []) => {
    if (now)
      $('bar')
        .querySelector('.picks')
        .replaceChildren(
          ...items.map(item =>
            html(
              'label',
              {},
              html('input', {
                type: item.radio ? 'radio' : 'checkbox',
                name: 'pick',
                checked: item.on,
                onchange: item.toggle,
              }),
              item.text,
            ),
          ),
          ...more,
        );
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
/** @param {string | undefined} name */
export function activate(name) {
  if (!now || !name || now.active === name || !now.editors[name]) return;
  now.editors[now.active]?.deactivate?.();
  now.active = name;
  if (!ready()) $('bar').querySelector('.why').replaceChildren(); // what was missing is being picked
  for (const [n, editor] of Object.entries(now.editors)) editor.node.classList.toggle('act', n === name);
  const editor = now.editors[name];
  hint(now.kind.blanks[name].hint || now.kind.hint);
  const mine = now,
    shown = editor.activate?.();
  // what can be picked may still be on its way; Enter pressed meanwhile is remembered, unless nothing comes of it
  if (shown?.finally) {
    mine.loading += 1;
    shown.finally(() => {
      mine.loading -= 1;
      if (now !== mine || mine.loading || ready()) return;
      const { wanted } = mine;
      mine.wanted = false;
      if (wanted) leadOn();
    });
  }
  /** @type {[string, string, string][]} */
  const instead = now.kind.blanks[name].instead;
  // a pick that belongs into another blank: the first of those named that takes it
  if (instead.length) {
    /** @param {string} other @returns {string[]} */
    const takenBy = other =>
      now.kind.blanks[other].only ? [now.kind.blanks[other].only] : TAKES[now.kind.blanks[other].type];
    helpers(name).takes([...new Set(instead.flatMap(([, , other]) => takenBy(other)))], hit => {
      const [choice, value, other] = there(instead.find(([, , o]) => takenBy(o).includes(hit.what)));
      now.editors[name].deactivate?.();
      changed(choice, value);
      activate(other);
      return picking.pick?.(hit);
    });
  }
  if (now.active !== name) return; // what was selected went elsewhere
  if (document.activeElement !== editor.node) editor.node.focus({ preventScroll: true });
  if (editor.node.select && editor.node.tagName === 'INPUT') editor.node.select();
}
/** @param {string} name @param {any} value */
export function changed(name, value) {
  now.fields[name] = value;
  now.touched.add(name);
  now.filled += 1;
  const editor = now.editors[name];
  if (editor.finishes) {
    keep();
    return;
  }
  if (now.kind.blanks[name].type === 'choice') {
    const active = now.active,
      before = new Set(Object.keys(now.editors));
    now.editors[active]?.deactivate?.();
    now.active = null;
    layOut();
    // a choice that brings a blank to be filled leads on to it
    const next = Object.entries(now.editors).find(
      ([n, e]) => !before.has(n) && isPick(now.kind.blanks[n].type) && e.empty?.(),
    )?.[0];
    activate(next ?? active);
  }
  if (editor.value) showValue(name);
  // a blank that takes one thing leads on to the next that must be filled, and brings those that stand after it
  if (editor.goesOn && now.active === name) {
    const names = Object.keys(now.editors);
    if (Object.entries(now.kind.blanks).some(([n, b]) => b.after === name && visible(n) !== names.includes(n))) relay();
    const next = Object.entries(now.editors).find(
      ([n, e]) =>
        isPick(now.kind.blanks[n].type) && (e.empty?.() || (e.unchosen?.() && now.kind.blanks[n].after === name)),
    );
    if (next && !editor.unchosen?.()) activate(next[0]);
  }
  refresh();
}
/** @param {string} name */
async function showValue(name) {
  const blank = now.kind.blanks[name],
    editor = now.editors[name],
    text = String(now.fields[name] ?? '');
  if (!/[A-Za-z_*/+(^-]/.test(text.replace(/^-?[\d.]+\s*(mm|cm|m|in|°|deg)?$/, ''))) {
    editor.value.textContent = '';
    return;
  }
  const got = await ask('/number', { text, angle: blank.type === 'angle' }).catch(() => null);
  if (now?.editors[name] === editor) editor.value.textContent = got ? `= ${got.text}` : '';
}
// what the last preview said stands in a bar that is laid out anew
function told() {
  $('keep').disabled = !now.settled;
  const own = now.result?.preview;
  $('bar-answer').textContent = own?.status === 'ok' ? said(own) : '';
}
const draftOf = () => ({ kind: now.kind.kind, ...(now.id ? { id: now.id } : {}), fields: now.fields });
export const ready = () => !empty();

function refresh() {
  if (!now) return;
  const mine = now;
  mine.settled = null; // not known yet: true and false are what the preview says
  const why = $('bar').querySelector('.why');
  if (!ready() || Object.values(now.editors).some(e => e.finishes)) {
    why.replaceChildren(...stillMissing());
    $('keep').disabled = true;
    mine.settled = false;
    mine.wanted &&= mine.loading > 0;
    return;
  }
  preview(draftOf(), [...now.touched], async (result, problem) => {
    if (now !== mine) return;
    if (problem) {
      now.result = null;
      fail(problem.message, []);
      return;
    }
    for (const [name, value] of Object.entries(result.defaults ?? {})) {
      now.fields[name] = value;
      now.editors[name]?.set(value);
    }
    now.result = result;
    const own = result.preview;
    if (own.status === 'ok') {
      mine.settled = true;
      why.replaceChildren(
        ...advice(result).map(a =>
          html('span', { class: 'note' }, `▲ ${a.text} `, ...(Object.keys(a.fields).length ? [fixButton(a)] : [])),
        ),
      );
      $('keep').disabled = false;
      if (mine.wanted) {
        keep();
        return;
      }
      $('bar-answer').textContent = said(own);
    } else
      fail(
        own.message,
        advice(result).filter(a => a.fix),
        own.gave_up,
      );
    now.editors[now.active]?.told?.();
    await showPreview(result);
    if (!isPulling()) emit('tried', result.bodies);
    showBlame(draftStep(result)?.blame ?? []);
    emit('marked');
    redraw();
  });
}
/** @returns {string | undefined} */
const empty = () => Object.keys(now.editors).find(n => now.editors[n].empty?.());
function leadOn() {
  if (empty() !== now.active) activate(empty());
}
// to whoever is done with one place while another is empty: which, and a way there
function stillMissing() {
  const done = now.touched.has(now.active) && !now.editors[now.active]?.empty?.(),
    name = done && empty();
  if (!name) return [];
  return [
    html('span', { class: 'note' }, '▲ Still missing: '),
    fixButton({ fix: now.kind.blanks[name].label, act: () => activate(name) }),
  ];
}
/** @param {string} message @param {any[]} fixes */
function fail(message, fixes, gaveUp = false) {
  now.settled = now.wanted = false;
  // nobody is shut in: a step that cannot be computed may be kept, it stands in the list failed and the rest is built
  if (gaveUp)
    fixes = [
      ...fixes,
      {
        fix: 'keep it all the same',
        act: () => {
          now.settled = true;
          keep();
        },
      },
    ];
  $('keep').disabled = true;
  $('bar-answer').textContent = '';
  $('bar')
    .querySelector('.why')
    .replaceChildren(html('span', {}, `✗ ${message}`), ...fixes.map(fixButton));
}
/** @param {any} f */
const fixButton = f =>
  html(
    'button',
    {
      class: 'fix',
      type: 'button',
      onclick: () => {
        if (f.act) {
          f.act();
          return;
        }
        Object.assign(now.fields, f.fields);
        for (const n of Object.keys(f.fields)) now.touched.add(n);
        now.editors[now.active]?.deactivate?.();
        now.active = null;
        layOut();
        activate(Object.keys(now.editors)[0]);
        refresh();
      },
    },
    f.fix,
  );

export async function keep() {
  const mine = now;
  if (!mine || mine.keeping) return;
  if (!ready()) {
    mine.wanted = mine.loading > 0;
    if (!mine.wanted) leadOn();
    return;
  }
  // what is kept is what was seen: a value typed a moment ago is tried first, and kept when it can be
  if (!mine.settled && !Object.values(mine.editors).some(e => e.finishes)) {
    mine.wanted = mine.settled === null;
    return;
  }
  mine.keeping = true;
  const what = mine.id
    ? {
        kind: 'set_fields',
        step: mine.id,
        fields: Object.fromEntries(Object.entries(mine.fields).filter(([n]) => mine.touched.has(n))),
      }
    : { kind: 'add_step', part: S.partId, step: mine.kind.kind, fields: mine.fields };
  const known = new Set(part().steps.map(s => s.id));
  try {
    await edit(what);
  } catch (/** @type {any} */ problem) {
    mine.keeping = false;
    if (now === mine) $('bar').querySelector('.why').replaceChildren(`✗ ${problem.message}`);
    return;
  }
  closeBar();
  const made = part().steps.find(s => !known.has(s.id));
  if (made) emit('made', made);
}
$('bar').addEventListener('submit', event => {
  event.preventDefault();
  if (now) keep();
});
export async function drop() {
  if (
    now &&
    now.filled > 1 &&
    !now.id &&
    !(await question('Drop this step?', 'What was filled in is not kept.', [['yes', 'Drop']]))
  )
    return;
  closeBar();
}
export function closeBar() {
  if (!now) return;
  const { from } = now;
  now.editors[now.active]?.deactivate?.();
  now = null;
  picking.takes = null;
  picking.pick = null;
  picking.marked = null;
  picking.walks = null;
  picking.hot = null;
  picking.walked = null;
  askForSheet(null);
  listening.digit = null;
  forget();
  emit('marked');
  forgetPreviews();
  $('bar').hidden = true;
  for (const part_ of ['.picks', '.why', '.row1']) $('bar').querySelector(part_).replaceChildren();
  for (const b of document.querySelectorAll('[data-step].tool')) b.setAttribute('aria-pressed', 'false');
  endPreview();
  showBlame([]);
  showUnused();
  hint('');
  emit('bar');
  redraw();
  // where one was before, if that is still there
  if (!document.activeElement || document.activeElement === document.body)
    (from?.isConnected && from.getClientRects().length ? from : $('view')).focus({ preventScroll: true });
}
on('mode', () => {
  if (S.mode === 'sketch') closeBar();
});
