// The picture under an open sketch, to be traced: brought, set to scale by two points, laid by numbers, taken away.
import { $, S, html, svg } from '../core/state.js';
import { edit } from '../core/api.js';
import { camera } from '../view/camera.js';
import { hint, question } from '../ui/messages.js';
import { draft, redraw, toScreen } from './layer.js';

const view = $('view');
const mine = what => edit({ ...what, sketch: S.sketch.id });
const tidy = v => `${+v.toPrecision(6)}`;
const chip = (word, act, more = {}) => html('button', { class: 'chip', type: 'button', onclick: act, ...more }, word);

export function underlayRows(choose) {
  const u = S.sketch.underlay;
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

// two clicks on the picture, then the length between them
function scale() {
  const points = [];
  const at = e => {
    const r = view.getBoundingClientRect();
    return camera.onPlane(S.frame, e.clientX - r.left, e.clientY - r.top);
  };
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
  const down = async event => {
    if (event.button !== 0 || event.target.closest('.tray, .bar, .dial')) return;
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
  const move = event => {
    if (points.length === 1) marks(at(event));
  };
  const key = event => {
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
