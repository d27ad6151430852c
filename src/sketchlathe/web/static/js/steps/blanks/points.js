// Points of sketches.
import { built, frameOf, stepKind, there } from '../../core/state.js';
import { candidates, redraw, viewOf } from '../../sketch/layer.js';
import { button, before, datums } from './shared.js';

/** @type {MakeEditor} */
export function points(blank, value, changed, bar) {
  let picks = [...(value ?? [])];
  const node = button(blank);
  const word = () => {
    const none = blank.optional ? blank.nothing || 'nothing' : `${blank.most === 1 ? 'point' : 'points'}…`;
    node.say(picks.length ? `${picks.length} point${picks.length > 1 ? 's' : ''}` : none);
  };
  /** @param {string} s @param {string} r */
  const has = (s, r) => picks.some(p => p.sketch === s && p.ref === r);
  async function activate() {
    const found = [];
    for (const s of before(bar).filter(x => stepKind(x.kind).drawn && !x.skipped && frameOf(x.id))) {
      const view = await viewOf(s.id),
        seen = new Set();
      for (const c of view.curves)
        for (const p of c.points) {
          const alone = c.tags.includes('point'),
            centre = p.ref.endsWith('.centre'),
            at = p.at.map(v => v.toFixed(6)).join();
          if (seen.has(at)) continue;
          seen.add(at);
          found.push({
            step: s,
            ref: p.ref,
            at: p.at,
            rank: alone ? 0 : centre ? 1 : 2,
            text: `${alone ? '' : `${centre ? 'centre' : p.ref.split('.')[1]} of `}${c.word}, ${s.title}`,
          });
        }
    }
    for (const s of datums(bar, 'point'))
      found.push({
        step: s,
        ref: 'point',
        at: [0, 0],
        frame: {
          ...there(built().steps.find(r => r.id === s.id)).datum,
          x: [1, 0, 0],
          y: [0, 1, 0],
          normal: [0, 0, 1],
        },
        rank: 0,
        text: s.title,
      });
    if (!bar.isActive()) return;
    found.sort((a, b) => a.rank - b.rank);
    /** @param {any} f */
    const toggle = f => {
      picks = has(f.step.id, f.ref)
        ? picks.filter(p => !(p.sketch === f.step.id && p.ref === f.ref))
        : [...(blank.most === 1 ? [] : picks), { sketch: f.step.id, ref: f.ref }];
      word();
      activate();
      changed(picks);
    };
    const main = found.filter(f => f.rank < 2 || has(f.step.id, f.ref));
    const offered = main.length ? main : found.slice(0, 20);
    bar.list(
      offered
        .slice(0, 40)
        .map(f => ({ id: f.step.id + f.ref, text: f.text, on: has(f.step.id, f.ref), toggle: () => toggle(f) })),
    );
    candidates.points = found.map(f => ({
      of: f.step.id + f.ref,
      frame: f.frame ?? frameOf(f.step.id),
      at: f.at,
      on: has(f.step.id, f.ref),
      pick: () => toggle(f),
    }));
    if (!found.length) bar.note('There is no sketch with points yet: draw points where the holes belong.');
    redraw();
  }
  word();
  return {
    node,
    activate,
    deactivate: () => {
      bar.list([]);
      candidates.points = [];
      redraw();
    },
    set: v => {
      picks = [...v];
      word();
    },
    empty: () => !blank.optional && !picks.length,
  };
}
