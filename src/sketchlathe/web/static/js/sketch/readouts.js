// What stands beside an open sketch: how free it is, what looks unintended, what can be picked.
import { $, html, svg } from '../core/dom.js';
import { S, emit, on, openSketch } from '../core/state.js';
import { toScreen } from '../view/places.js';
import { stopSwing, suggest, swing } from './helping.js';
import { draft, redraw } from './layer.js';
import { chip, mine, row } from './pieces.js';
import './selected.js';
import { underlayRows } from './underlay.js';

export function readouts() {
  if (!S.sketch) return;
  const n = S.sketch.freedom,
    all = Math.max(S.sketch.curves.length * 4, n, 1),
    drawn = S.sketch.curves.length;
  $('sketch-panel').hidden = false;
  const repairs = S.sketch.repairs ?? [];
  $('sketch-readout').replaceChildren(
    html(
      'div',
      { class: 'row2' },
      html('span', {}, n ? 'free to move' : 'state'),
      html(
        'b',
        { id: 'freedom' },
        drawn ? (n ? `${n} way${n === 1 ? '' : 's'}` : 'fully constrained') : 'nothing drawn yet',
      ),
    ),
    html('div', { class: 'meter', 'aria-hidden': 'true' }, html('i')),
    ...(n && drawn
      ? [
          html(
            'div',
            { class: 'chips' },
            chip('show how it moves', swing, {
              id: 'swing',
              'data-name': 'Show how it moves',
              'data-chord': 'qm',
              title: 'Show how it moves (q m): swings what is free',
            }),
            chip('suggest', suggest, {
              id: 'suggest',
              'data-name': 'Suggest what would hold it',
              'data-chord': 'qs',
              title: 'Suggest (q s): what would hold what is free, one at a time',
            }),
          ),
        ]
      : []),
    html('div', { id: 'sketch-help', 'aria-live': 'polite' }),
    row('closed regions', html('span', { id: 'region-count' }, String(S.sketch.regions.length))),
    ...(S.sketch.open_ends.length ? [row('open ends', String(S.sketch.open_ends.length))] : []),
    ...(S.sketch.unmet
      ? [html('p', { class: 'mb-0 text-danger-emphasis' }, `Cannot have all its sizes: ${S.sketch.unmet}`)]
      : []),
    ...(repairs.length
      ? [
          html(
            'details',
            { class: 'repairs', open: repairs.some(r => r.what === 'gap') },
            html('summary', {}, `${repairs.length} thing${repairs.length > 1 ? 's' : ''} to look at`),
            html(
              'ul',
              {},
              ...repairs.slice(0, 6).map(r =>
                html(
                  'li',
                  {
                    onmouseenter: () => point(r.at),
                    onmouseleave: () => {
                      draft.nodes = [];
                      redraw();
                    },
                  },
                  r.text,
                  ' ',
                  html(
                    'button',
                    {
                      class: 'fix',
                      type: 'button',
                      onclick: () => {
                        draft.nodes = [];
                        mine({ kind: 'repair_sketch', finding: r.what, on: r.refs });
                      },
                    },
                    r.fix,
                  ),
                ),
              ),
            ),
          ),
        ]
      : []),
    html('label', { class: 'row2' }, html('span', {}, 'pick'), filterBox()),
    html('label', { class: 'row2' }, html('span', {}, 'constraint tags'), tagsBox()),
    ...underlayRows(() => emit('choosefile')),
  );
  $('sketch-readout').querySelector('.meter i').style.width = drawn ? `${Math.round(100 * (1 - n / all))}%` : '0';
}
/** @param {number[]} at */
function point(at) {
  const [x, y] = toScreen(S.frame, at);
  draft.nodes = [svg('circle', { class: 'look', cx: x, cy: y, r: 14 })];
  redraw();
}

// what can be picked: everything, or one sort only
export const FILTERS = {
  all: 'everything',
  curves: 'curves only',
  points: 'points only',
  dimensions: 'dimensions only',
  marks: 'constraint tags only',
};
function filterBox() {
  return html(
    'select',
    {
      id: 'pick-filter',
      'aria-label': 'What can be picked',
      onchange: e => {
        S.filter = e.target.value;
      },
    },
    ...Object.entries(FILTERS).map(([v, w]) => html('option', { value: v, selected: v === (S.filter ?? 'all') }, w)),
  );
}
function tagsBox() {
  const box = html('input', {
    type: 'checkbox',
    'aria-label': 'Show constraint tags',
    onchange: e => {
      S.tagsHidden = !e.target.checked;
      redraw();
    },
  });
  box.checked = !S.tagsHidden;
  return box;
}
/** @param {string} ref */
export function passes(ref) {
  const f = S.filter ?? 'all';
  if (!ref || f === 'all') return true;
  if (f === 'points') return ref.includes('.') || ref === 'origin';
  if (f === 'curves')
    return !ref.includes('.') && (ref.endsWith('_axis') || openSketch().curves.some(c => c.id === ref));
  return /** @type {any} */ (openSketch())[f].some((/** @type {{ id: string }} */ d) => d.id === ref);
}

/** @param {string} r */
const exists = r =>
  r === 'origin' ||
  r.endsWith('_axis') ||
  openSketch().curves.some(c => c.id === r.split('.')[0]) ||
  openSketch().marks.some(m => m.id === r) ||
  openSketch().dimensions.some(d => d.id === r);
on('sketch', () => {
  stopSwing();
  readouts();
  S.selection = S.selection.filter(r => exists(r));
  emit('selection');
});
