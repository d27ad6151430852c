// The Bench: brings its modules together; picking in the solid view.
import { $, html, sought, targetOf } from './core/dom.js';
import { S, emit, may, on, part, stepKind, there } from './core/state.js';
import { edit, redo, undo } from './core/api.js';
import { build } from './core/building.js';
import { lostSome } from './core/kept.js';
import { during } from './core/rest.js';
import { add, camera, dot } from './view/camera.js';
import { fit, straightOn } from './view/controls.js';
import { chooseCut } from './view/cuts.js';
import { highlight, pointsOf, shown } from './view/scene.js';
import { cutUnder, under } from './view/under.js';
import { hint, question, say } from './ui/messages.js';
import './ui/keys.js';
import './ui/tour.js';
import { candidates } from './sketch/layer.js';
import './sketch/plot.js';
import { open } from './sketch/board.js';
import { thing } from './sketch/pointing.js';
import './sketch/boardkeys.js';
import { isPulling, openBar } from './steps/bar.js';
import { coming, isOpen, pickLater, picking } from './steps/filling.js';
import './steps/barkeys.js';
import { askAt, listenOn } from './steps/onthing.js';
import { pickSheet } from './steps/sheets.js';
import { choose, reveal } from './steps/list.js';
import './steps/handbook.js';
import './steps/parts.js';
import './steps/revisions.js';
import './sheet/paper.js';
import { nameOf, titleOfBody } from './steps/names.js';
import { withUnit } from './core/units.js';
import { FILTERS, colourBox, filter, paint } from './view/bodies.js';
import { cutAcross, sectionPlane } from './view/section.js';
import { asLeft } from './view/looking.js';
import { isListing, watchHolding } from './view/stack.js';
import { choose as chooseFile } from './exchange/bringin.js';
import './exchange/takeout.js';
import './prove/weigh.js';
import './prove/answers.js';
import './prove/exercise.js';
import './prove/measure.js';
import './prove/fit.js';
import './prove/partslist.js';
import './prove/seek.js';
import './showing/here.js';
import './vary/compare.js';
import './vary/flex.js';
import './vary/replay.js';
import './vary/tried.js';
import './vary/variants.js';
import './view/apart.js';
import { isMoving } from './view/byhand.js';

S.viewWidth = camera.width;
$('undo').addEventListener('click', undo);
$('redo').addEventListener('click', redo);
$('model-name').addEventListener('click', async () => {
  const to = await question('Rename this model', '', [['ok', 'Rename']], S.model.name);
  if (to?.trim() && to.trim() !== S.model.name) edit({ kind: 'rename_model', name: to.trim() }).catch(() => {});
});
$('units').addEventListener('change', () =>
  edit({ kind: 'set_units', units: $('units').value.split(' ')[0], fractions: $('units').value.includes(' ') }).catch(
    () => {},
  ),
);
on('model', () => {
  $('undo').disabled = !S.model.canUndo;
  $('redo').disabled = !S.model.canRedo;
  $('model-name').textContent = S.model.name;
  $('units').value = S.model.units + (S.model.fractions ? ' 1/64' : '');
});
for (const tool of document.querySelectorAll('[data-step].tool'))
  tool.addEventListener('click', () =>
    stepKind(tool.dataset.step).brought ? chooseFile() : openBar(tool.dataset.step),
  );

// a new sketch is drawn on at once
on('made', step => {
  if (stepKind(step.kind).drawn) open(step.id, true);
});

// a model without steps starts by asking for a plane, once; whoever drops that sees how else to begin
let first = true,
  asked = false;
function begin() {
  const empty = part().steps.length === 0 && S.mode === 'solid';
  if (empty && may('change') && !asked && !isOpen() && part().sort === 'part') openBar('sketch');
  asked = true;
  $('start').hidden = !empty || isOpen() || !may('change');
}
on('build', begin);
on('bar', begin);
// another part: the first solid of it is seen whole, an empty one asks for a plane
on('part', () => {
  first = true;
  asked = false;
  picked = [];
  highlight([], []);
});
for (const b of $('start').querySelectorAll('[data-begin]'))
  b.addEventListener('click', () => (stepKind(b.dataset.begin).brought ? chooseFile() : openBar(b.dataset.begin)));
// the first solid that is kept is seen whole; a preview is not it
on('shown', () => {
  if (first && S.build?.bodies.length) {
    first = false;
    if (!asLeft()) fit();
  }
});

// picking
/** @type {Hit[]} */
let picked = [];
/** @param {MouseEvent} event @returns {[number, number]} */
const at = event => {
  const b = $('view').getBoundingClientRect();
  return [event.clientX - b.left, event.clientY - b.top];
};
/** @param {Event} event */
const overView = event => targetOf(event).closest('canvas, #layer') || event.target === $('view');
/** @param {MeshFace} face @param {string} id */
const madeBy = (face, id) => face.made.some(m => m.by === id);
/** @param {Body} body @param {number} index */
const makersOf = (body, index) => part().steps.filter(s => madeBy(body.faces[index], s.id));
on('step-chosen', id => {
  picked = [];
  if (!id) {
    emit('picked');
    return;
  }
  highlight(
    [],
    shown.flatMap(item =>
      item.body.faces
        .map((f, index) => ({ ...item, what: 'face', index }))
        .filter(h => madeBy(h.body.faces[h.index], id)),
    ),
  );
});
// what a blank has picked stays lit while it is filled
const lit = () => (picking.marked ? picking.marked() : picked);
on('marked', () => highlight(picking.hot ? [picking.hot] : [], lit()));
// what is drawn over the view and takes clicks itself: a place, a line or a name always, a region where no face is
// nearer to the eye
const DRAWN = '#layer .pickable, #layer .hitpt, #layer .axisname';
/** @param {Event} event @param {Hit | undefined} hit @param {any} own */
function covers(event, hit, own = targetOf(event).closest(DRAWN)) {
  if (!own || !picking.takes) return false;
  const frame = candidates.list.find(c => c.id === own.dataset.region)?.frame;
  if (!frame || !hit?.point) return true;
  const [u, v] = camera.onPlane(frame, ...at(/** @type {MouseEvent} */ (event))),
    place = add(add(frame.origin, frame.x, u), frame.y, v);
  return dot(add(hit.point, place, -1), camera.normal()) < 1e-3 + 1 / camera.scale;
}
const takes = () => picking.takes ?? (isOpen() ? null : FILTERS[filter.now][1]);
$('view').addEventListener('pointermove', event => {
  if (S.mode !== 'solid' || event.buttons || isPulling() || isMoving() || isListing()) return;
  if (!overView(event) || !takes()) {
    highlight([], lit());
    $('snapnote').hidden = true;
    return;
  }
  const [x, y] = at(event),
    over = under(x, y, takes())[0],
    hit = covers(event, over) ? undefined : over;
  highlight(hit ? [hit] : [], lit());
  const note = $('snapnote');
  const cut = hit || picking.takes ? null : cutUnder(x, y);
  note.hidden = !hit && !cut;
  if (hit || cut) {
    note.textContent = hit ? nameOf(hit) : `cut of ${titleOfBody(cut.id)}, ${withUnit(cut.area, 6, 2)}`;
    note.style.left = `${Math.max(8, Math.min(x + 16, camera.width - note.offsetWidth - 10))}px`;
    note.style.top = `${y + 16}px`;
  }
});
$('view').addEventListener('pointerleave', () => {
  if (S.mode === 'solid') {
    highlight([], lit());
    $('snapnote').hidden = true;
  }
});
/** @type {any} */
let pressed = null,
  taken = false; // by the view: what is drawn over it does not take the same click
$('view').addEventListener('pointerdown', event => {
  taken = false;
  if (event.button === 0) pressed = at(event);
});
$('view').addEventListener(
  'click',
  event => {
    if (taken && targetOf(event).closest('#layer')) event.stopPropagation();
    taken = false;
  },
  true,
);
$('view').addEventListener('pointerup', event => {
  if (S.mode !== 'solid' || event.button !== 0 || !pressed || !overView(event) || isPulling()) return;
  const [x, y] = at(event);
  if (Math.hypot(x - pressed[0], y - pressed[1]) > 5) return;
  const more = coming();
  if (more) {
    // meant for what is still on its way: it is picked where it will be drawn
    taken = true;
    during(pickLater(more, () => pickAt(event, document.elementFromPoint(event.clientX, event.clientY))));
  } else pickAt(event);
});
/** @param {PointerEvent} event @param {Element | null} late what is drawn there by now */
function pickAt(event, late = null) {
  if (isListing()) return;
  const hit = takes() ? under(...at(event), takes())[0] : undefined,
    own = late?.closest(DRAWN);
  if (own && (!hit || covers(event, hit, own)))
    own.dispatchEvent(new MouseEvent('click', { clientX: event.clientX, clientY: event.clientY }));
  else if (takes() && !covers(event, hit)) {
    taken = Boolean(!late && hit && picking.takes);
    take(hit, event);
  }
}
/** @param {Hit | undefined} hit @param {any} event */
function take(hit, event) {
  if (picking.pick) {
    if (!hit) pickSheet(targetOf(event));
    else {
      const problem = picking.pick(hit);
      if (problem) hint(problem);
    }
    return;
  }
  /** @param {Hit} a */
  const same = a => hit && a.what === hit.what && a.index === hit.index && a.facts.key === hit.facts.key;
  if (!hit) picked = [];
  else if (event.shiftKey || event.ctrlKey || event.metaKey)
    picked = picked.some(same) ? picked.filter(p => !same(p)) : [...picked, hit];
  else picked = [hit];
  if (!hit) choose(null);
  emit('picked');
  if (!hit && event.clientX) showCut(cutUnder(...at(event)));
}
// the cut of one body, picked: what it measures
/** @param {any} cut */
function showCut(cut) {
  chooseCut(cut?.id ?? null);
  if (!cut) return;
  $('selection-panel').hidden = false;
  $('selection-title').textContent = 'Selected: cut';
  sought('measured')?.replaceChildren();
  $('selection-readout').replaceChildren(
    ...[
      [titleOfBody(cut.id), ''],
      ['area', withUnit(cut.area, 7, 2)],
      ['outline', withUnit(cut.outline, 7)],
    ].map(([a, b]) =>
      html('div', { class: 'row2', 'data-cut': a }, html('span', {}, a), html('span', { class: 'num' }, b)),
    ),
    html('button', { class: 'chip', type: 'button', onclick: () => straightOn(sectionPlane()) }, 'look straight on'),
  );
}
watchHolding($('view'), {
  at,
  say: nameOf,
  take,
  things: (x, y) => (S.mode === 'solid' && !isPulling() && takes() ? under(x, y, takes(), true) : []),
  light: hit => highlight(hit ? [hit] : [], lit()),
  more: (x, y) => (isOpen() ? null : () => askAt(x, y)),
});
listenOn({
  hit: (x, y) => under(x, y, FILTERS[filter.now][1])[0],
  pick: hit => take(hit, {}),
  drawn: event => thing(event),
});
S.selectedPoints = () => pointsOf(lit());
on('shown', () => {
  picked = [];
  emit('picked');
  emit('marked');
});
on('mode', () => {
  picked = [];
  highlight([], []);
  $('snapnote').hidden = true;
  if (S.mode === 'solid') begin();
});
on('picked', () => {
  S.picked = picked;
  chooseCut(null);
  highlight([], picked);
  $('selection-panel').hidden = !picked.length;
  if (!picked.length) return;
  const [first] = picked,
    what = first.what === 'vertex' ? 'corner' : first.what;
  $('selection-title').textContent = `Selected: ${picked.length === 1 ? what : `${picked.length} things`}`;
  const rows = [];
  for (const hit of picked.slice(0, 4)) {
    rows.push([nameOf(hit), '']);
  }
  const flat = picked.length === 1 && picked[0].what === 'face' ? picked[0].body.faces[picked[0].index] : null;
  const faces = picked.flatMap(h =>
    (h.what === 'face' ? [h.index] : h.what === 'edge' ? h.body.edges[h.index].faces : []).flatMap(i =>
      makersOf(h.body, i),
    ),
  );
  const makers = [...new Map(faces.map(s => [s.id, s])).values()];
  $('selection-readout').replaceChildren(
    ...rows.map(([a, b]) => html('div', { class: 'row2' }, html('span', {}, a), html('span', { class: 'num' }, b))),
    ...(makers.length
      ? [
          html(
            'p',
            { class: 'made' },
            'made by ',
            ...makers.map(s =>
              html(
                'button',
                { class: 'fix', type: 'button', title: 'Show this step in the list', onclick: () => reveal(s.id) },
                s.title,
              ),
            ),
          ),
        ]
      : []),
    ...(picked.length === 1 && picked[0].what === 'face'
      ? [
          html(
            'label',
            { class: 'row2' },
            html('span', {}, 'colour'),
            colourBox(
              'Colour of this face',
              S.build?.paints?.find(p => p.body === picked[0].facts.id && p.face === picked[0].index)?.colour,
              c => paint({ face: picked[0].body.faces[picked[0].index].pick }, c),
            ),
          ),
        ]
      : []),
    ...(flat?.frame
      ? [
          html(
            'button',
            { class: 'chip', type: 'button', onclick: () => cutAcross('face', there(flat.frame).normal) },
            'section along it',
          ),
          html('button', { class: 'chip', type: 'button', onclick: () => straightOn(flat.frame) }, 'look straight on'),
          html(
            'button',
            {
              class: 'chip',
              type: 'button',
              onclick: () =>
                edit({ kind: 'add_step', part: S.partId, step: 'sketch', fields: { plane: { face: flat.pick } } })
                  .then(() => open(part().steps[(part().now ?? part().steps.length) - 1].id, true))
                  .catch(() => {}),
            },
            'sketch here',
          ),
        ]
      : []),
  );
});

hint('');
begin();
build();
if (lostSome()) say('What this browser remembered could not be read: that begins anew.');
document.body.dataset.ready = '';
