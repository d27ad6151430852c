// Bodies and steps, chosen by name.
import { stepKind } from '../../core/state.js';
import { pickables } from '../../view/scene.js';
import { titleOfBody } from '../names.js';
import { button, before, titleOf, leave } from './shared.js';

// one or more of some things with names; `of`: which of them a face belongs to
/** @type {(items: (bar: BlankBar) => string[][], say: (chosen: string[]) => string, of: (hit: Hit) => string[],
 other: string) => MakeEditor} */
const named = (items, say, of, other) => (blank, value, changed, bar) => {
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
    const offered = items(bar).map(([id]) => id);
    bar.list(items(bar).map(([id, title]) => ({ id, text: title, on: chosen.includes(id), toggle: () => toggle(id) })));
    bar.takes(['face'], hit => {
      // the last that worked on it is what one sees there
      const mine = of(hit).sort((a, b) => offered.indexOf(b) - offered.indexOf(a))[0];
      return offered.includes(mine) ? toggle(mine) : other;
    });
    bar.marked(() =>
      pickables().flatMap(item =>
        item.body.faces
          .map((/** @type {MeshFace} */ _, /** @type {number} */ index) => ({ ...item, what: 'face', index }))
          .filter((/** @type {Hit} */ hit) => of(hit).some(id => chosen.includes(id))),
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
  hit => [hit.facts.id],
  'That body cannot be chosen here.',
);
export const steps = named(
  bar =>
    before(bar)
      .filter(s => stepKind(s.kind).makes_solid && !s.skipped)
      .map(s => [s.id, s.title]),
  c => c.map(titleOf).join(', '),
  hit => hit.body.faces[hit.index].made.map((/** @type {{ by: string }} */ m) => m.by),
  'No step that could be chosen here made that face.',
);
