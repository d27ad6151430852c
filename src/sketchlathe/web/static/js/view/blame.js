// Where a step fails, or where a lost pick was: rings in the view, with a word beside them.
import { svg } from '../core/dom.js';
import { S, on } from '../core/state.js';
import { extra, redraw } from '../sketch/layer.js';
import { camera } from './camera.js';

/** @type {any[]} */
let places = [];
/** @param {any[]} list */
export function showBlame(list) {
  places = list.filter(b => b.at);
  redraw();
}
extra.push(() =>
  places.flatMap(b => {
    const [x, y] = camera.project(b.at);
    const word = b.edge === undefined ? 'was here' : 'fails here';
    return [
      svg(
        'g',
        { class: 'blame', role: 'img', 'aria-label': word },
        svg('circle', { cx: x, cy: y, r: 11 }),
        svg('circle', { cx: x, cy: y, r: 2.5 }),
        svg('text', { x: x + 16, y: y + 4 }, word),
      ),
    ];
  }),
);
on('step-chosen', (/** @type {string} */ id) =>
  showBlame(id ? (S.build?.steps.find(s => s.id === id)?.blame ?? []) : []),
);
on('mode', () => showBlame([]));
