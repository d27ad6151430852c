// The Bench: brings its modules together; picking in the solid view.
import { $, S, emit, html, on, part } from './core/state.js';
import { edit, redo, undo } from './core/api.js';
import { build } from './core/building.js';
import { camera } from './view/camera.js';
import { fit, straightOn } from './view/controls.js';
import { highlight, shown, under } from './view/scene.js';
import { hint } from './ui/messages.js';
import './ui/keys.js';
import './sketch/layer.js';
import { open } from './sketch/board.js';
import { isOpen, isPulling, openBar, pickSheet, picking } from './steps/bar.js';
import './steps/list.js';

S.viewWidth = camera.width;
$('undo').addEventListener('click', undo);
$('redo').addEventListener('click', redo);
$('units').addEventListener('change', () => edit({ kind: 'set_units', units: $('units').value }).catch(() => {}));
on('model', () => {
  $('undo').disabled = !S.model.canUndo; $('redo').disabled = !S.model.canRedo;
  $('model-name').textContent = S.model.name; $('units').value = S.model.units;
});
for (const tool of document.querySelectorAll('[data-step].tool')) tool.addEventListener('click', () => openBar(tool.dataset.step));

// a new sketch is drawn on at once
on('made', (step) => { if (step.fields.plane) open(step.id); });

// a model without steps starts by asking for a plane
let first = true;
function begin() {
  const empty = part().steps.length === 0;
  $('start').hidden = !(empty && S.mode === 'solid');
  if (empty && !isOpen() && S.mode === 'solid') openBar('sketch');
}
on('build', begin);
on('shown', () => { if (first && shown.length) { first = false; fit(); } });

// picking
let picked = [];
const at = (event) => { const b = $('view').getBoundingClientRect(); return [event.clientX - b.left, event.clientY - b.top]; };
const overView = (event) => event.target.closest('canvas, #layer') || event.target === $('view');
const SAY = { flat: 'flat face', cylindrical: 'cylindrical face', conical: 'conical face', spherical: 'spherical face', 'ring-shaped': 'ring-shaped face', curved: 'curved face', straight: 'straight edge', circular: 'circular edge', point: 'point' };
const ROLES = { start: 'start', end: 'end', side: 'side', cut: 'cut' };
function origin(face) {
  const makers = [...new Set(face.pick.atoms.map((a) => { const [id, role] = a.split(':'); const i = part().steps.findIndex((s) => s.id === id); return i < 0 ? '' : `${ROLES[role] ?? role} of step ${i + 1}`; }).filter(Boolean))];
  return makers.join(' and ');
}
function name(hit) {
  if (hit.what === 'face') { const f = hit.body.faces[hit.index]; return `${SAY[f.form] ?? f.form}, ${origin(f)}`; }
  if (hit.what === 'edge') { const e = hit.body.edges[hit.index]; return `${SAY[e.form] === undefined ? 'curved edge' : e.form === 'curved' ? 'curved edge' : SAY[e.form]}, ${origin(hit.body.faces[e.faces[0]])}`; }
  return 'corner';
}
const takes = () => picking.takes ?? (isOpen() ? null : ['face', 'edge', 'vertex']);
$('view').addEventListener('pointermove', (event) => {
  if (S.mode !== 'solid' || event.buttons || isPulling()) return;
  if (!overView(event) || !takes()) { highlight([], picked); $('snapnote').hidden = true; return; }
  const [x, y] = at(event), hit = under(x, y, takes())[0];
  highlight(hit ? [hit] : [], picked);
  const note = $('snapnote');
  note.hidden = !hit;
  if (hit) { note.textContent = name(hit); note.style.left = `${Math.min(x + 16, camera.width - 220)}px`; note.style.top = `${y + 16}px`; }
});
$('view').addEventListener('pointerleave', () => { if (S.mode === 'solid') { highlight([], picked); $('snapnote').hidden = true; } });
let pressed = null;
$('view').addEventListener('pointerdown', (event) => { if (event.button === 0) pressed = at(event); });
$('view').addEventListener('pointerup', (event) => {
  if (S.mode !== 'solid' || event.button !== 0 || !pressed || !overView(event) || isPulling()) return;
  const [x, y] = at(event);
  if (Math.hypot(x - pressed[0], y - pressed[1]) > 5 || !takes()) return;
  const hit = under(x, y, takes())[0];
  if (picking.pick) { if (!hit) pickSheet(event.target); else { const problem = picking.pick(hit); if (problem) hint(problem); } return; }
  const same = (a) => hit && a.what === hit.what && a.index === hit.index && a.facts.key === hit.facts.key;
  if (!hit) picked = []; else if (event.shiftKey) picked = picked.some(same) ? picked.filter((p) => !same(p)) : [...picked, hit]; else picked = [hit];
  emit('picked');
});
on('shown', () => { picked = []; emit('picked'); });
on('mode', () => { picked = []; highlight([], []); $('snapnote').hidden = true; if (S.mode === 'solid') begin(); });
const unit = () => ({ mm: 1, cm: 10, m: 1000, in: 25.4 }[S.model.units]);
const number = (mm, power = 1) => `${+(mm / unit() ** power).toPrecision(6)} ${S.model.units}${['', '', '²'][power]}`;
on('picked', () => {
  highlight([], picked);
  $('selection-panel').hidden = !picked.length;
  if (!picked.length) return;
  $('selection-title').textContent = `Selected: ${picked.length === 1 ? picked[0].what === 'vertex' ? 'corner' : picked[0].what : `${picked.length} things`}`;
  const rows = [];
  for (const hit of picked.slice(0, 4)) {
    rows.push([name(hit), '']);
    if (hit.what === 'face') { const f = hit.body.faces[hit.index]; rows.push(['area', number(f.area, 2)]); if (f.radius) rows.push(['radius', number(f.radius)]); }
    if (hit.what === 'edge') { const e = hit.body.edges[hit.index]; rows.push(['length', number(e.length)]); if (e.radius) rows.push(['radius', number(e.radius)]); }
    if (hit.what === 'vertex') rows.push(['at', hit.point.map((v) => +(v / unit()).toPrecision(6)).join(', ')]);
  }
  const flat = picked.length === 1 && picked[0].what === 'face' ? picked[0].body.faces[picked[0].index] : null;
  $('selection-readout').replaceChildren(...rows.map(([a, b]) => html('div', { class: 'row2' }, html('span', {}, a), html('span', { class: 'num' }, b))),
    ...(flat?.frame ? [html('button', { class: 'chip', type: 'button', onclick: () => straightOn(flat.frame) }, 'look straight on'), html('button', { class: 'chip', type: 'button', onclick: () => edit({ kind: 'add_step', part: S.partId, step: 'sketch', fields: { plane: { face: flat.pick } } }).then(() => open(part().steps.at((part().now ?? part().steps.length) - 1).id)).catch(() => {}) }, 'sketch here')] : []));
});

hint('');
begin();
build();
