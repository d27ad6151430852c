// Looking inside: a plane that moves through the part; what lies in front of it is left out, the cut is hatched.
import { $, html, sought } from '../core/dom.js';
import { S, emit, on } from '../core/state.js';
import { ask } from '../core/api.js';
import { factor, withUnit } from '../core/units.js';
import { camera } from './camera.js';
import { setCaps, setClip } from './cuts.js';
import { isHidden } from './scene.js';

/** @type {Record<string, number[]>} */
const ACROSS = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };
/** @type {any} */
export const cut = { across: '', at: 0, flipped: false, face: null, area: null };
/** @param {number[]} n */
const span = n => {
  const all = [...(S.build?.bodies ?? []), ...(S.build?.references ?? [])],
    seen = all.filter(b => !isHidden(b.id));
  const heights = (seen.length ? seen : all).flatMap(({ box: [l, h] }) =>
    [0, 1, 2, 3, 4, 5, 6, 7].map(
      i => n[0] * (i & 1 ? h : l)[0] + n[1] * (i & 2 ? h : l)[1] + n[2] * (i & 4 ? h : l)[2],
    ),
  );
  return heights.length ? [Math.min(...heights), Math.max(...heights)] : [0, 1];
};
/** @returns {number[]} */
const normal = () => (cut.across === 'face' ? cut.face : ACROSS[cut.across]);
export const sectionPlane = () => frame();
const frame = () => ({ origin: normal().map(v => v * cut.at), normal: normal() });

// the clip moves at once, the exact cut follows: one question in flight, the newest waits
let asking = false,
  again = false;
async function refresh() {
  if (!cut.across) {
    setClip(null);
    setCaps(null);
    return;
  }
  setClip(frame(), cut.flipped);
  if (asking) {
    again = true;
    return;
  }
  asking = true;
  do {
    again = false;
    const plane = frame();
    const found = await ask('/section', { part: S.partId, ...plane, ticket: 'section' }).catch(() => null);
    if (!cut.across) {
      setCaps(null);
      break;
    }
    setCaps(found);
    cut.bodies = found?.bodies ?? [];
    amount();
  } while (again);
  asking = false;
}
// what the bodies that show amount to
function amount() {
  const seen = (cut.bodies ?? []).filter((/** @type {any} */ b) => !isHidden(b.id)),
    /** @type {(name: string) => number} */
    sum = name => seen.reduce((/** @type {number} */ all, /** @type {any} */ b) => all + b[name], 0);
  cut.area = sum('area');
  cut.outline = sum('outline');
  say();
}
on('hidden', () => {
  if (cut.across) amount();
});
function say() {
  const area = $('section-area');
  if (area) area.textContent = cut.area === null ? '' : withUnit(cut.area, 6, 2);
  const outline = $('section-outline');
  if (outline) outline.textContent = cut.area === null ? '' : withUnit(cut.outline, 6);
  const at = $('section-at');
  sought('section-slide')?.setAttribute('aria-valuetext', withUnit(cut.at, 6));
  if (at && document.activeElement !== at) at.value = String(+(cut.at / factor()).toPrecision(6));
}
/** @param {string} across @param {any} [face] */
export function cutAcross(across, face = null) {
  cut.across = across;
  cut.face = face;
  cut.area = null;
  if (across) {
    const [low, high] = span(normal());
    cut.at = (low + high) / 2;
    cut.flipped = normal().reduce((sum, v, i) => sum + v * camera.normal()[i], 0) < 0;
  } // what is between the eye and the plane goes
  emit('view-panel');
  refresh();
}
export function sectionControls() {
  const pick = html(
    'select',
    { id: 'section-across', 'aria-label': 'Section', onchange: () => cutAcross(pick.value) },
    ...[
      ['', 'none'],
      ['x', 'across x'],
      ['y', 'across y'],
      ['z', 'across z'],
      ...(cut.across === 'face' ? [['face', 'along a face']] : []),
    ].map(([v, w]) => html('option', { value: v, selected: cut.across === v }, w)),
  );
  const row = html('label', { class: 'row2' }, html('span', {}, 'section'), pick);
  if (!cut.across) return [row];
  const [low, high] = span(normal());
  /** @param {number} mm */
  const move = mm => {
    cut.at = mm;
    refresh();
    say();
  };
  const slider = html('input', {
    type: 'range',
    id: 'section-slide',
    min: low,
    max: high,
    step: (high - low) / 400 || 1,
    value: cut.at,
    'aria-label': 'Where the section lies',
    'aria-valuetext': withUnit(cut.at, 6),
    oninput: () => move(Number(slider.value)),
  });
  const number = html('input', {
    id: 'section-at',
    class: 'num',
    value: +(cut.at / factor()).toPrecision(6),
    'aria-label': `Where the section lies, ${S.model.units}`,
    inputmode: 'decimal',
    onchange: () => {
      const v = Number(number.value) * factor();
      if (Number.isFinite(v)) {
        slider.value = String(v);
        move(v);
      }
    },
  });
  return [
    row,
    html('div', { class: 'row2' }, slider, number),
    html(
      'div',
      { class: 'row2' },
      html(
        'button',
        {
          class: 'fix',
          type: 'button',
          onclick: () => {
            cut.flipped = !cut.flipped;
            refresh();
          },
        },
        'other side',
      ),
      html(
        'span',
        { class: 'num', id: 'section-area', title: 'area of the cut' },
        cut.area === null ? '' : withUnit(cut.area, 6, 2),
      ),
    ),
    html(
      'div',
      { class: 'row2' },
      html('span', {}, 'its outline'),
      html(
        'span',
        { class: 'num', id: 'section-outline', title: 'length of all outlines of the cut' },
        cut.area === null ? '' : withUnit(cut.outline, 6),
      ),
    ),
  ];
}
on('build', () => {
  if (cut.across) {
    refresh();
  }
});
