// The parts of the model: which one is shown and worked on; made, named, copied, put in order, deleted.
import { $, targetOf } from '../core/dom.js';
import { S, built, emit, on, part, partMeant, parts } from '../core/state.js';
import { edit, refresh, settled } from '../core/api.js';
import { complain, question, say } from '../ui/messages.js';
import { findable } from '../ui/keys.js';
import { closeBar, openBar } from './bar.js';
import { chooseElsewhere } from './elsewhere.js';

// the page's address tells the part, so that a reload and a link come back to it
function told() {
  const { sort } = part();
  document.body.dataset.sort = sort;
  $('list-panel').hidden = sort !== 'together';
  $('to-print').hidden = sort === 'sheet';
  const here = new URL(location.href);
  if (S.partId === parts()[0].id) here.searchParams.delete('part');
  else here.searchParams.set('part', S.partId);
  history.replaceState(null, '', here);
  const print = new URL($('to-print').href);
  print.searchParams.set('part', S.partId);
  $('to-print').href = print.href;
}

/** @param {string} id */
export async function show(id) {
  if (id === S.partId) return;
  if (S.mode === 'sketch') {
    complain('Keep or drop the open sketch first.');
    return;
  }
  closeBar();
  await settled();
  S.partId = id;
  S.build = null;
  emit('part');
  told();
  await refresh();
}
on('model', () => {
  // an undo or a deletion may take the part away that is shown
  if (parts().some(p => p.id === S.partId)) told();
  else {
    S.partId = parts()[0].id;
    S.build = null;
    emit('part');
    told();
    refresh();
  }
});

/** @param {any} what */
async function made(what) {
  const known = new Set(S.model.parts.map(p => p.id));
  await edit(what);
  const fresh = S.model.parts.find(p => !known.has(p.id));
  if (fresh) await show(fresh.id);
  return fresh;
}
const at = () => parts().findIndex(p => p.id === S.partId);
/** @type {Record<string, () => any>} */
const ACTS = {
  part: () => made({ kind: 'add_part' }),
  together: async () => {
    await made({ kind: 'add_part', sort: 'together' });
    openBar('bring_part');
  },
  sheet: () => made({ kind: 'add_part', sort: 'sheet', of: partMeant() }),
  elsewhere: () => chooseElsewhere(),
  copy: () => made({ kind: 'copy_part', part: S.partId }),
  earlier: () => edit({ kind: 'move_part', part: S.partId, to: at() - 1 }),
  later: () => edit({ kind: 'move_part', part: S.partId, to: at() + 1 }),
  rename: async () => {
    const to = await question(`Rename ${part().name}`, '', [['ok', 'Rename']], part().name);
    if (to !== null) await edit({ kind: 'rename_part', part: S.partId, name: to });
  },
  delete: async () => {
    const { id, name } = part(),
      users = parts()
        .filter(p => p.steps.some(s => s.brings === id))
        .map(p => p.name),
      how = users.length
        ? await question(
            `Delete ${name}?`,
            `${users.join(', ')} bring${users.length === 1 ? 's' : ''} it. Left in place they keep its last shape. ` +
              'Undo brings everything back.',
            [
              ['leave', `Only ${name}`],
              ['all', 'Those steps too'],
            ],
          )
        : 'all';
    if (!how) return;
    await edit({ kind: 'delete_part', part: id, with_users: how === 'all', leave_users: how === 'leave' });
    say(`${name} deleted.`, [['Undo', () => $('undo').click()]]);
  },
};
$('parts').addEventListener('click', event => {
  const chip = targetOf(event).closest('[data-part]'),
    act = targetOf(event).closest('[data-part-act]');
  if (chip) show(chip.dataset.part ?? '').catch(() => {});
  if (act) {
    act.closest('details')?.removeAttribute('open');
    Promise.resolve(ACTS[act.dataset.partAct ?? '']()).catch(() => {});
  }
});
findable.push(() =>
  parts().map(p => ({ name: p.name, where: 'part', about: p.sort, go: () => show(p.id).catch(() => {}) })),
);

// a body becomes a part of its own; the picture stays as it is
/** @param {string} body */
export async function partOfBody(body) {
  const others = built()
    .bodies.map(b => b.id)
    .filter(id => id !== body);
  await edit({ kind: 'part_of_body', part: S.partId, body, others }).catch(() => {});
}
told();
