// The list of steps and the other panels: changing a blank in its place, and what can be done with a step.
import { $, S, html, part, step, stepKind } from '../core/state.js';
import { edit, restore } from '../core/api.js';
import { complain, question, say } from '../ui/messages.js';
import { isPick } from './blanks.js';
import { openBar } from './bar.js';
import { open } from '../sketch/board.js';

const isSketch = (s) => 'plane' in s.fields && stepKind(s.kind).sentence.every(([, v]) => v !== 'regions');

async function inPlace(button, s) {
  const field = button.dataset.blank, blank = stepKind(s.kind).blanks[field];
  if (isPick(blank.type)) { openBar(s.kind, s.id, field); return; }
  const keep = (value) => edit({ kind: 'set_fields', step: s.id, fields: { [field]: value } });
  let gone = false;
  const back = () => { if (!gone && input.isConnected) { gone = true; input.replaceWith(button); } };
  const input = blank.type === 'choice'
    ? html('select', { 'aria-label': blank.label, onchange: () => keep(input.value).catch(back), onblur: back }, ...Object.entries(blank.words).map(([k, w]) => html('option', { value: k, ...(k === s.fields[field] ? { selected: true } : {}) }, w)))
    : html('input', { class: 'num', value: s.fields[field], size: Math.max(6, s.fields[field].length + 1), 'aria-label': blank.label, maxlength: 400, onblur: () => back() });
  input.addEventListener('keydown', async (event) => {
    event.stopPropagation();
    if (event.key === 'Escape') { back(); button.focus(); }
    if (event.key === 'Enter' && input.tagName === 'INPUT') { event.preventDefault(); try { const id = button.id; await keep(input.value); setTimeout(() => document.getElementById(id)?.focus(), 80); } catch { input.focus(); input.select(); } }
  });
  button.replaceWith(input);
  input.focus();
  input.select?.();
}

async function act(name, s, button) {
  const index = part().steps.findIndex((x) => x.id === s.id);
  const run = {
    edit: () => (isSketch(s) ? open(s.id) : openBar(s.kind, s.id)),
    rename: async () => { const to = await question(`Rename ${s.title}`, '', [['ok', 'Rename']], s.title); if (to !== null) await edit({ kind: 'rename_step', step: s.id, name: to }); },
    skip: () => edit({ kind: 'skip_step', step: s.id, skipped: !s.skipped }),
    up: () => edit({ kind: 'move_step', step: s.id, to: index - 1 }),
    down: () => edit({ kind: 'move_step', step: s.id, to: index + 1 }),
    now: () => edit({ kind: 'set_now', part: S.partId, now: index + 1 }),
    delete: async () => {
      const users = part().steps.filter((x) => x.uses.includes(s.id)).map((x) => x.title);
      if (users.length && !(await question(`Delete ${s.title}?`, `${users.join(', ')} use${users.length === 1 ? 's' : ''} it and would go too. Undo brings everything back.`, [['all', 'Delete all of them']]))) return;
      await edit({ kind: 'delete_step', step: s.id, with_users: users.length > 0 });
      say(`${s.title} deleted.`, [['Undo', () => $('undo').click()]]);
    },
  }[name];
  await Promise.resolve(run()).catch(() => {});
}

$('steps').addEventListener('click', (event) => {
  const now = event.target.closest('[data-now]');
  if (now) { edit({ kind: 'set_now', part: S.partId, now: null }).catch(() => {}); return; }
  const item = event.target.closest('li[data-step]');
  if (!item) return;
  const s = step(item.dataset.step);
  if (!s) return;
  if (S.mode === 'sketch' && !event.target.closest('[data-act=rename]')) { complain('Keep or drop the open sketch first.'); return; }
  const fix = event.target.closest('[data-fix]');
  if (fix) { edit({ kind: 'set_fields', step: s.id, fields: JSON.parse(fix.dataset.fix) }).catch(() => {}); return; }
  const blank = event.target.closest('.blank');
  if (blank) { inPlace(blank, s); return; }
  const button = event.target.closest('[data-act]');
  if (button) { button.closest('details').open = false; act(button.dataset.act, s, button); return; }
  for (const other of document.querySelectorAll('.step.on')) other.classList.remove('on');
  item.classList.add('on');
});
$('steps').addEventListener('dblclick', (event) => { const item = event.target.closest('li[data-step]'); if (item && !event.target.closest('button, input, select') && S.mode !== 'sketch') act('edit', step(item.dataset.step)); });

// parameters
const box = $('parameters');
box.addEventListener('change', async (event) => {
  const row = event.target.closest('.param');
  if (row && event.target.tagName === 'INPUT') { const old = event.target.defaultValue; await edit({ kind: 'set_parameter', name: row.dataset.parameter, formula: event.target.value }).catch(() => { event.target.value = old; }); }
});
box.addEventListener('keydown', (event) => {
  if (event.target.matches('.param input') && event.key === 'Enter') { event.preventDefault(); event.target.blur(); $('view').focus({ preventScroll: true }); }
  if (event.target.matches('.param input') && event.key === 'Escape') { event.target.value = event.target.defaultValue; event.target.blur(); event.stopPropagation(); }
  if (event.target.closest('#new-parameter') && event.key === 'Escape') { $('new-parameter').hidden = true; $('add-parameter').focus(); event.stopPropagation(); }
});
box.addEventListener('click', async (event) => {
  if (event.target.closest('#add-parameter')) { $('new-parameter').hidden = false; $('new-parameter').elements.name.focus(); }
  const rename = event.target.closest('[data-rename]'), dropped = event.target.closest('[data-drop]');
  if (rename) { const to = await question(`Rename ${rename.dataset.rename}`, 'Every formula that uses it follows.', [['ok', 'Rename']], rename.dataset.rename); if (to !== null) await edit({ kind: 'rename_parameter', name: rename.dataset.rename, to }).catch(() => {}); }
  if (dropped) await edit({ kind: 'delete_parameter', name: dropped.dataset.drop }).catch(() => {});
});
box.addEventListener('submit', async (event) => {
  event.preventDefault();
  const f = event.target.elements;
  await edit({ kind: 'add_parameter', name: f.name.value, formula: f.formula.value, sort: f.sort.value }).catch(() => f.formula.focus());
});
$('weigh').addEventListener('change', (event) => { if (event.target.id === 'material') edit({ kind: 'set_material', part: event.target.dataset.part, material: event.target.value }).catch(() => {}); });
$('revisions').addEventListener('click', (event) => { const b = event.target.closest('[data-restore]'); if (b) restore(Number(b.dataset.restore)); });
$('revisions-box').addEventListener('toggle', () => document.body.dispatchEvent(new CustomEvent('lathe:revisions')));
document.body.addEventListener('lathe:changed', () => { if ($('revisions-box').open) document.body.dispatchEvent(new CustomEvent('lathe:revisions')); });
