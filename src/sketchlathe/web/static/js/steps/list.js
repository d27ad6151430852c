// The list of steps and the other panels: changing a blank in its place, and what can be done with a step.
import { $, html, sought, targetOf } from '../core/dom.js';
import { S, emit, on, part, step, stepKind, there } from '../core/state.js';
import { edit, restore } from '../core/api.js';
import { later } from '../core/rest.js';
import './parameters.js';
import { findable, onKey } from '../ui/keys.js';
import { complain, hint, question, say } from '../ui/messages.js';
import { isPick } from './blanks.js';
import { leaves, openBar } from './bar.js';
import { open } from '../sketch/board.js';
import { mine } from '../showing/shown.js';

// the blank being changed in its sentence: { step, field, input }
/** @type {any} */
let editing = null;
/** @param {HTMLElement} button @param {any} s */
async function inPlace(button, s, text = null) {
  if (!mine()) return;
  const field = button.dataset.blank ?? '',
    blank = stepKind(s.kind).blanks[field];
  if (isPick(blank.type)) {
    openBar(s.kind, s.id, field);
    return;
  }
  /** @param {any} value */
  const keep = value => edit({ kind: 'set_fields', step: s.id, fields: { [field]: value } });
  let gone = false,
    sending = false; // the list that comes with the answer takes the input away, which is no click elsewhere
  const back = () => {
    if (!gone && input.isConnected) {
      gone = true;
      editing = null;
      input.replaceWith(button);
    }
  };
  const input =
    blank.type === 'choice'
      ? html(
          'select',
          { 'aria-label': blank.label, onchange: () => keep(input.value).catch(back), onblur: back },
          ...Object.entries(blank.words).map(([k, w]) =>
            html('option', { value: k, ...(k === s.fields[field] ? { selected: true } : {}) }, w),
          ),
        )
      : html('input', {
          class: 'num',
          value: text ?? s.fields[field],
          size: Math.max(6, s.fields[field].length + 1),
          'aria-label': blank.label,
          maxlength: 400,
          // whoever clicks elsewhere has typed it all the same
          onblur: () => {
            if (gone || sending || !input.isConnected) return;
            const typed = input.value;
            back();
            if (typed.trim() && typed !== s.fields[field]) keep(typed).catch(() => {});
          },
        });
  input.addEventListener('keydown', async event => {
    event.stopPropagation();
    if (event.key === 'Escape') {
      back();
      button.focus();
      return;
    }
    if (event.key !== 'Enter' || input.tagName !== 'INPUT') return;
    event.preventDefault();
    // the list comes filled with the answer: this number is no longer being typed then
    const id = button.id;
    editing = null;
    sending = true;
    try {
      await keep(input.value);
      back();
      later(() => document.getElementById(id)?.focus(), 80);
    } catch {
      sending = false;
      editing = { step: s.id, field, input };
      input.focus();
      input.select();
    }
  });
  editing = { step: s.id, field, input };
  button.replaceWith(input);
  input.focus();
  if (text === null) input.select?.();
}
// a number being typed stays under the caret when the list is filled again
/** @type {any} */
let typed = null;
$('steps').addEventListener('lathe:filling', () => {
  const input = editing?.input;
  typed =
    input?.isConnected && input.tagName === 'INPUT'
      ? { ...editing, value: input.value, from: input.selectionStart, to: input.selectionEnd }
      : null;
});
$('steps').addEventListener('lathe:filled', () => {
  const button = typed && $(`blank-${typed.step}-${typed.field}`),
    s = typed && step(typed.step);
  if (!button || !s) return;
  inPlace(button, s, typed.value);
  editing.input.setSelectionRange(typed.from, typed.to);
});

// all that picks from a step, directly or through others
/** @param {string} id */
function usersOf(id) {
  const lost = new Set([id]);
  return part().steps.filter(x => x.id !== id && x.needs.some(n => lost.has(n)) && lost.add(x.id));
}

// the chosen step: what it works on is told, what it made is lit in the view
/** @type {string | null} */
let chosen = null;
/** @param {string | null | undefined} id */
export function choose(id) {
  chosen = id ?? null;
  showChosen();
  emit('step-chosen', id);
}
function showChosen() {
  for (const item of $('steps').querySelectorAll('li[data-step]')) {
    item.classList.toggle('on', item.dataset.step === chosen);
    item.querySelector('button.n').setAttribute('aria-pressed', String(item.dataset.step === chosen));
  }
}
/** @param {string} id */
export function reveal(id) {
  choose(id);
  const item = $(`step-${id}`);
  item?.scrollIntoView({ block: 'nearest' });
  item?.querySelector('button.n').focus();
}
findable.push(() => part().steps.map(s => ({ name: s.title, where: 'step', about: s.kind, go: () => reveal(s.id) })));
$('steps').addEventListener('lathe:filled', showChosen);

// moving a step: by dragging its number, or with Alt and the arrow keys; only places where it can stand are offered
/** @type {string | null | undefined} */
let dragged = null;
const places = () => [...$('steps').querySelectorAll('li[data-step]')];
/** @param {string | null | undefined} id */
const indexOf = id => part().steps.findIndex(x => x.id === id);
/** @param {string} id @param {number} to */
function moveTo(id, to) {
  const [first, last] = there(step(id)).room;
  if (to < first || to > last) {
    const where = first === last ? `place ${first + 1}` : `places ${first + 1} to ${last + 1}`;
    hint(`${there(step(id)).title} can only stand at ${where}: what it needs comes before, what needs it after.`);
    return;
  }
  if (to !== indexOf(id))
    edit({ kind: 'move_step', step: id, to })
      .then(() => later(() => sought(`step-${id}`)?.querySelector('button.n').focus(), 120))
      .catch(() => {});
}
// the Now line is dragged between two steps, or moved with the arrow keys when it has the focus
/** @param {number} to */
const setNow = to =>
  edit({ kind: 'set_now', part: S.partId, now: to >= part().steps.length ? null : Math.max(0, to) })
    .then(() => later(() => $('steps').querySelector('.nowline button')?.focus(), 150))
    .catch(() => {});
const nowAt = () => part().now ?? part().steps.length;
/** @type {any} */
let nowDrag = null;
// how many steps lie above a height of the screen
/** @param {number} y */
const above = y =>
  places().filter(p => {
    const b = p.getBoundingClientRect();
    return (b.top + b.bottom) / 2 < y;
  }).length;
$('steps').addEventListener('pointerdown', event => {
  const line = event.button === 0 && targetOf(event).closest('.nowline');
  if (!line || targetOf(event).closest('[data-now]') || S.mode === 'sketch') return;
  event.preventDefault();
  nowDrag = { to: nowAt() };
  $('steps').setPointerCapture(event.pointerId);
  line.classList.add('moving');
});
$('steps').addEventListener('pointermove', event => {
  if (!nowDrag) return;
  nowDrag.to = above(event.clientY);
  places().forEach((p, i) => {
    p.classList.toggle('drop-after', i === nowDrag.to - 1);
    p.classList.toggle('drop-before', nowDrag.to === 0 && i === 0);
  });
});
/** @param {boolean} keep */
const endNowDrag = keep => {
  if (!nowDrag) return;
  const { to } = nowDrag;
  nowDrag = null;
  $('steps').querySelector('.nowline.moving')?.classList.remove('moving');
  for (const p of places()) p.classList.remove('drop-after', 'drop-before');
  if (keep && to !== nowAt()) setNow(to);
};
$('steps').addEventListener('pointerup', () => endNowDrag(true));
$('steps').addEventListener('pointercancel', () => endNowDrag(false));
$('steps').addEventListener('keydown', event => {
  if (
    !targetOf(event).matches('.nowline .grab') ||
    !['ArrowUp', 'ArrowDown'].includes(event.key) ||
    S.mode === 'sketch'
  )
    return;
  event.preventDefault();
  event.stopPropagation();
  setNow(nowAt() + (event.key === 'ArrowUp' ? -1 : 1));
});
$('steps').addEventListener('dragstart', event => {
  const item = targetOf(event).closest('li[data-step]');
  if (!item || S.mode === 'sketch') {
    event.preventDefault();
    return;
  }
  dragged = item.dataset.step;
  there(event.dataTransfer).effectAllowed = 'move';
  there(event.dataTransfer).setData('text/plain', dragged ?? '');
  const [first, last] = there(step(dragged)).room;
  places().forEach((p, i) => p.classList.toggle('noplace', i < first || i > last));
});
$('steps').addEventListener('dragover', event => {
  const item = targetOf(event).closest('li[data-step]');
  if (!dragged || !item || item.classList.contains('noplace')) return;
  event.preventDefault();
  const later = indexOf(item.dataset.step) > indexOf(dragged);
  for (const p of places()) {
    p.classList.toggle('drop-after', p === item && later);
    p.classList.toggle('drop-before', p === item && !later);
  }
});
$('steps').addEventListener('drop', event => {
  const item = targetOf(event).closest('li[data-step]');
  if (dragged && item) {
    event.preventDefault();
    moveTo(dragged, indexOf(item.dataset.step));
  }
});
$('steps').addEventListener('dragend', () => {
  dragged = null;
  for (const p of places()) p.classList.remove('noplace', 'drop-after', 'drop-before');
});
$('steps').addEventListener('keydown', event => {
  const item = targetOf(event).closest('li[data-step]');
  if (!item || !event.altKey || !['ArrowUp', 'ArrowDown'].includes(event.key) || S.mode === 'sketch') return;
  event.preventDefault();
  moveTo(item.dataset.step ?? '', indexOf(item.dataset.step) + (event.key === 'ArrowUp' ? -1 : 1));
});

/** @param {string} name @param {string} id */
export const actOn = (name, id) => act(name, step(id));
// Delete takes away the chosen step, or the one of the list that has the focus; undo brings it back
onKey(event => {
  if (event.key !== 'Delete' || S.mode !== 'solid' || !$('bar').hidden) return false;
  if (targetOf(event).matches('input, select, textarea') || targetOf(event).closest('dialog')) return false;
  const id = targetOf(event).closest('li[data-step]')?.dataset.step ?? chosen,
    s = id && step(id);
  if (!s) return false;
  act('delete', s);
  return true;
});
/** @param {string | undefined} name @param {any} s */
async function act(name, s) {
  const index = part().steps.findIndex(x => x.id === s.id);
  /** @type {Record<string, () => any>} */
  const acts = {
    edit: async () => {
      if (!stepKind(s.kind).drawn) await openBar(s.kind, s.id);
      else if (await leaves()) await open(s.id);
    },
    rename: async () => {
      const to = await question(`Rename ${s.title}`, '', [['ok', 'Rename']], s.title);
      if (to !== null) await edit({ kind: 'rename_step', step: s.id, name: to });
    },
    skip: () => edit({ kind: 'skip_step', step: s.id, skipped: !s.skipped }),
    up: () => edit({ kind: 'move_step', step: s.id, to: index - 1 }),
    down: () => edit({ kind: 'move_step', step: s.id, to: index + 1 }),
    now: () => edit({ kind: 'set_now', part: S.partId, now: index + 1 }),
    talk: () => emit('talk', s),
    duplicate: () => edit({ kind: 'duplicate_step', step: s.id }),
    choose: () => choose(chosen === s.id ? null : s.id),
    delete: async () => {
      const users = usersOf(s.id).map(x => x.title);
      const how = users.length
        ? await question(
            `Delete ${s.title}?`,
            `${users.join(', ')} use${users.length === 1 ? 's' : ''} it. Left in place they ask for new picks. ` +
              'Undo brings everything back.',
            [
              ['leave', `Only ${s.title}`],
              ['all', 'All of them'],
            ],
          )
        : 'all';
      if (!how) return;
      await edit({ kind: 'delete_step', step: s.id, with_users: how === 'all', leave_users: how === 'leave' });
      say(`${s.title} deleted.`, [['Undo', () => $('undo').click()]]);
    },
  };
  await Promise.resolve(acts[name ?? '']()).catch(() => {});
}

$('steps').addEventListener('click', event => {
  const now = targetOf(event).closest('[data-now]');
  if (now) {
    edit({ kind: 'set_now', part: S.partId, now: null }).catch(() => {});
    return;
  }
  const item = targetOf(event).closest('li[data-step]');
  if (!item) return;
  const s = step(item.dataset.step);
  if (!s) return;
  if (S.mode === 'sketch' && !targetOf(event).closest('[data-act=rename]')) {
    complain('Keep or drop the open sketch first.');
    return;
  }
  const fix = targetOf(event).closest('[data-fix]');
  if (fix) {
    const a = JSON.parse(fix.dataset.fix ?? 'null');
    edit(
      a.edits.length
        ? { kind: 'together', edits: a.edits, word: `${s.title}: ${a.fix}` }
        : { kind: 'set_fields', step: s.id, fields: a.fields },
    ).catch(() => {});
    return;
  }
  const blank = targetOf(event).closest('.blank');
  if (blank) {
    inPlace(/** @type {HTMLElement} */ (blank), s);
    return;
  }
  const button = targetOf(event).closest('[data-act]');
  if (button) {
    const menu = button.closest('details');
    if (menu) menu.open = false;
    act(button.dataset.act, s);
    return;
  }
  choose(s.id);
});
// a second click soon after the first on the same step, on its number too: the list may have been filled again
// between the two
/** @type {{ step?: string | null, at: number }} */
let lastPress = { step: null, at: 0 };
$('steps').addEventListener('pointerup', event => {
  const item = event.button === 0 && targetOf(event).closest('li[data-step]'),
    plain = item && !targetOf(event).closest('button:not(.n), input, select, summary');
  const again = plain && lastPress.step === item.dataset.step && performance.now() - lastPress.at < 450;
  lastPress = plain && !again ? { step: item.dataset.step, at: performance.now() } : { step: null, at: 0 };
  const s = again && S.mode !== 'sketch' && step(item.dataset.step);
  if (s) {
    later(() => {
      act('edit', s);
      choose(s.id);
    });
  }
});

$('revisions').addEventListener('click', event => {
  const b = targetOf(event).closest('[data-restore]');
  if (b) restore(Number(b.dataset.restore));
});
$('revisions-box').addEventListener('toggle', () => document.body.dispatchEvent(new CustomEvent('lathe:revisions')));
on('model', () => {
  if ($('revisions-box').open) document.body.dispatchEvent(new CustomEvent('lathe:revisions'));
});

// an open menu stays open when the list is filled again
/** @type {any} */
let openMenu = null;
$('steps').addEventListener('lathe:filling', () => {
  openMenu = $('steps').querySelector('li.step details[open]')?.closest('li')?.dataset.step ?? null;
});
$('steps').addEventListener('lathe:filled', () => {
  const menu = openMenu && sought(`step-${openMenu}`)?.querySelector('details');
  if (menu) menu.open = true;
});
