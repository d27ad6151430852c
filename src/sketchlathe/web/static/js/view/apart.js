// Pull apart: bodies drawn away from what they stand on, the way they come off; nothing of the model changes.
import { $ } from '../core/dom.js';
import { S, built, emit, on } from '../core/state.js';
import { add } from './camera.js';
import { isHidden, setApart } from './scene.js';

const slider = $('apart-by');
/** @param {number[][]} box @param {number[]} way */
const along = (box, way) => [0, 1, 2].reduce((sum, k) => sum + Math.abs(way[k]) * (box[1][k] - box[0][k]), 0);

// what nothing says of how it comes off leaves the middle of all along its longest way
/** @param {Told.BodyFacts} facts */
function plainWay(facts) {
  const { box } = built().totals,
    off = facts.centre.map((v, k) => v - (box[0][k] + box[1][k]) / 2),
    k = [0, 1, 2].reduce((best, i) => (Math.abs(off[i]) > Math.abs(off[best]) ? i : best), 2);
  return [0, 1, 2].map(i => (i === k ? Math.sign(off[k]) : 0));
}
/** @param {string} id @param {number} by @param {string[]} [seen] @returns {number[]} */
export function offsetFor(id, by, seen = []) {
  const facts = built().bodies.find(b => b.id === id),
    pull = built().pulls?.[id];
  if (!facts || seen.includes(id)) return [0, 0, 0];
  if (!pull && Object.keys(built().pulls ?? {}).length) return [0, 0, 0];
  const way = pull?.way ?? plainWay(facts),
    base = pull?.from ? offsetFor(pull.from, by, [...seen, id]) : [0, 0, 0];
  return add(base, way, by * (1.2 * along(facts.box, way) + 0.4 * along(built().totals.box, way)));
}
function pull() {
  const by = Number(slider.value) / 100;
  slider.setAttribute('aria-valuetext', by ? `${slider.value} %` : 'together');
  setApart(by ? facts => offsetFor(facts.id, by) : null);
  document.body.classList.toggle('pulled', by > 0);
  emit('marked');
}
slider.addEventListener('input', pull);
slider.addEventListener('dblclick', () => {
  slider.value = '0';
  pull();
});
function fill() {
  const several = (S.build?.bodies ?? []).filter(b => !isHidden(b.id)).length > 1;
  $('apart').hidden = !several || S.mode === 'sketch';
  if ($('apart').hidden && Number(slider.value)) {
    slider.value = '0';
    pull();
  }
}
on('build', fill);
on('mode', fill);
on('hidden', fill);
// whoever picks or makes something sees things where they are
for (const name of ['bar', 'part'])
  on(name, () => {
    if (Number(slider.value)) {
      slider.value = '0';
      pull();
    }
    fill();
  });
