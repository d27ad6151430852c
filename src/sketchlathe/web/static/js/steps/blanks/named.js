// Bodies and steps, chosen by name.
import { stepKind } from '../../core/state.js';
import { pickables } from '../../view/scene.js';
import { titleOfBody } from '../names.js';
import { button, before, titleOf, leave } from './shared.js';

// one or more of some things with names
/** @type {(items: (bar: BlankBar) => string[][], say: (chosen: string[]) => string) => MakeEditor} */
const named = (items, say) => (blank, value, changed, bar) => {
  let chosen = [...(value ?? [])];
  const node = button(blank);
  const word = () => {
    node.say(chosen.length ? say(chosen) : blank.nothing || (blank.optional ? 'all' : `${blank.label}…`));
  };
  /** @param {string} id */
  const toggle = id => {
    chosen = chosen.includes(id) ? chosen.filter(c => c !== id) : [...chosen, id];
    word();
    activate();
    changed(chosen);
    return '';
  };
  const activate = () => {
    bar.list(items(bar).map(([id, title]) => ({ id, text: title, on: chosen.includes(id), toggle: () => toggle(id) })));
    if (blank.type === 'bodies') bar.takes(['face'], hit => toggle(hit.facts.id));
    bar.marked(() =>
      pickables()
        .filter(i => blank.type === 'bodies' && chosen.includes(i.facts.id))
        .flatMap(i =>
          i.body.faces.map((/** @type {MeshFace} */ _, /** @type {number} */ index) => ({ ...i, what: 'face', index })),
        ),
    );
    bar.note(blank.hint);
  };
  word();
  return {
    node,
    activate,
    deactivate: () => leave(bar),
    set: v => {
      chosen = [...v];
      word();
    },
    empty: () => !blank.optional && !chosen.length,
  };
};

export const bodies = named(
  () => pickables().map(i => [i.facts.id, titleOfBody(i.facts.id)]),
  c => (c.length === 1 ? titleOfBody(c[0]) : `${c.length} bodies`),
);
export const steps = named(
  bar =>
    before(bar)
      .filter(s => stepKind(s.kind).makes_solid && !s.skipped)
      .map(s => [s.id, s.title]),
  c => c.map(titleOf).join(', '),
);
