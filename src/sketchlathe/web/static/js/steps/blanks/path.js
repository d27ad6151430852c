// What something follows.
import { frameOf, stepKind, there } from '../../core/state.js';
import { candidates, redraw, viewOf } from '../../sketch/layer.js';
import { everything, located, pickOf, samePick } from '../picks.js';
import { button, before, titleOf, leave } from './shared.js';

// what something follows: curves of sketches with all that hangs together with them, edges
/** @type {MakeEditor} */
export function path(blank, value, changed, bar) {
  let picks = [...(value ?? [])],
    /** @type {any[]} */
    chains = [],
    walked = -1;
  const node = button(blank),
    takes = ['edge'];
  const word = () => {
    const curves = picks.filter(p => p.curve),
      edges = picks.length - curves.length;
    const said = [
      ...new Set(curves.map(p => titleOf(p.sketch))),
      ...(edges ? [edges === 1 ? '1 edge' : `${edges} edges`] : []),
    ];
    node.say(said.join(' and ') || (blank.optional ? blank.nothing || 'nothing' : `${blank.label}…`));
  };
  /** @param {any[]} next */
  const keep = next => {
    picks = next;
    word();
    changed(picks);
    show();
    return '';
  };
  /** @param {any} c */
  const chosen = c => picks.some(p => p.sketch === c.sketch && c.ids.includes(p.curve));
  /** @param {any} c */
  const toggle = c =>
    keep(
      chosen(c)
        ? picks.filter(p => !(p.sketch === c.sketch && c.ids.includes(p.curve)))
        : [...picks, { sketch: c.sketch, curve: c.ids[0] }],
    );
  /** @param {Hit} hit */
  const take = hit => {
    const pick = pickOf(hit),
      old = picks.find(p => !p.curve && samePick(p, pick));
    return keep(old ? picks.filter(p => p !== old) : [...picks, pick]);
  };
  function show() {
    if (!bar.isActive()) return;
    bar.list(chains.map(c => ({ id: c.sketch + c.ids[0], text: c.text, on: chosen(c), toggle: () => toggle(c) })));
    candidates.lines = chains.flatMap(c =>
      c.paths.map((/** @type {string} */ d) => ({
        of: c.sketch + c.ids[0],
        frame: c.frame,
        path: d,
        on: chosen(c),
        pick: () => toggle(c),
      })),
    );
    bar.takes(takes, take);
    bar.walks({
      walk: by => {
        const all = everything(takes);
        if (!all.length) return null;
        walked = (walked + by + all.length) % all.length;
        return all[walked];
      },
      take,
    });
    bar.marked(() => located(picks.filter(p => !p.curve)));
    bar.note(blank.hint);
    redraw();
  }
  async function activate() {
    const found = [];
    for (const s of before(bar).filter(x => stepKind(x.kind).drawn && !x.skipped && frameOf(x.id))) {
      const view = await viewOf(s.id),
        open = view.chains.map(ids => [...ids]),
        inOne = new Set(open.flat());
      const others = view.curves.filter(c => c.tags.includes('curve') && !c.tags.includes('text') && !inOne.has(c.id));
      for (const ids of [...open, ...others.map(c => [c.id])])
        found.push({
          sketch: s.id,
          ids,
          frame: frameOf(s.id),
          paths: ids.map(id => there(view.curves.find(c => c.id === id)).path),
          text:
            ids.length > 1
              ? `${s.title}, ${ids.length} curves end to end`
              : `${there(view.curves.find(c => c.id === ids[0])).word} of ${s.title}`,
        });
    }
    if (!bar.isActive()) return;
    chains = found.slice(-24);
    show();
  }
  word();
  return {
    node,
    activate,
    deactivate: () => {
      leave(bar);
      candidates.lines = [];
      redraw();
    },
    set: v => {
      picks = [...v];
      word();
    },
    empty: () => !blank.optional && !picks.length,
  };
}
