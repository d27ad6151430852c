// The open sketch: opening and leaving it, selecting, dragging, box selection, keys, readouts.
import { $, html, svg, targetOf } from '../core/dom.js';
import { S, emit, frameOf, on, openSketch, step, there } from '../core/state.js';
import { ask, edit, restore, settled } from '../core/api.js';
import { build } from '../core/building.js';
import { camera } from '../view/camera.js';
import { lookBack, straightOn } from '../view/controls.js';
import { complain, hint, question, say } from '../ui/messages.js';
import { onKey } from '../ui/keys.js';
import { closeChannel, openChannel, talk } from './channel.js';
import * as acts from './acts.js';
import * as dimension from './dimension.js';
import { draft, drawDraft, light, redraw, setFaint } from './layer.js';
import { stopSwing } from './helping.js';
import { constrain, holding } from './holding.js';
import { passes, readouts } from './readouts.js';
import * as taking from './taking.js';
import * as tool from './tool.js';

export { constrain };

const view = $('view');
const drawing = () => S.mode === 'sketch';
let before = null; // the revision from which Drop can return
let fresh = false; // whether the open sketch was only just begun
let looked = null; // from where the part was looked at before

export async function open(id, made = false) {
  await settled();
  S.sketch = await ask(`/sketches/${id}`);
  for (let i = 0; i < 50 && !frameOf(id); i += 1) {
    await build();
    if (!frameOf(id)) await new Promise(r => setTimeout(r, 100));
  }
  S.frame = frameOf(id);
  if (!S.frame) {
    S.sketch = null;
    complain('This sketch has no plane to lie on yet; see its step.');
    return;
  }
  before = S.model.revision;
  fresh = made;
  looked = { az: camera.az, el: camera.el };
  S.mode = 'sketch';
  S.selection = [];
  S.fights = [];
  S.hot = null;
  setFaint([]);
  view.classList.add('drawing');
  $('tray-solid').hidden = true;
  $('tray-sketch').hidden = false;
  $('start').hidden = true;
  emit('mode');
  sketchBar();
  openChannel();
  taking.prepare();
  straightOn();
  readouts();
  hint('Draw with a tool below, or drag what is free. Start from the origin.');
  view.focus({ preventScroll: true });
}
function sketchBar() {
  const bar = $('bar'),
    s = there(step(openSketch().id));
  bar.hidden = false;
  bar.dataset.for = 'sketch';
  bar
    .querySelector('.row1')
    .replaceChildren(
      html('b', {}, s.title),
      `on the ${s.words.plane}`,
      html(
        'button',
        {
          class: 'btn k',
          type: 'button',
          id: 'keep-sketch',
          'data-chord': 'ok',
          'data-name': 'Keep the sketch',
          title: 'Keep (o k): leave the sketch as it is',
          onclick: keep,
        },
        'Keep ⏎',
      ),
      html(
        'button',
        {
          class: 'btn',
          type: 'button',
          id: 'drop-sketch',
          title: 'Drop: back to what was before it was opened',
          onclick: drop,
        },
        'Drop',
      ),
    );
  bar.querySelector('.picks').replaceChildren();
  bar.querySelector('.why').replaceChildren();
}
export async function keep() {
  await settled();
  leave();
  build();
}
async function drop() {
  await settled();
  if (!S.sketch) return;
  const { id } = S.sketch;
  if (S.model.revision !== before) {
    const yes = await question(
      'Drop what was drawn?',
      'The sketch goes back to what it was before it was opened. What was drawn stays among the revisions.',
      [['yes', 'Drop']],
    );
    if (!yes) return;
    if (!fresh) await restore(before);
  }
  // one that was only just begun goes as a whole: no empty step stays behind
  leave();
  if (fresh && step(id))
    await edit({ kind: 'delete_step', step: id, with_users: false, leave_users: true }).catch(() => {});
}
function leave() {
  tool.stop();
  acts.stop();
  taking.stop();
  dimension.stop();
  holding.stop();
  stopSwing();
  closeChannel();
  lookBack(looked);
  S.sketch = null;
  S.frame = null;
  S.mode = 'solid';
  S.selection = [];
  draft.nodes = [];
  view.classList.remove('drawing');
  $('tray-solid').hidden = false;
  $('tray-sketch').hidden = true;
  $('bar').hidden = true;
  $('sketch-panel').hidden = true;
  $('selection-panel').hidden = true;
  emit('mode');
  redraw();
  hint('');
  lastClick = { ref: null, at: 0 };
}
on('sketch-gone', () => {
  if (!S.sketch) return;
  hint('');
  leave();
  say('The sketch was taken back; Redo brings it again.', [['Redo', () => $('redo').click()]]);
});

async function remove() {
  const ids = S.selection.map(r => r.split('.')[0]).filter(r => r !== 'origin' && !r.endsWith('_axis'));
  if (!ids.length) {
    hint('Select what is to be deleted first.');
    return;
  }
  S.selection = [];
  await edit({ kind: 'delete_from_sketch', sketch: openSketch().id, ids: [...new Set(ids)] }).catch(() => {});
}
async function toggleConstruction() {
  const ids = S.selection.map(r => r.split('.')[0]).filter(id => openSketch().curves.some(c => c.id === id));
  if (!ids.length) {
    tool.construction.on = !tool.construction.on;
    $('construction').setAttribute('aria-pressed', String(tool.construction.on));
    hint(tool.construction.on ? 'What is drawn now is construction only' : 'What is drawn now counts');
    return;
  }
  const now = there(openSketch().curves.find(c => c.id === ids[0])).construction;
  await edit({ kind: 'set_construction', sketch: openSketch().id, ids: [...new Set(ids)], construction: !now }).catch(
    () => {},
  );
}

const calm = () => {
  tool.stop();
  acts.stop();
  taking.stop();
  dimension.stop();
  holding.stop();
  stopSwing();
};
$('take').addEventListener('click', () => {
  const on = taking.active();
  calm();
  if (!on) taking.start();
  view.focus({ preventScroll: true });
});
for (const button of document.querySelectorAll('[data-tool]'))
  button.addEventListener('click', () => {
    const same = tool.active()?.family === button.dataset.family && !button.classList.contains('only-chord');
    calm();
    if (!same) tool.start(button.dataset.tool);
    view.focus({ preventScroll: true });
  });
for (const button of document.querySelectorAll('[data-act]'))
  button.addEventListener('click', () => {
    const chosen = S.selection;
    calm();
    S.selection = chosen;
    view.focus({ preventScroll: true });
    acts.start(Number(button.dataset.act));
  });
$('dimension-tool').addEventListener('click', () => {
  const on = dimension.active(),
    chosen = S.selection;
  calm();
  S.selection = chosen;
  if (!on) dimension.start();
  view.focus({ preventScroll: true });
});
$('copy').addEventListener('click', acts.copy);
$('paste').addEventListener('click', acts.paste);
$('chain').addEventListener('click', chain);
async function chain() {
  const id = S.selection.map(r => r.split('.')[0]).find(r => openSketch().curves.some(c => c.id === r));
  if (!id) {
    hint('Select one curve of the chain first.');
    return;
  }
  select(await ask(`/sketches/${openSketch().id}/chain`, { on: [id] }), false);
}
for (const button of document.querySelectorAll('[data-constraint]'))
  button.addEventListener('click', () => {
    const chosen = S.selection;
    $('constrain-menu').open = false;
    calm();
    S.selection = chosen;
    constrain(button.dataset.constraint);
    view.focus({ preventScroll: true });
  });
$('delete').addEventListener('click', remove);
$('construction').addEventListener('click', toggleConstruction);

// the pointer
const at = event => {
  const b = view.getBoundingClientRect();
  return [event.clientX - b.left, event.clientY - b.top];
};
const onPlane = event => camera.onPlane(S.frame, ...at(event));
// what is under the pointer, topmost first; a tag that lies over a curve does not hide it
const under = event =>
  document
    .elementsFromPoint(event.clientX, event.clientY)
    .flatMap(n => n.closest?.('[data-ref], [data-id]') ?? [])
    .map(n => there(n.dataset.ref ?? n.dataset.id))
    .filter(passes);
const isMark = ref => openSketch().marks.some(m => m.id === ref);
const thing = event => {
  const all = under(event);
  return (isMark(all[0]) && all.find(r => !isMark(r) && !r.endsWith('_axis'))) || (all[0] ?? null);
};
let down = null,
  swinging = null;
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
  down = { pixel: at(event), plane: onPlane(event), ref: thing(event), shift: event.shiftKey, moved: false };
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
function setHot(ref) {
  if (ref === S.hot) return;
  S.hot = ref;
  view.style.cursor = ref ? 'pointer' : '';
  light(ref);
}
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
  if (was.kind === 'geometry') drop_geometry();
  else if (was.kind === 'label')
    edit({ kind: 'set_dimension', sketch: openSketch().id, id: was.ref, label: was.label }).catch(() => {});
  else if (was.kind === 'box') {
    draft.nodes = [];
    select(inBox(was), was.shift);
  } else if (holding.active()) holding.click(was.ref);
  else if (twice(was.ref)) openThing(was.ref);
  else select(was.ref ? [was.ref] : [], was.shift);
});
function drop_geometry() {
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
function select(refs, adding) {
  if (!adding) S.selection = refs;
  else
    for (const r of refs)
      S.selection = S.selection.includes(r) ? S.selection.filter(x => x !== r) : [...S.selection, r];
  emit('selection');
}
function inBox({ box, touch }) {
  const inside = r => r.left >= box[0] && r.right <= box[2] && r.top >= box[1] && r.bottom <= box[3],
    meets = r => r.left <= box[2] && r.right >= box[0] && r.top <= box[3] && r.bottom >= box[1];
  const off = view.getBoundingClientRect();
  return [...document.querySelectorAll('#layer-body .hit[data-ref]')]
    .filter(n => !n.dataset.ref?.endsWith('_axis'))
    .filter(n => {
      const r = n.getBoundingClientRect(),
        m = { left: r.left - off.left, right: r.right - off.left, top: r.top - off.top, bottom: r.bottom - off.top };
      return touch ? meets(m) : inside(m);
    })
    .map(n => n.dataset.ref);
}
// a second click soon after the first, on the same thing: the browser's own double click dies where a redraw replaces
// the node
let lastClick = { ref: null, at: 0 };
function twice(ref) {
  const again = ref && ref === lastClick.ref && performance.now() - lastClick.at < 450;
  lastClick = again ? { ref: null, at: 0 } : { ref, at: performance.now() };
  return again;
}
function openThing(ref) {
  if (openSketch().dimensions.some(d => d.id === ref)) dimension.change(ref);
  else if (openSketch().curves.some(c => c.id === ref)) chain();
}

// the keyboard: [ and ] walk through everything, Enter selects
let walking = -1;
function walk(by) {
  if (tool.active()) {
    tool.walk(by);
    return;
  }
  const all = [
    'origin',
    'x_axis',
    'y_axis',
    ...openSketch().curves.flatMap(c => [c.id, ...c.points.map(p => p.ref)]),
    ...openSketch().dimensions.map(d => d.id),
    ...openSketch().marks.map(m => m.id),
  ];
  walking = (walking + by + all.length) % all.length;
  const hot = all[walking];
  S.hot = hot;
  const c = openSketch().curves.find(x => x.id === hot.split('.')[0]),
    other = openSketch().dimensions.find(d => d.id === hot) ?? openSketch().marks.find(m => m.id === hot);
  const fixed = { origin: 'the origin', x_axis: 'the horizontal axis', y_axis: 'the vertical axis' }[hot],
    said = c?.word ?? (other ? `${'word' in other ? other.word : ''} ${other.text}`.trim() : fixed),
    point = hot.includes('.') ? `${hot.split('.')[1]} of ` : '';
  hint(`${point}${said}: Enter to ${dimension.active() ? 'dimension it' : 'select it'}`);
  light(S.hot);
}
onKey(event => {
  if (!drawing() || targetOf(event).closest('dialog')) return false;
  const writing = targetOf(event).matches('input, select');
  if (writing) return false;
  if (event.key === 'Escape') {
    if (dimension.back() || holding.back() || acts.back() || taking.back() || tool.back()) {
      return true;
    }
    if (S.selection.length) {
      select([], false);
      return true;
    }
    return false;
  }
  if (event.key === 'Delete' || event.key === 'Backspace') {
    remove();
    return true;
  }
  if (event.key === '`') {
    tool.cycleSnap();
    return true;
  }
  if (tool.typing(event)) return true;
  if ((event.ctrlKey || event.metaKey) && event.key === 'c') {
    acts.copy();
    return true;
  }
  if ((event.ctrlKey || event.metaKey) && event.key === 'v') {
    acts.paste();
    return true;
  }
  if ((event.ctrlKey || event.metaKey) && event.key === 'a') {
    select(
      openSketch()
        .curves.filter(c => passes(c.id))
        .map(c => c.id),
      false,
    );
    hint(`${S.selection.length} selected`);
    return true;
  }
  if (event.key === ']' || event.key === '[') {
    walk(event.key === ']' ? 1 : -1);
    return true;
  }
  if (event.key === 'Enter' && event.target === view) {
    if (dimension.active()) {
      if (S.hot && dimension.click) {
        const ref = S.hot;
        S.hot = null;
        dimension.click(ref, [openSketch().size * 0.4, -openSketch().size * 0.2]);
        return true;
      }
      return dimension.nudge();
    }
    if (acts.active()) return acts.enter(S.hot);
    if (holding.active() && S.hot) {
      holding.click(S.hot);
      return true;
    }
    if (tool.active()) {
      tool.enter();
      return true;
    }
    if (S.hot) {
      const d = openSketch().dimensions.find(x => x.id === S.hot);
      if (d && S.selection.includes(d.id)) dimension.change(d.id);
      else select([S.hot], event.shiftKey || S.selection.length > 0);
      return true;
    }
    keep();
    return true;
  }
  return false;
});
