// The View panel: how solids look, what shows, what can be picked, a section.
import { $, html, sought, targetOf } from '../core/dom.js';
import { S, built, on, part } from '../core/state.js';
import { edit } from '../core/api.js';
import { WAYS, turning, turnWith } from './controls.js';
import { datumRows } from './datums.js';
import { isHidden, setHidden, setLook } from './scene.js';
import { LOOKS } from './stuff.js';
import { sectionControls } from './section.js';
import { titleOfBody } from '../steps/names.js';
import { partOfBody } from '../steps/parts.js';
import { question } from '../ui/messages.js';

const references = () => S.build?.references ?? [];
const ids = () => [...(S.build?.bodies ?? []), ...references()].map(b => b.id);
const hiddenIds = () => ids().filter(isHidden);
/** @type {Record<string, [string, string[]]>} */
export const FILTERS = {
  all: ['anything', ['face', 'edge', 'vertex']],
  face: ['faces', ['face']],
  edge: ['edges', ['edge']],
  vertex: ['corners', ['vertex']],
};
export const filter = { now: 'all' };
let look = 'edges',
  open = false;

/** @param {string} id @param {string} label @param {string[][]} options @param {string} now
 @param {(value: string) => void} change */
const chosen = (id, label, options, now, change) => {
  const s = html(
    'select',
    { id, 'aria-label': label, onchange: () => change(s.value) },
    ...options.map(([v, w]) => html('option', { value: v, selected: v === now }, w)),
  );
  return s;
};
/** @param {string} label @param {string | undefined} colour @param {(colour: string) => void} paint */
export const colourBox = (label, colour, paint) => {
  const box = html('input', {
    type: 'color',
    value: colour ?? '#d9cfbb',
    'aria-label': label,
    title: label,
    onchange: () => paint(box.value),
  });
  return box;
};
/** @param {object} where @param {string} colour */
export const paint = (where, colour) => edit({ kind: 'paint', part: S.partId, colour, ...where }).catch(() => {});

/** @param {Told.ReferenceFacts} r */
function referenceRow(r) {
  const title = part().steps.find(s => s.id === r.id)?.title ?? r.id,
    box = html('input', {
      type: 'checkbox',
      'aria-label': `Show ${title}`,
      onchange: () => {
        setHidden(box.checked ? hiddenIds().filter(h => h !== r.id) : [...hiddenIds(), r.id]);
        fill();
      },
    });
  box.checked = !isHidden(r.id);
  return html(
    'li',
    { class: isHidden(r.id) ? 'gone' : null },
    box,
    html('span', { title: `${r.triangles} triangles${r.closed ? '' : ', not closed'}` }, title),
    html('small', { class: 'num' }, `${r.triangles} △`),
  );
}
/** @param {string} id */
async function rename(id) {
  const to = await question(
    'Name of this body',
    'It goes into files, into the list and onto the hand-in sheet. Empty: back to the step that made it.',
    [['ok', 'Name it']],
    part().bodyNames?.[id] ?? '',
  );
  if (to !== null) await edit({ kind: 'rename_body', part: S.partId, body: id, name: to }).catch(() => {});
}
// two clicks on the same name; the list may have been filled again in between
/** @type {{ id: string | null, at: number }} */
let lastName = { id: null, at: 0 };
$('bodies-readout').addEventListener('click', event => {
  const id = targetOf(event).closest('[data-body-name]')?.dataset.bodyName;
  if (!id) return;
  const again = lastName.id === id && performance.now() - lastName.at < 450;
  lastName = again ? { id: null, at: 0 } : { id, at: performance.now() };
  if (again) rename(id);
});
/** @param {string} id */
function bodyRow(id) {
  const box = html('input', {
    type: 'checkbox',
    'aria-label': `Show ${titleOfBody(id)}`,
    onchange: () => {
      setHidden(box.checked ? hiddenIds().filter(h => h !== id) : [...hiddenIds(), id]);
      fill();
    },
  });
  box.checked = !isHidden(id);
  const own = built().paints?.find(p => p.body === id && p.face === null);
  return html(
    'li',
    { class: isHidden(id) ? 'gone' : null },
    box,
    html(
      'button',
      {
        class: 'nameit',
        type: 'button',
        title: `${titleOfBody(id)}: double-click or F2 to name it`,
        'data-body-name': id,
        onkeydown: (/** @type {KeyboardEvent} */ e) => {
          if (e.key === 'F2' || e.key === 'Enter') {
            e.preventDefault();
            rename(id);
          }
        },
      },
      titleOfBody(id),
    ),
    colourBox(`Colour of ${titleOfBody(id)}`, own?.colour, c => paint({ body: id }, c)),
    ...(own
      ? [
          html(
            'button',
            { class: 'fix', type: 'button', title: 'Back to the plain colour', onclick: () => paint({ body: id }, '') },
            'plain',
          ),
        ]
      : []),
    ...(ids().length > 1
      ? [
          html(
            'button',
            {
              class: 'fix',
              type: 'button',
              title: 'Show this body only',
              onclick: () => {
                setHidden(ids().filter(o => o !== id));
                fill();
              },
            },
            'only',
          ),
          ...(part().sort === 'part' && !built().bodies.find(b => b.id === id)?.brought
            ? [
                html(
                  'button',
                  {
                    class: 'fix',
                    type: 'button',
                    title:
                      `Make a part of it: ${titleOfBody(id)} with its steps as a part of its own, ` +
                      'brought back here',
                    onclick: () => partOfBody(id),
                  },
                  'part',
                ),
              ]
            : []),
        ]
      : []),
  );
}
function fill() {
  const all = ids(),
    rows = datumRows();
  $('bodies-panel').hidden = !(all.length || rows.length) || S.mode === 'sketch';
  const details = html(
    'details',
    {
      class: 'shows',
      ontoggle: () => {
        open = details.open;
      },
    },
    html('summary', {}, `what shows (${all.length + rows.length})`),
    html(
      'ul',
      { class: 'bodies' },
      ...(S.build?.bodies ?? []).map(b => bodyRow(b.id)),
      ...references().map(referenceRow),
      ...rows,
    ),
    ...(hiddenIds().length
      ? [
          html(
            'button',
            {
              class: 'fix',
              type: 'button',
              onclick: () => {
                setHidden([]);
                fill();
              },
            },
            'show all bodies',
          ),
        ]
      : []),
  );
  details.open = open || all.length > 1;
  $('bodies-readout').replaceChildren(
    html(
      'label',
      { class: 'row2' },
      html('span', {}, 'look'),
      chosen(
        'look',
        'How solids look',
        Object.entries(LOOKS).map(([k, l]) => [k, l.word]),
        look,
        v => {
          look = v;
          setLook(v);
        },
      ),
    ),
    html(
      'label',
      { class: 'row2' },
      html('span', {}, 'pick'),
      chosen(
        'pick-filter',
        'What can be picked',
        Object.entries(FILTERS).map(([k, [w]]) => [k, w]),
        filter.now,
        v => {
          filter.now = v;
        },
      ),
    ),
    html(
      'label',
      { class: 'row2' },
      html('span', {}, 'turn'),
      chosen(
        'turning',
        'What the view is turned with',
        Object.entries(WAYS).map(([k, w]) => [k, w.word]),
        turning.now,
        turnWith,
      ),
    ),
    ...sectionControls(),
    details,
  );
}
on('build', fill);
on('model', fill);
on('mode', fill);
on('view-panel', fill);
on('turning-asked', () => sought('turning')?.focus());
