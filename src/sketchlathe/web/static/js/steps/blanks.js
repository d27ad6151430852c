// One editor for each type of blank. Knows types, never kinds of steps.
import { S, emit, frameOf, html, part } from '../core/state.js';
import { candidates, redraw, viewOf } from '../sketch/layer.js';

// Each: make(blank, value, changed, bar) → {node, activate?, deactivate?, picks?}; changed(value) tells the bar.
const number = (blank, value, changed) => {
  const node = html('input', { class: 'gap', value: value ?? '', 'aria-label': blank.label, title: blank.hint, maxlength: 400, autocomplete: 'off', oninput: () => changed(node.value) });
  return { node, set: (v) => { if (document.activeElement !== node) node.value = v; else { node.value = v; node.select(); } } };
};
const choice = (blank, value, changed) => {
  const node = html('select', { class: 'gap', 'aria-label': blank.label, title: blank.hint, onchange: () => changed(node.value) }, ...Object.entries(blank.words).map(([key, word]) => html('option', { value: key, ...(key === value ? { selected: true } : {}) }, word)));
  return { node, set: (v) => { node.value = v; } };
};
const button = (blank) => html('button', { class: 'gap', type: 'button', 'aria-label': blank.label, title: blank.hint });

function regions(blank, value, changed, bar) {
  let picks = [...(value ?? [])];
  const node = button(blank);
  const word = () => { node.textContent = picks.length ? (picks.length === 1 ? '1 region' : `${picks.length} regions`) : 'regions…'; };
  const idOf = (pick) => `${pick.sketch}|${[...pick.sides].sort().join(' ')}`;
  const sync = () => {
    word();
    candidates.chosen = new Set(picks.map(idOf));
    bar.list(candidates.list.map((c) => ({ id: c.id, text: c.text, on: candidates.chosen.has(c.id), toggle: () => toggle(c) })));
    redraw();
  };
  const toggle = (c) => {
    picks = candidates.chosen.has(c.id) ? picks.filter((p) => idOf(p) !== c.id) : [...picks, { sketch: c.sketch, sides: c.region.key, known: c.known }];
    sync();
    changed(picks);
  };
  async function activate() {
    const steps = part().steps, end = bar.before ?? part().now ?? steps.length, list = [];
    for (const s of steps.slice(0, end)) {
      const frame = frameOf(s.id);
      if (!frame || s.skipped) continue;
      const view = await viewOf(s.id);
      const unit = { mm: 1, cm: 10, m: 1000, in: 25.4 }[S.model.units];
      view.regions.map((r) => r).sort((a, b) => b.area - a.area).forEach((region, i) => list.push({ id: `${s.id}|${[...region.key].sort().join(' ')}`, sketch: s.id, frame, region, known: view.known, text: `${s.title}, region ${i + 1} (${+(region.area / unit ** 2).toPrecision(4)} ${S.model.units}²)` }));
    }
    if (!bar.isActive(node)) return;
    candidates.list = list; candidates.pick = toggle;
    const used = new Set(steps.flatMap((s) => (s.skipped || s.id === bar.id ? [] : s.uses)));
    list.sort((a, b) => used.has(a.sketch) - used.has(b.sketch));
    const fresh = list.filter((c) => !used.has(c.sketch));
    if (!picks.length && (fresh.length === 1 || list.length === 1)) { toggle(fresh[0] ?? list[0]); return; }
    sync();
    if (!list.length) bar.note('There is no closed region to pick: draw one in a sketch first.');
  }
  const deactivate = () => { candidates.list = candidates.list.filter((c) => candidates.chosen.has(c.id)); candidates.pick = null; bar.list([]); redraw(); };
  word();
  return { node, activate, deactivate, set: (v) => { picks = [...v]; word(); }, empty: () => !picks.length };
}

const PLANES = { top: 'top plane', front: 'front plane', right: 'right plane' };
function plane(blank, value, changed, bar) {
  const node = button(blank);
  const word = (v) => { node.textContent = v?.plane ? PLANES[v.plane] : v?.face ? 'the picked face' : 'plane or flat face…'; };
  const choose = (v) => { word(v); changed(v); };
  const activate = () => {
    bar.list(Object.entries(PLANES).map(([key, text], i) => ({ id: key, text: `${i + 1}  ${text}`, on: false, radio: true, toggle: () => choose({ plane: key }) })));
    bar.sheets((key) => choose({ plane: key }));
    bar.takes(['face'], (hit) => { const face = hit.body.faces[hit.index]; if (!face.frame) return 'That face is not flat: pick a flat one.'; choose({ face: face.pick }); return ''; });
    bar.digits((d) => { const key = Object.keys(PLANES)[d - 1]; if (key) choose({ plane: key }); });
    bar.note(blank.hint);
  };
  word(value);
  return { node, activate, deactivate: () => { bar.list([]); bar.sheets(null); bar.takes(null); bar.digits(null); }, set: word, finishes: true, empty: () => false };
}
const text = (blank, value, changed) => { const made = number(blank, value, changed); made.node.classList.add('words'); return made; };

export const EDITORS = { length: number, angle: number, count: number, choice, regions, plane, text };
export const isPick = (type) => ['regions', 'plane'].includes(type);
export const forget = () => { candidates.list = []; candidates.chosen = new Set(); candidates.pick = null; emit('layer'); };
