// Weigh & size: in which units, of which body; copying; the centre of mass and the principal axes in the view.
import { $, sought, svg, targetOf } from '../core/dom.js';
import { S, built, on, there } from '../core/state.js';
import { recall, remember } from '../core/kept.js';
import { camera } from '../view/camera.js';
import { say } from '../ui/messages.js';
import { extra, redraw } from '../sketch/layer.js';
import { chooseMaterial } from './materials.js';

const KEPT = 'reading';
const reading = { ...recall(KEPT, /** @type {any} */ ({})) };
let body = '',
  centre = false;
const tell = () => {
  S.reading = { ...reading, ...(body ? { body } : {}) };
};
tell();
const open = new Set();
const again = () => {
  tell();
  document.body.dispatchEvent(new CustomEvent('lathe:weigh'));
};

document.addEventListener('htmx:configRequest', event => {
  if (event.detail.elt.id === 'weigh') Object.assign(event.detail.parameters, S.reading);
});
$('weigh').addEventListener('change', event => {
  const which = { 'weigh-length': 'length', 'weigh-mass': 'mass', 'weigh-digits': 'digits' }[targetOf(event).id];
  if (which) {
    reading[which] = targetOf(event).value;
    remember(KEPT, reading);
    again();
  }
  if (targetOf(event).id === 'weigh-body') {
    body = targetOf(event).value;
    again();
  }
  if (targetOf(event).id === 'show-centre') {
    centre = targetOf(event).checked;
    redraw();
  }
});
$('weigh').addEventListener('click', async event => {
  if (targetOf(event).closest('#material')) {
    chooseMaterial(body);
    return;
  }
  const copy = targetOf(event).closest('.copy');
  if (!copy) return;
  const { measure, exact } = there(copy.closest('[data-measure]')).dataset;
  try {
    await navigator.clipboard.writeText(exact ?? '');
    say(`${measure} copied: ${exact}`);
  } catch {
    say(`${measure}: ${exact}`);
  }
});
$('weigh').addEventListener(
  'toggle',
  event => {
    if (targetOf(event).open) open.add(targetOf(event).id);
    else open.delete(targetOf(event).id);
  },
  true,
);
// what was open stays open when the panel is filled again
$('weigh').addEventListener('lathe:filled', () => {
  for (const id of open) if (sought(id)) $(id).open = true;
  if (sought('show-centre')) $('show-centre').checked = centre;
  redraw();
});
on('build', () => {
  if (body && !built().bodies.some(b => b.id === body)) {
    body = '';
    tell();
  }
});

/** @param {string} what */
const exact = what =>
  $('weigh').querySelector(`[data-measure="${what}"]`)?.dataset.exact?.split(' ').map(Number) ?? null;
extra.push(() => {
  if (!centre || S.mode !== 'solid') return [];
  const at = exact('centre of mass'),
    box = exact('box');
  if (!at || !box) return [];
  const long = 0.4 * Math.max(...box),
    [x, y] = camera.project(at);
  const axes = ['smallest', 'middle', 'largest'].flatMap((n, i) => {
    const [ex, ey] = camera.project(there(exact(`axis ${n}`)).map((v, k) => at[k] + v * long));
    return [
      svg('line', { class: 'inertia', x1: x, y1: y, x2: ex, y2: ey }),
      svg('text', { class: 'inertianum', x: ex + 4, y: ey - 4 }, String(i + 1)),
    ];
  });
  return [
    ...axes,
    svg(
      'g',
      { class: 'masscentre', transform: `translate(${x} ${y})` },
      svg('circle', { r: 8 }),
      svg('path', { d: 'M0 0V-8A8 8 0 0 1 8 0ZM0 0V8A8 8 0 0 1 -8 0Z' }),
    ),
  ];
});
