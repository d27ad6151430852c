// The sentence bar: a step being made or changed, with a live preview. Built from the step's description alone.
import { $ } from '../core/dom.js';
import { S, emit, on, part, step, stepKind, there } from '../core/state.js';
import { edit } from '../core/api.js';
import { forgetPreviews } from '../core/building.js';
import { endPreview } from '../view/scene.js';
import { showBlame } from '../view/blame.js';
import { hint, question } from '../ui/messages.js';
import { redraw, showUnused } from '../sketch/layer.js';
import { TAKES, forget, isPick } from './blanks.js';
import { openDrawer } from '../ui/drawers.js';
import { fresh, hold, listening, now, picking, ready, visible } from './filling.js';
import { standInView } from './handle.js';
import { mine } from '../showing/shown.js';
import { helpers, layOut, relay, showValue } from './sentence.js';
import { askForSheet } from './sheets.js';
import { leadOn, refresh } from './trying.js';

export const isPulling = standInView(
  () => now,
  (name, text) => {
    now.editors[name].node.value = text;
    changed(name, text);
  },
);

// what stands in blanks at first where one is: of a sheet's line, the part that the sheet shows already
/** @param {any} kind @returns {Record<string, any>} */
function usualHere(kind) {
  const here = part();
  if (here.sort === 'together') return kind.usual_there;
  const shown = here.sort === 'sheet' && kind.blanks.part ? here.steps.findLast(s => s.brings)?.brings : null;
  return shown ? { part: shown } : {};
}
/** @param {string | undefined} kindName @param {string | null} id @param {string | null} activeBlank */
export async function openBar(kindName, id = null, activeBlank = null) {
  if (!mine() || !(await leaves())) return;
  closeBar();
  const kind = stepKind(kindName),
    old = id ? step(id) : null;
  /** @type {Record<string, any>} */
  const fields = {};
  const usual = usualHere(kind);
  for (const [name, blank] of Object.entries(kind.blanks))
    fields[name] = old ? old.fields[name] : (usual[name] ?? fresh(blank));
  // what was selected before goes into the first blank that takes it
  hold({
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
  });
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
/** @param {string | undefined} name @param {boolean} [typing] whether somebody is typing in it already */
export function activate(name, typing = false) {
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
    mine.coming = Promise.allSettled([mine.coming, shown]);
    editor.looking = true;
    const over = () => {
      if (now !== mine || mine.loading || ready()) return;
      const { wanted } = mine;
      mine.wanted = false;
      if (wanted) leadOn();
    };
    shown.finally(() => {
      mine.loading -= 1;
      editor.looking = false;
      // a click that waited for it is counted first
      if (mine.late) mine.late.then(over);
      else over();
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
  if (!typing && editor.node.select && editor.node.tagName === 'INPUT') editor.node.select();
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
    // a choice that brings a blank to be filled leads on to it, by way of one before it that leads on in its turn
    const empty = Object.entries(now.editors).filter(([n, e]) => isPick(now.kind.blanks[n].type) && e.empty?.()),
      brought = empty.some(([n]) => !before.has(n));
    activate((brought && empty.find(([n, e]) => !before.has(n) || e.goesOn)?.[0]) || active);
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
const atWork = () => now && now.filled > 1 && !now.id;
export async function drop() {
  if (atWork() && !(await question('Drop this step?', 'What was filled in is not kept.', [['yes', 'Drop']]))) return;
  closeBar();
}
// whether what is filled in may give way to something else: kept or dropped first, as its person says
export async function leaves() {
  if (!atWork()) return true;
  const mine = now,
    how = await question(`Drop this ${mine.kind.word}?`, 'What was filled in is not kept when another tool is taken.', [
      ['drop', 'Drop it'],
      ...(mine.settled ? [/** @type {[string, string]} */ (['keep', 'Keep it'])] : []),
    ]);
  if (how === 'keep' && now === mine) await keep();
  return how === 'drop' || (how === 'keep' && now !== mine);
}
export function closeBar() {
  if (!now) return;
  const { from } = now;
  now.editors[now.active]?.deactivate?.();
  hold(null);
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
