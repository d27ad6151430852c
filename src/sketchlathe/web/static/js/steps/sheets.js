// Origin planes as faint sheets, only while a plane is asked for.
import { svg } from '../core/dom.js';
import { S } from '../core/state.js';
import { extra, redraw } from '../sketch/layer.js';
import { add, camera } from '../view/camera.js';

/** @type {any} */
let asked = null;
/** @type {string | null} */
let hot = null;
// from now on a click on a sheet says which it is; null: none is asked for
/** @param {((key: string) => void) | null} pick */
export function askForSheet(pick) {
  asked = pick;
  hot = null;
  redraw();
}
/** @param {string | null} key */
export function lightSheet(key) {
  hot = key;
  redraw();
}
// a click on a sheet, when no face lies in front of it → whether there was one
/** @param {Element} node */
export function pickSheet(node) {
  const key = node.closest?.('[data-sheet]')?.dataset.sheet;
  if (key && asked) {
    asked(key);
    return true;
  }
  return false;
}
const SHEETS = {
  top: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] },
  front: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 0, 1], normal: [0, -1, 0] },
  right: { origin: [0, 0, 0], x: [0, 1, 0], y: [0, 0, 1], normal: [1, 0, 0] },
};
extra.push(() => {
  if (!asked) return [];
  const boxes = S.build?.bodies ?? [];
  const reach = Math.max(150 / camera.scale, ...boxes.flatMap(b => b.box.flat().map(Math.abs)), 1) * 1.12;
  const drawn = Object.entries(SHEETS).map(([key, f]) => {
    const corners = [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ].map(([u, v]) => camera.project(add(add([0, 0, 0], f.x, u * reach), f.y, v * reach)));
    const sheet = svg('path', {
      class: `sheet ${hot === key ? 'hot' : ''}`,
      d: `M${corners.map(c => c.map(n => n.toFixed(1))).join('L')}Z`,
      'data-sheet': key,
      role: 'button',
      'aria-label': `${key} plane`,
    });
    const [x, y] = camera.project(add(add([0, 0, 0], f.x, -0.92 * reach), f.y, 0.84 * reach));
    // the name picks the plane it names, whatever sheet lies in front of it
    return [sheet, svg('text', { class: 'sheetname', x, y, 'data-sheet': key }, `${key} plane`)];
  });
  return [...drawn.map(([sheet]) => sheet), ...drawn.map(([, word]) => word)];
});
