// Members of a pattern.
import { candidates, redraw } from '../../sketch/layer.js';
import { text } from './typed.js';

// members of a pattern, left out by name: clicked where they stand, ticked in the list, or typed
/** @type {MakeEditor} */
export function members(blank, value, changed, bar) {
  const made = text(
      blank,
      value,
      v => {
        changed(v);
        told();
      },
      bar,
    ),
    { node } = made;
  const names = () => node.value.split(/[\s,;]+/).filter(Boolean);
  /** @param {string} name */
  const toggle = name => {
    const out = names();
    node.value = (out.includes(name) ? out.filter((/** @type {string} */ n) => n !== name) : [...out, name]).join(', ');
    changed(node.value);
    told();
  };
  /** @param {string} name */
  const said = name =>
    name.includes('.') ? `column ${name.split('.')[0]}, row ${name.split('.')[1]}` : `member ${name}`;
  function told() {
    const spots = bar.spots(),
      out = new Set(names());
    bar.list(
      spots
        .slice(0, 60)
        .map(s => ({
          id: s.name,
          text: `${said(s.name)}${out.has(s.name) ? ', left out' : ''}`,
          on: out.has(s.name),
          toggle: () => toggle(s.name),
        })),
    );
    candidates.points = spots.map(s => ({
      frame: { origin: s.at, x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] },
      at: [0, 0],
      on: out.has(s.name),
      says: `${said(s.name)}: ${out.has(s.name) ? 'take it in again' : 'leave it out'}`,
      pick: () => toggle(s.name),
    }));
    redraw();
  }
  return {
    ...made,
    told,
    activate: () => {
      bar.note(blank.hint);
      told();
    },
    deactivate: () => {
      bar.list([]);
      candidates.points = [];
      redraw();
    },
  };
}
