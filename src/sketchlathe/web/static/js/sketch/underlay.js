// The picture under an open sketch, to be traced: brought, set to scale by two points, laid by numbers, taken away.
import { $, html, svg, targetOf } from '../core/dom.js';
import { S, openSketch, there } from '../core/state.js';
import { edit } from '../core/api.js';
import { camera } from '../view/camera.js';
import { hint, question } from '../ui/messages.js';
import { toScreen } from '../view/places.js';
import { draft, redraw } from './layer.js';

const view = $('view');
/** @param {object} what */
const mine = what => edit({ ...what, sketch: openSketch().id });
/** @param {number} v */
const tidy = v => `${+v.toPrecision(6)}`;
/** @param {string} word @param {() => void} act */
const chip = (word, act, more = {}) => html('button', { class: 'chip', type: 'button', onclick: act, ...more }, word);

/** @param {() => void} choose */
export function underlayRows(choose) {
  const u = openSketch().underlay;
  if (!u)
    return [
      html(
        'div',
        { class: 'chips' },
        chip('lay a picture under it', choose, {
          id: 'underlay-choose',
          'data-name': 'Lay a picture under the sketch',
          'data-synonyms': 'trace image photo scan background',
          title: 'A photograph, a scan or a page of a PDF to be traced',
        }),
      ),
    ];
  /** @param {string} name @param {string} word @param {any} value @param {string} unit */
  const field = (name, word, value, unit) => {
    const input = html('input', { class: 'num', value, maxlength: 400, autocomplete: 'off', 'data-underlay': name });
    input.addEventListener('change', () =>
      mine({ kind: 'set_underlay', [name]: input.value }).catch(() => {
        input.value = value;
      }),
    );
    return html('label', { class: 'row2' }, html('span', {}, word), html('span', {}, input, html('i', {}, unit)));
  };
  const shown = html('input', {
    type: 'checkbox',
    'aria-label': 'Show the picture',
    onchange: e => {
      S.underlayHidden = !e.target.checked;
      redraw();
    },
  });
  shown.checked = !S.underlayHidden;
  const strength = html('input', {
    type: 'range',
    min: 5,
    max: 100,
    value: Math.round(100 * u.strength),
    'aria-label': 'How strongly the picture shows',
    oninput: e => {
      u.strength = e.target.value / 100;
      redraw();
    },
    onchange: e => mine({ kind: 'set_underlay', strength: e.target.value / 100 }).catch(() => {}),
  });
  return [
    html(
      'details',
      { class: 'underlay', open: S.underlayOpen ?? true, ontoggle: e => (S.underlayOpen = e.target.open) },
      html('summary', {}, `picture: ${u.name}`),
      html(
        'div',
        { class: 'chips' },
        chip('set its size by two points', scale, {
          id: 'underlay-scale',
          'data-name': 'Set the picture’s size by two points',
          title: 'Click two points whose distance you know, then type it',
        }),
        chip('move it by hand', byHand, {
          id: 'underlay-move',
          'data-name': 'Move the picture by hand',
          title: 'Drag it; with Shift it turns about its middle. Esc ends it',
        }),
        chip('take it away', () => mine({ kind: 'drop_underlay' }).catch(() => {}), { id: 'underlay-drop' }),
      ),
      field('width', 'width', `${tidy(u.wide * u.scale)} mm`, ''),
      field('x', 'middle, across', `${tidy(u.x)} mm`, ''),
      field('y', 'middle, up', `${tidy(u.y)} mm`, ''),
      field('turn', 'turned', `${tidy((u.turn * 180) / Math.PI)} deg`, ''),
      html('label', { class: 'row2' }, html('span', {}, 'strength'), strength),
      html('label', { class: 'row2' }, html('span', {}, 'shown'), shown),
    ),
  ];
}

// dragged where it belongs; with Shift turned about its middle; the arrow keys move it by a millimetre
function byHand() {
  if (!S.sketch?.underlay) return;
  const lying = () => there(openSketch().underlay); // of the sketch as it is by now
  const at = (/** @type {any} */ e) => {
    const r = view.getBoundingClientRect();
    return camera.onPlane(S.frame, e.clientX - r.left, e.clientY - r.top);
  };
  /** @param {number[]} p */
  const angle = p => Math.atan2(p[1] - lying().y, p[0] - lying().x);
  /** @type {any} */
  let from = null; // where it was taken, and how it lay
  const keep = () =>
    mine({
      kind: 'set_underlay',
      x: `${tidy(lying().x)} mm`,
      y: `${tidy(lying().y)} mm`,
      turn: `${tidy((lying().turn * 180) / Math.PI)} deg`,
    })
      .then(byHand) // the sketch is another one now
      .catch(() => {});
  const end = () => {
    view.removeEventListener('pointerdown', down, true);
    view.removeEventListener('pointermove', move, true);
    view.removeEventListener('pointerup', up, true);
    removeEventListener('keydown', key, true);
    hint('');
  };
  const down = (/** @type {any} */ event) => {
    if (event.button !== 0 || targetOf(event).closest('.tray, .bar, .dial')) return;
    event.preventDefault();
    event.stopPropagation();
    view.setPointerCapture(event.pointerId);
    const p = at(event);
    from = { p, x: lying().x, y: lying().y, turn: lying().turn, angle: angle(p) };
  };
  const move = (/** @type {any} */ event) => {
    if (!from) return;
    event.stopPropagation();
    const p = at(event);
    if (event.shiftKey) lying().turn = from.turn + angle(p) - from.angle;
    else Object.assign(lying(), { x: from.x + p[0] - from.p[0], y: from.y + p[1] - from.p[1] });
    redraw();
  };
  const up = (/** @type {any} */ event) => {
    if (!from) return;
    event.stopPropagation();
    from = null;
    end();
    keep();
  };
  const key = (/** @type {any} */ event) => {
    /** @type {Record<string, number[]>} */
    const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] },
      way = WAYS[event.key];
    if (!way && event.key !== 'Escape' && event.key !== 'Enter') return;
    event.preventDefault();
    event.stopPropagation();
    end();
    if (!way) return;
    lying().x += way[0];
    lying().y += way[1];
    redraw();
    keep();
  };
  view.addEventListener('pointerdown', down, true);
  view.addEventListener('pointermove', move, true);
  view.addEventListener('pointerup', up, true);
  addEventListener('keydown', key, true);
  hint('Drag the picture, with Shift to turn it; arrow keys move it by a millimetre. Esc ends it.');
}

// two clicks on the picture, then the length between them
function scale() {
  /** @type {number[][]} */
  const points = [];
  const at = (/** @type {any} */ e) => {
    const r = view.getBoundingClientRect();
    return camera.onPlane(S.frame, e.clientX - r.left, e.clientY - r.top);
  };
  /** @param {number[] | null} [to] */
  const marks = to => {
    const spots = [...points, ...(to ? [to] : [])].map(p => toScreen(S.frame, p));
    draft.nodes = spots.map(([x, y]) => svg('circle', { class: 'look', cx: x, cy: y, r: 7 }));
    if (spots.length > 1) {
      const [[x1, y1], [x2, y2]] = spots;
      draft.nodes.push(svg('line', { class: 'axisline', x1, y1, x2, y2 }));
    }
    redraw();
  };
  const end = () => {
    view.removeEventListener('pointerdown', down, true);
    view.removeEventListener('pointermove', move, true);
    removeEventListener('keydown', key, true);
    draft.nodes = [];
    hint('');
    redraw();
  };
  const down = async (/** @type {any} */ event) => {
    if (event.button !== 0 || targetOf(event).closest('.tray, .bar, .dial')) return;
    event.preventDefault();
    event.stopPropagation();
    points.push(at(event));
    marks();
    if (points.length < 2) {
      hint('Click the second point.');
      return;
    }
    const [first, second] = points;
    end();
    const length = await question(
      'How far apart are they?',
      'In truth, as a length or a formula.',
      [['ok', 'Set']],
      '',
    );
    if (length) await mine({ kind: 'scale_underlay', first, second, length }).catch(() => {});
  };
  const move = (/** @type {any} */ event) => {
    if (points.length === 1) marks(at(event));
  };
  const key = (/** @type {any} */ event) => {
    if (event.key !== 'Escape') return;
    event.preventDefault();
    event.stopPropagation();
    end();
  };
  view.addEventListener('pointerdown', down, true);
  view.addEventListener('pointermove', move, true);
  addEventListener('keydown', key, true);
  hint('Click the first of two points whose distance you know.');
}
