// A curve of a sketch.
import { frameOf, stepKind } from '../../core/state.js';
import { candidates, redraw, viewOf } from '../../sketch/layer.js';
import { button, before, titleOf } from './shared.js';

// one curve of a sketch, and all that hangs together with it
/** @type {MakeEditor} */
export function curve(blank, value, changed, bar) {
  let now = value;
  const node = button(blank);
  const word = () => {
    node.say(now ? `${titleOf(now.sketch)}` : 'curve…');
  };
  async function activate() {
    const found = [];
    for (const s of before(bar).filter(x => stepKind(x.kind).drawn && !x.skipped && frameOf(x.id))) {
      const view = await viewOf(s.id);
      for (const c of view.curves.filter(x => x.tags.includes('curve') && !x.tags.includes('text')))
        found.push({ s, c });
    }
    if (!bar.isActive()) return;
    /** @param {{ s: any, c: any }} one */
    const choose = ({ s, c }) => {
      now = { sketch: s.id, curve: c.id };
      word();
      activate();
      changed(now);
    };
    /** @param {{ s: any, c: any }} one */
    const on = ({ s, c }) => now?.sketch === s.id && now.curve === c.id;
    bar.list(
      found
        .slice(0, 24)
        .map(f => ({
          id: f.s.id + f.c.id,
          text: `${f.c.word} of ${f.s.title}`,
          on: on(f),
          radio: true,
          toggle: () => choose(f),
        })),
    );
    candidates.lines = found.map(f => ({
      of: f.s.id + f.c.id,
      frame: frameOf(f.s.id),
      path: f.c.path,
      on: on(f),
      pick: () => choose(f),
    }));
    bar.note(found.length ? blank.hint : 'There is no sketch with curves yet: draw a line to cut along.');
    redraw();
  }
  word();
  return {
    node,
    activate,
    deactivate: () => {
      bar.list([]);
      candidates.lines = [];
      redraw();
    },
    set: v => {
      now = v;
      word();
    },
    empty: () => !blank.optional && !now,
  };
}
