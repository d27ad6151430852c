// The open sketch: opening and leaving it, selecting, dragging, box selection, keys, readouts.
import { $, S, emit, frameOf, html, on, step, svg } from '../core/state.js';
import { ask, edit, restore, settled } from '../core/api.js';
import { build } from '../core/building.js';
import { camera } from '../view/camera.js';
import { straightOn } from '../view/controls.js';
import { complain, hint, question } from '../ui/messages.js';
import { onKey } from '../ui/keys.js';
import { closeChannel, openChannel, talk } from './channel.js';
import * as dimension from './dimension.js';
import { draft, redraw, setFaint } from './layer.js';
import * as tool from './tool.js';

const view = $('view');
const drawing = () => S.mode === 'sketch';
let before = null; // the revision from which Drop can return

export async function open(id) {
  await settled();
  S.sketch = await ask(`/sketches/${id}`);
  for (let i = 0; i < 50 && !frameOf(id); i += 1) { await build(); if (!frameOf(id)) await new Promise((r) => setTimeout(r, 100)); }
  S.frame = frameOf(id);
  if (!S.frame) { S.sketch = null; complain('This sketch has no plane to lie on yet; see its step.'); return; }
  before = S.model.revision;
  S.mode = 'sketch'; S.selection = []; S.fights = []; S.hot = null;
  setFaint([]);
  view.classList.add('drawing');
  $('tray-solid').hidden = true; $('tray-sketch').hidden = false; $('start').hidden = true;
  emit('mode');
  sketchBar();
  openChannel();
  straightOn();
  readouts();
  hint('Draw with a tool below, or drag what is free. Start from the origin.');
  view.focus({ preventScroll: true });
}
function sketchBar() {
  const bar = $('bar'), s = step(S.sketch.id);
  bar.hidden = false; bar.dataset.for = 'sketch';
  bar.querySelector('.row1').replaceChildren(html('b', {}, s.title), `on the ${s.words.plane}`,
    html('button', { class: 'btn k', type: 'button', id: 'keep-sketch', 'data-chord': 'ok', 'data-name': 'Keep the sketch', title: 'Keep (o k): leave the sketch as it is', onclick: keep }, 'Keep ⏎'),
    html('button', { class: 'btn', type: 'button', id: 'drop-sketch', title: 'Drop: back to what was before it was opened', onclick: drop }, 'Drop'));
  bar.querySelector('.picks').replaceChildren(); bar.querySelector('.why').replaceChildren();
}
export async function keep() { await settled(); leave(); build(); }
async function drop() {
  await settled();
  if (S.model.revision !== before) {
    const yes = await question('Drop what was drawn?', 'The sketch goes back to what it was before it was opened. What was drawn stays among the revisions.', [['yes', 'Drop']]);
    if (!yes) return;
    await restore(before);
  }
  leave();
}
function leave() {
  tool.stop(); dimension.stop(); closeChannel();
  S.sketch = null; S.frame = null; S.mode = 'solid'; S.selection = []; draft.nodes = [];
  view.classList.remove('drawing');
  $('tray-solid').hidden = false; $('tray-sketch').hidden = true; $('bar').hidden = true; $('sketch-panel').hidden = true; $('selection-panel').hidden = true;
  emit('mode'); redraw();
  hint('');
}
on('sketch-gone', () => { complain('This sketch is not in the model any more.'); leave(); });

function readouts() {
  if (!S.sketch) return;
  const n = S.sketch.freedom, all = Math.max(S.sketch.curves.length * 4, n, 1);
  $('sketch-panel').hidden = false;
  $('sketch-readout').replaceChildren(html('div', { class: 'row2' }, html('span', {}, n ? 'free to move' : 'state'), html('b', { id: 'freedom' }, S.sketch.curves.length ? (n ? `${n} way${n === 1 ? '' : 's'}` : 'fully constrained') : 'nothing drawn yet')),
    html('div', { class: 'meter', 'aria-hidden': 'true' }, html('i')),
    html('div', { class: 'row2' }, html('span', {}, 'closed regions'), html('span', { class: 'num', id: 'region-count' }, String(S.sketch.regions.length))),
    ...(S.sketch.open_ends.length ? [html('div', { class: 'row2' }, html('span', {}, 'open ends'), html('span', { class: 'num' }, String(S.sketch.open_ends.length)))] : []),
    ...(S.sketch.unmet ? [html('p', { class: 'mb-0 text-danger-emphasis' }, `Cannot have all its sizes: ${S.sketch.unmet}`)] : []));
  $('sketch-readout').querySelector('.meter i').style.width = S.sketch.curves.length ? `${Math.round(100 * (1 - n / all))}%` : '0';
}
on('sketch', () => { readouts(); S.selection = S.selection.filter((r) => exists(r)); emit('selection'); });
const exists = (r) => r === 'origin' || r.endsWith('_axis') || S.sketch.curves.some((c) => c.id === r.split('.')[0]) || S.sketch.marks.some((m) => m.id === r) || S.sketch.dimensions.some((d) => d.id === r);
on('refused', (problem) => { if (drawing() && problem.fights?.length) { S.fights = problem.fights; redraw(); setTimeout(() => { S.fights = []; redraw(); }, 6000); } });

let asking = 0;
on('selection', async () => {
  if (!drawing()) return;
  const refs = S.selection.filter((r) => !S.sketch.dimensions.some((d) => d.id === r) && !S.sketch.marks.some((m) => m.id === r));
  const dim = S.selection.length === 1 && S.sketch.dimensions.find((d) => d.id === S.selection[0]);
  const panel = $('selection-panel');
  panel.hidden = !S.selection.length;
  if (panel.hidden) return;
  const mine = ++asking;
  if (dim) {
    $('selection-title').textContent = 'Selected: dimension';
    $('selection-readout').replaceChildren(html('div', { class: 'row2' }, html('span', {}, dim.word), html('span', { class: 'num' }, dim.text)),
      html('button', { class: 'chip', type: 'button', onclick: () => edit({ kind: 'set_dimension', sketch: S.sketch.id, id: dim.id, driving: !dim.driving }).catch(() => {}) }, dim.driving ? 'make it a reference' : 'make it driving'),
      ...(dim.driving ? [html('button', { class: 'chip', type: 'button', onclick: () => dimension.change(dim.id) }, 'change')] : []));
    return;
  }
  const marksOnly = S.selection.map((r) => S.sketch.marks.find((m) => m.id === r)).filter(Boolean);
  if (marksOnly.length && !refs.length) { $('selection-title').textContent = 'Selected: constraint'; $('selection-readout').replaceChildren(...marksOnly.map((m) => html('div', {}, m.text))); return; }
  const got = await ask(`/sketches/${S.sketch.id}/selection`, { on: refs }).catch(() => null);
  if (!got || mine !== asking || !drawing()) return;
  $('selection-title').textContent = `Selected: ${got.names.length > 2 ? `${got.names.length} things` : got.names.join(' + ')}`;
  $('selection-readout').replaceChildren(...got.facts.map(([what, value]) => html('div', { class: 'row2' }, html('span', {}, what), html('span', { class: 'num' }, value))),
    ...got.offers.map((o) => html('button', { class: 'chip', type: 'button', title: `${o.word} (${o.chord[0]} ${o.chord[1]})`, onclick: () => constrain(o.kind) }, html('span', { 'aria-hidden': 'true' }, o.symbol), o.word)));
});
export async function constrain(kind) {
  const refs = S.selection.filter((r) => !S.sketch.dimensions.some((d) => d.id === r) && !S.sketch.marks.some((m) => m.id === r));
  if (!refs.length) { hint('Select what it is to hold first (Shift adds), then choose the constraint.'); return; }
  await edit({ kind: 'add_constraint', sketch: S.sketch.id, constraint: kind, on: refs.slice(0, 4) }).then(() => { S.selection = []; emit('selection'); }, () => {});
}
async function remove() {
  const ids = S.selection.map((r) => r.split('.')[0]).filter((r) => r !== 'origin' && !r.endsWith('_axis'));
  if (!ids.length) { hint('Select what is to be deleted first.'); return; }
  S.selection = [];
  await edit({ kind: 'delete_from_sketch', sketch: S.sketch.id, ids: [...new Set(ids)] }).catch(() => {});
}
async function toggleConstruction() {
  const ids = S.selection.map((r) => r.split('.')[0]).filter((id) => S.sketch.curves.some((c) => c.id === id));
  if (!ids.length) { tool.construction.on = !tool.construction.on; $('construction').setAttribute('aria-pressed', tool.construction.on); hint(tool.construction.on ? 'What is drawn now is construction only' : 'What is drawn now counts'); return; }
  const now = S.sketch.curves.find((c) => c.id === ids[0]).construction;
  await edit({ kind: 'set_construction', sketch: S.sketch.id, ids: [...new Set(ids)], construction: !now }).catch(() => {});
}

for (const button of document.querySelectorAll('[data-tool]')) button.addEventListener('click', () => { dimension.stop(); if (tool.active()?.kind === button.dataset.tool) tool.stop(); else tool.start(button.dataset.tool); pressed(); view.focus({ preventScroll: true }); });
const pressed = () => { for (const b of document.querySelectorAll('[data-tool]')) b.setAttribute('aria-pressed', String(tool.active()?.kind === b.dataset.tool)); };
$('dimension-tool').addEventListener('click', () => { tool.stop(); pressed(); if (dimension.active()) dimension.stop(); else dimension.start(); view.focus({ preventScroll: true }); });
for (const button of document.querySelectorAll('[data-constraint]')) button.addEventListener('click', () => { $('constrain-menu').open = false; constrain(button.dataset.constraint); });
$('delete').addEventListener('click', remove);
$('construction').addEventListener('click', toggleConstruction);

// the pointer
const at = (event) => { const b = view.getBoundingClientRect(); return [event.clientX - b.left, event.clientY - b.top]; };
const onPlane = (event) => camera.onPlane(S.frame, ...at(event));
const thing = (event) => { const node = document.elementsFromPoint(event.clientX, event.clientY).map((n) => n.closest?.('[data-ref], [data-id]')).find(Boolean); return node ? node.dataset.ref ?? node.dataset.id : null; };
let down = null;

view.addEventListener('pointerdown', (event) => {
  if (!drawing() || event.button !== 0 || event.target.closest('.tray, .bar, .sizes, .typed, .dial, .toast-zone, .busy-zone')) return;
  view.focus({ preventScroll: true });
  if (tool.active()) { tool.move(onPlane(event), at(event), event.altKey); return; }
  down = { pixel: at(event), plane: onPlane(event), ref: thing(event), shift: event.shiftKey, moved: false };
  if (!dimension.active()) view.setPointerCapture(event.pointerId);
});
view.addEventListener('pointermove', (event) => {
  if (!drawing()) return;
  S.viewWidth = camera.width;
  const p = onPlane(event), pixel = at(event);
  if (tool.active()) { if (!event.target.closest('.tray, .bar, .sizes')) tool.move(p, pixel, event.altKey); return; }
  if (dimension.active()) { dimension.move(p); setHot(thing(event)); return; }
  if (!down) { setHot(event.target.closest('.tray, .bar') ? null : thing(event)); return; }
  if (!down.moved && Math.hypot(pixel[0] - down.pixel[0], pixel[1] - down.pixel[1]) < 4) return;
  if (!down.moved) beginDrag();
  dragTo(p, pixel);
});
function setHot(ref) {
  if (ref === S.hot) return;
  S.hot = ref;
  view.style.cursor = ref ? 'pointer' : '';
  redraw();
}
const draggable = (ref) => ref && S.sketch.curves.some((c) => c.id === ref.split('.')[0]);
function beginDrag() {
  down.moved = true;
  if (draggable(down.ref)) {
    down.kind = 'geometry';
    const of = S.sketch.curves.flatMap((c) => c.points).find((q) => q.ref === down.ref);
    talk({ do: 'grab', ref: down.ref, at: of ? of.at : down.plane }, (answer) => { if (answer.message) complain(answer.message); });
  } else down.kind = S.sketch.dimensions.some((d) => d.id === down.ref) ? 'label' : 'box';
}
function dragTo(p, pixel) {
  if (down.kind === 'geometry') talk({ do: 'to', at: p }, (answer) => { if (answer.view) { Object.assign(S.sketch, answer.view, { regions: [] }); redraw(); } });
  if (down.kind === 'label') { const d = S.sketch.dimensions.find((x) => x.id === down.ref); d.label = p; down.label = p; redraw(); }
  if (down.kind === 'box') {
    const [a, b] = [down.pixel, pixel], touch = b[0] < a[0];
    down.box = [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])]; down.touch = touch;
    draft.nodes = [svg('rect', { class: `boxsel ${touch ? 'touch' : ''}`, x: down.box[0], y: down.box[1], width: down.box[2] - down.box[0], height: down.box[3] - down.box[1] }), svg('text', { x: down.box[0] + 4, y: down.box[1] - 4, class: 'sheetname' }, touch ? 'what it touches' : 'what is wholly inside')];
    redraw();
  }
}
view.addEventListener('pointerup', (event) => {
  if (!drawing() || event.button !== 0) return;
  if (tool.active()) { if (!event.target.closest('.tray, .bar, .sizes, .dial, .toast-zone')) { tool.move(onPlane(event), at(event), event.altKey); tool.place(); pressed(); } return; }
  if (!down) return;
  const was = down;
  down = null;
  if (dimension.active()) { dimension.click(was.ref, onPlane(event)); return; }
  if (was.kind === 'geometry') drop_geometry();
  else if (was.kind === 'label') edit({ kind: 'set_dimension', sketch: S.sketch.id, id: was.ref, label: was.label }).catch(() => {});
  else if (was.kind === 'box') { draft.nodes = []; select(inBox(was), was.shift); } else select(was.ref ? [was.ref] : [], was.shift);
});
function drop_geometry() {
  talk({ do: 'drop' }, async ({ coordinates, message }) => {
    if (message) complain(message);
    if (coordinates && Object.keys(coordinates).length) await edit({ kind: 'move_geometry', sketch: S.sketch.id, curves: coordinates }).catch(async () => { S.sketch = await ask(`/sketches/${S.sketch.id}`); emit('sketch'); });
    else { S.sketch = await ask(`/sketches/${S.sketch.id}`); emit('sketch'); hint('That is held by its constraints and does not move.'); }
  });
}
function select(refs, adding) {
  if (!adding) S.selection = refs;
  else for (const r of refs) S.selection = S.selection.includes(r) ? S.selection.filter((x) => x !== r) : [...S.selection, r];
  emit('selection');
}
function inBox({ box, touch }) {
  const inside = (r) => r.left >= box[0] && r.right <= box[2] && r.top >= box[1] && r.bottom <= box[3], meets = (r) => r.left <= box[2] && r.right >= box[0] && r.top <= box[3] && r.bottom >= box[1];
  const off = view.getBoundingClientRect();
  return [...document.querySelectorAll('#layer-body .hit[data-ref]')].filter((n) => !n.dataset.ref.endsWith('_axis')).filter((n) => { const r = n.getBoundingClientRect(), m = { left: r.left - off.left, right: r.right - off.left, top: r.top - off.top, bottom: r.bottom - off.top }; return touch ? meets(m) : inside(m); }).map((n) => n.dataset.ref);
}
view.addEventListener('dblclick', (event) => { if (drawing() && !tool.active()) { const ref = thing(event); if (S.sketch.dimensions.some((d) => d.id === ref)) dimension.change(ref); } });

// the keyboard: [ and ] walk through everything, Enter selects
let walking = -1;
function walk(by) {
  const all = ['origin', 'x_axis', 'y_axis', ...S.sketch.curves.flatMap((c) => [c.id, ...c.points.map((p) => p.ref)]), ...S.sketch.dimensions.map((d) => d.id), ...S.sketch.marks.map((m) => m.id)];
  walking = (walking + by + all.length) % all.length;
  S.hot = all[walking];
  const c = S.sketch.curves.find((x) => x.id === S.hot.split('.')[0]), other = S.sketch.dimensions.find((d) => d.id === S.hot) ?? S.sketch.marks.find((m) => m.id === S.hot);
  hint(`${S.hot.includes('.') ? `${S.hot.split('.')[1]} of ` : ''}${c?.word ?? other?.text ?? S.hot.replace('_', ' ')}: Enter to select`);
  redraw();
}
onKey((event) => {
  if (!drawing() || event.target.closest('dialog')) return false;
  const writing = event.target.matches('input, select');
  if (writing) return false;
  if (event.key === 'Escape') { if (dimension.back() || tool.back()) { pressed(); return true; } if (S.selection.length) { select([], false); return true; } return false; }
  if (event.key === 'Delete' || event.key === 'Backspace') { remove(); return true; }
  if (event.key === '`') { tool.cycleSnap(); return true; }
  if (tool.typing(event)) return true;
  if (event.key === ']' || event.key === '[') { walk(event.key === ']' ? 1 : -1); return true; }
  if (event.key === 'Enter' && event.target === view) {
    if (dimension.active()) { if (S.hot && dimension.click) { const ref = S.hot; S.hot = null; dimension.click(ref, [S.sketch.size * 0.4, -S.sketch.size * 0.2]); return true; } return dimension.nudge(); }
    if (tool.active()) { tool.place(); pressed(); return true; }
    if (S.hot) { const d = S.sketch.dimensions.find((x) => x.id === S.hot); if (d && S.selection.includes(d.id)) dimension.change(d.id); else select([S.hot], event.shiftKey || S.selection.length > 0); return true; }
    keep(); return true;
  }
  return false;
});
