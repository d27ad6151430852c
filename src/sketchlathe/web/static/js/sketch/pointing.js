// The pointer over the open sketch: drawing, selecting, dragging, box selection.
import { $, svg, targetOf } from '../core/dom.js';
import { S, emit, openSketch, there } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { camera } from '../view/camera.js';
import { complain, hint } from '../ui/messages.js';
import * as acts from './acts.js';
import { talk } from './channel.js';
import { inBox, openThing, select, twice } from './choosing.js';
import * as dimension from './dimension.js';
import { holding } from './holding.js';
import { draft, drawDraft, light, redraw } from './layer.js';
import { passes } from './readouts.js';
import * as taking from './taking.js';
import * as tool from './tool.js';

const view = $('view');
const drawing = () => S.mode === 'sketch';

/** @param {MouseEvent} event @returns {[number, number]} */
const at = event => {
  const b = view.getBoundingClientRect();
  return [event.clientX - b.left, event.clientY - b.top];
};
/** @param {MouseEvent} event */
const onPlane = event => camera.onPlane(S.frame, ...at(event));
// what is under the pointer, topmost first; a tag that lies over a curve does not hide it
/** @param {MouseEvent} event */
const under = event =>
  document
    .elementsFromPoint(event.clientX, event.clientY)
    .flatMap(n => n.closest?.('[data-ref], [data-id]') ?? [])
    .map(n => there(n.dataset.ref ?? n.dataset.id))
    .filter(passes);
/** @param {string} ref */
const isMark = ref => openSketch().marks.some(m => m.id === ref);
/** @param {MouseEvent} event */
export const thing = event => {
  const all = under(event);
  return (isMark(all[0]) && all.find(r => !isMark(r) && !r.endsWith('_axis'))) || (all[0] ?? null);
};
/** @type {any} */
let down = null;
/** @type {number[] | null} */
let swinging = null;
const CHROME = '.tray, .bar, .sizes, .typed, .dial, .toast-zone, .busy-zone, .options';

view.addEventListener('pointerdown', event => {
  if (!drawing() || event.button !== 0 || targetOf(event).closest(CHROME)) return;
  view.focus({ preventScroll: true });
  if (tool.active()) {
    tool.move(onPlane(event), at(event), event.altKey);
    swinging = tool.canSwing() ? at(event) : null;
    return;
  }
  if (acts.active()) {
    acts.down(thing(event), onPlane(event), at(event));
    return;
  }
  down = {
    pixel: at(event),
    plane: onPlane(event),
    ref: thing(event),
    shift: event.shiftKey || event.ctrlKey || event.metaKey,
    moved: false,
  };
  if (!dimension.active()) view.setPointerCapture(event.pointerId);
});
view.addEventListener('pointermove', event => {
  if (!drawing()) return;
  S.viewWidth = camera.width;
  const p = onPlane(event),
    pixel = at(event);
  if (tool.active()) {
    if (targetOf(event).closest(CHROME)) return;
    if (swinging && event.buttons & 1 && Math.hypot(pixel[0] - swinging[0], pixel[1] - swinging[1]) > 8) {
      swinging = null;
      tool.swing(true);
    }
    tool.move(p, pixel, event.altKey);
    return;
  }
  if (acts.active()) {
    if (targetOf(event).closest(CHROME)) return;
    const ref = thing(event);
    setHot(ref);
    acts.move(ref, p, pixel, event.altKey);
    return;
  }
  if (dimension.active()) {
    dimension.move(p);
    setHot(thing(event));
    return;
  }
  if (!down) {
    setHot(targetOf(event).closest(CHROME) ? null : thing(event));
    return;
  }
  if (!down.moved && Math.hypot(pixel[0] - down.pixel[0], pixel[1] - down.pixel[1]) < 4) return;
  if (!down.moved) beginDrag();
  dragTo(p, pixel);
});
/** @param {string | null} ref */
function setHot(ref) {
  if (ref === S.hot) return;
  S.hot = ref;
  view.style.cursor = ref ? 'pointer' : '';
  light(ref);
}
/** @param {string | null} ref */
const draggable = ref => ref && openSketch().curves.some(c => c.id === ref.split('.')[0]);
function beginDrag() {
  down.moved = true;
  if (draggable(down.ref)) {
    down.kind = 'geometry';
    const of = openSketch()
      .curves.flatMap(c => c.points)
      .find(q => q.ref === down.ref);
    talk({ do: 'grab', ref: down.ref, at: of ? of.at : down.plane }, answer => {
      if (answer.message) complain(answer.message);
    });
  } else down.kind = openSketch().dimensions.some(d => d.id === down.ref) ? 'label' : 'box';
}
// what moved in a drag, put into the sketch on the screen
/** @param {any} moved */
function follow({ curves, marks, dimensions }) {
  for (const c of openSketch().curves) {
    const now = curves[c.id];
    if (!now) continue;
    [c.path] = now;
    c.samples = undefined;
    c.points.forEach((q, i) => {
      q.at = now[1][i];
    });
    Object.keys(c.sizes).forEach((n, i) => {
      c.sizes[n] = now[2][i];
    });
  }
  for (const [i, at, normal] of marks) if (openSketch().marks[i]) Object.assign(openSketch().marks[i], { at, normal });
  for (const d of openSketch().dimensions) {
    const now = dimensions[d.id];
    if (now) {
      [d.points, d.label] = now;
      if (now[2] !== null) [, , d.text] = now;
    }
  }
  openSketch().regions = [];
}
/** @param {[number, number]} p @param {number[]} pixel */
function dragTo(p, pixel) {
  if (down.kind === 'geometry')
    talk({ do: 'to', at: p }, answer => {
      if (answer.view) {
        follow(answer.view);
        redraw();
      }
    });
  if (down.kind === 'label') {
    const d = there(openSketch().dimensions.find(x => x.id === down.ref));
    d.label = p;
    d.laid = true;
    down.label = p;
    redraw();
  }
  if (down.kind === 'box') {
    const [a, b] = [down.pixel, pixel],
      touch = b[0] < a[0];
    down.box = [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])];
    down.touch = touch;
    draft.nodes = [
      svg('rect', {
        class: `boxsel ${touch ? 'touch' : ''}`,
        x: down.box[0],
        y: down.box[1],
        width: down.box[2] - down.box[0],
        height: down.box[3] - down.box[1],
      }),
      svg(
        'text',
        { x: down.box[0] + 4, y: down.box[1] - 4, class: 'sheetname' },
        touch ? 'what it touches' : 'what is wholly inside',
      ),
    ];
    drawDraft();
  }
}
view.addEventListener('pointerup', event => {
  if (!drawing() || event.button !== 0) return;
  if (tool.active()) {
    if (!targetOf(event).closest(CHROME)) {
      tool.move(onPlane(event), at(event), event.altKey);
      tool.place();
      swinging = null;
    }
    return;
  }
  if (acts.active()) {
    if (!targetOf(event).closest(CHROME)) acts.up(thing(event), onPlane(event), at(event));
    return;
  }
  if (!down) return;
  const was = down;
  down = null;
  if (dimension.active()) {
    dimension.click(was.ref, onPlane(event));
    return;
  }
  if (taking.active()) {
    draft.nodes = [];
    taking.take(was.kind === 'box' ? inBox(was) : was.ref ? [was.ref] : []);
    redraw();
    return;
  }
  if (was.kind === 'geometry') dropGeometry();
  else if (was.kind === 'label')
    edit({ kind: 'set_dimension', sketch: openSketch().id, id: was.ref, label: was.label }).catch(() => {});
  else if (was.kind === 'box') {
    draft.nodes = [];
    select(inBox(was), was.shift);
  } else if (holding.active()) holding.click(was.ref);
  else if (twice(was.ref)) openThing(was.ref);
  else select(was.ref ? [was.ref] : [], was.shift);
});
function dropGeometry() {
  talk({ do: 'drop' }, async ({ coordinates, message }) => {
    if (message) complain(message);
    if (coordinates && Object.keys(coordinates).length)
      await edit({ kind: 'move_geometry', sketch: openSketch().id, curves: coordinates }).catch(async () => {
        S.sketch = await ask(`/sketches/${openSketch().id}`);
        emit('sketch');
      });
    else {
      S.sketch = await ask(`/sketches/${openSketch().id}`);
      emit('sketch');
      hint('That is held by its constraints and does not move.');
    }
  });
}
