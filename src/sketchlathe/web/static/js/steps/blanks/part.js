// Another part of the model.
import { html } from '../../core/dom.js';
import { S } from '../../core/state.js';
import { ask } from '../../core/api.js';

// another part of the model; where there is just one, that
/** @type {MakeEditor} */
export function otherPart(blank, value, changed, bar) {
  const offered = S.model.parts.filter(
    p => p.id !== S.partId && p.sort !== 'sheet' && (p.id === value || !(p.gone || follows(p.id, S.partId))),
  );
  const node = html(
    'select',
    { class: 'gap', 'aria-label': blank.label, title: blank.hint, onchange: () => changed(node.value) },
    ...(value ? [] : [html('option', { value: '' }, offered.length ? 'part…' : 'no other part')]),
    ...offered.map(p => html('option', { value: p.id, ...(p.id === value ? { selected: true } : {}) }, p.name)),
  );
  // where both are put together: as it stands there
  const standing = () => {
    /** @param {Told.PartTold} p @param {string} id */
    const brings = (p, id) => p.steps.some(s => s.brings === id && !s.skipped);
    const found = S.model.parts.filter(
      p => !p.gone && p.id !== S.partId && brings(p, S.partId) && brings(p, node.value),
    );
    bar.list(
      [],
      found.map(p =>
        html(
          'button',
          {
            class: 'fix',
            type: 'button',
            'data-stands': p.id,
            onclick: () =>
              ask('/stands', { together: p.id, part: S.partId, other: node.value })
                .then(fields => bar.put(fields))
                .catch(problem => bar.note(problem.message)),
          },
          `where it stands in ${p.name}`,
        ),
      ),
    );
  };
  node.addEventListener('change', standing);
  return {
    node,
    activate: () => {
      const others = S.model.parts.some(p => !p.gone && p.id !== S.partId);
      if (!offered.length)
        bar.note(
          others
            ? 'Every other part brings this one already, so to bring it here would go round in a loop.'
            : 'There is no other part in this model yet: make one first (t n).',
        );
      else if (!node.value && offered.length === 1) {
        node.value = offered[0].id;
        changed(node.value);
      } else bar.note(blank.hint);
      standing();
    },
    deactivate: () => bar.list([]),
    set: v => {
      node.value = v;
    },
    empty: () => !blank.optional && !node.value,
  };
}
// whether one part brings another, directly or through others
/** @type {(id: string | null, other: string) => boolean} */
const follows = (id, other) =>
  S.model.parts.find(p => p.id === id)?.steps.some(s => s.brings && (s.brings === other || follows(s.brings, other))) ??
  false;
