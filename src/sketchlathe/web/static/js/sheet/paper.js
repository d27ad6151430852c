// The paper of a sheet over the view: drawn from what the build says, zoomed and shifted; a line is chosen on it.
import { $, html } from '../core/dom.js';
import { S, on, part, stepKind } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { complain, question } from '../ui/messages.js';
import { choose } from '../steps/list.js';
import { openBar } from '../steps/bar.js';
import { isOpen } from '../steps/filling.js';
import { openDrawer } from '../ui/drawers.js';

const paper = html('div', {
  class: 'paper',
  id: 'paper',
  tabindex: '0',
  role: 'group',
  hidden: true,
  'aria-label': 'The sheet: plus and minus zoom, arrow keys shift it, 0 shows all of it',
});
$('view').append(paper);
let at = { zoom: 1, x: 0, y: 0 },
  page = /** @type {any} */ (null);

const isSheet = () => part().sort === 'sheet';
/** @param {any} told */
function put(told) {
  paper.hidden = !isSheet();
  if (paper.hidden) {
    paper.replaceChildren();
    page = null;
    return;
  }
  if (!told) return;
  page = told;
  const svg = new DOMParser().parseFromString(told.svg, 'image/svg+xml').documentElement;
  svg.removeAttribute('width');
  svg.removeAttribute('height');
  paper.replaceChildren(document.importNode(svg, true));
  lay();
}
// how large the paper is at zoom 1, and its upper left corner then, px
function whole() {
  const box = paper.getBoundingClientRect(),
    k = Math.min((box.width - 60) / page.wide, (box.height - 250) / page.high);
  return { k, x: (box.width - k * page.wide) / 2, y: 84 + Math.max((box.height - 250 - k * page.high) / 2, 0) };
}
function lay() {
  const svg = /** @type {any} */ (paper.firstElementChild);
  if (!svg || !page) return;
  const { k, x, y } = whole();
  svg.style.width = `${k * page.wide * at.zoom}px`;
  svg.style.transform = `translate(${x + at.x}px, ${y + at.y}px)`;
}
/** @param {number} by @param {number} [px] @param {number} [py] */
function zoom(by, px, py) {
  const box = paper.getBoundingClientRect(),
    { x, y } = whole(),
    to = Math.min(Math.max(at.zoom * by, 0.5), 16),
    k = to / at.zoom,
    cx = px === undefined ? box.width / 2 : px - box.left,
    cy = py === undefined ? box.height / 2 : py - box.top;
  // what is under the pointer stays there
  at = { zoom: to, x: cx - k * (cx - x - at.x) - x, y: cy - k * (cy - y - at.y) - y };
  lay();
}
const all = () => {
  at = { zoom: 1, x: 0, y: 0 };
  lay();
};
for (const name of ['fit', 'quarter']) $(name).addEventListener('click', () => isSheet() && all());

on('build', () => put(S.build?.page));
on('tried', result => put(/** @type {any} */ (result).page));
on('bar', () => {
  if (!isOpen()) put(S.build?.page);
});
on('part', () => {
  all();
  put(null);
  openDrawer(isSheet() ? 'sheet' : 'draw');
});
if (isSheet()) openDrawer('sheet');
addEventListener('resize', lay);

paper.addEventListener('wheel', event => {
  event.preventDefault();
  event.stopPropagation();
  zoom(Math.exp(-event.deltaY / 400), event.clientX, event.clientY);
});
// the keys of the view are the paper's while it lies there
$('view').addEventListener(
  'keydown',
  event => {
    if (!isSheet() || (event.target !== paper && event.target !== $('view'))) return;
    const way = { ArrowLeft: [1, 0], ArrowRight: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (way) {
      at.x += 40 * way[0];
      at.y += 40 * way[1];
      lay();
    } else if (event.key === '+' || event.key === '=') zoom(1.25);
    else if (event.key === '-') zoom(0.8);
    else if (event.key === '0') all();
    else return;
    event.preventDefault();
    event.stopPropagation();
  },
  true,
);

// a view is moved by its lines, the paper by what is empty
/** @param {EventTarget | null} target */
const lineAt = target => /** @type {any} */ (target)?.closest?.('[data-line]')?.dataset.line;
/** @param {any} event */
const placeOf = event => {
  const { k, x, y } = whole(),
    box = paper.getBoundingClientRect(),
    scale = k * at.zoom;
  return [(event.clientX - box.left - x - at.x) / scale, page.high - (event.clientY - box.top - y - at.y) / scale];
};
// the view that a place of the paper lies in
/** @param {number[]} p */
const viewAt = p =>
  Object.entries(page.views).find(
    ([, b]) => p[0] > b[0] - 1 && p[0] < b[2] + 1 && p[1] > b[1] - 1 && p[1] < b[3] + 1,
  )?.[0];
paper.addEventListener('pointerdown', event => {
  event.stopPropagation();
  if (!page || event.button > 1) return;
  const start = [event.clientX, event.clientY],
    from = { ...at },
    hit = lineAt(event.target),
    view = viewAt(placeOf(event)),
    own = event.button === 0 && view && !isOpen() ? view : '';
  let far = false;
  /** @param {any} to */
  const move = to => {
    const dx = to.clientX - start[0],
      dy = to.clientY - start[1];
    far ||= Math.hypot(dx, dy) > 4;
    if (!far) return;
    if (own) shift(own, dx, dy);
    else {
      at.x = from.x + dx;
      at.y = from.y + dy;
      lay();
    }
  };
  /** @param {any} up */
  const end = up => {
    paper.removeEventListener('pointermove', move);
    paper.removeEventListener('pointerup', end);
    paper.removeEventListener('pointercancel', end);
    if (far && own) {
      if (up.type === 'pointerup') drop(own, up.clientX - start[0], up.clientY - start[1]);
      else put(page);
    } else if (!far && (hit || view)) choose(hit || view || '');
    else if (!far) choose('');
  };
  paper.setPointerCapture(event.pointerId);
  paper.addEventListener('pointermove', move);
  paper.addEventListener('pointerup', end);
  paper.addEventListener('pointercancel', end);
});
paper.addEventListener('click', event => event.stopPropagation());
paper.addEventListener('dblclick', event => {
  event.stopPropagation();
  // the pointer is held by the paper: what is under it is asked for
  const under = document.elementFromPoint(event.clientX, event.clientY),
    size = under?.closest('[data-number]');
  if (size) {
    changeSize(size).catch(problem => complain(problem.message));
    return;
  }
  const id = lineAt(under) || viewAt(placeOf(event));
  const step = part().steps.find(s => s.id === id);
  if (step) openBar(step.kind, step.id);
});
// a number of the part is changed where it is read
/** @param {any} text */
async function changeSize(text) {
  const { step: id, number } = text.dataset,
    owner = S.model.parts.find(p => p.steps.some(s => s.id === id)),
    step = owner?.steps.find(s => s.id === id);
  if (!step) return;
  const drawn = stepKind(step.kind).drawn,
    own = drawn ? (await ask(`/sketches/${id}`)).dimensions.find((/** @type {any} */ d) => d.id === number) : null,
    before = drawn ? own?.value : step.fields[number];
  const to = await question(`${text.textContent} of ${step.title}`, '', [['ok', 'Change it']], before ?? '');
  if (to === null || !to.trim() || to.trim() === before) return;
  await edit(
    drawn
      ? { kind: 'set_dimension', sketch: id, id: number, value: to.trim() }
      : { kind: 'set_fields', step: id, fields: { [number]: to.trim() } },
  );
}
/** @param {string} id @param {number} dx @param {number} dy */
function shift(id, dx, dy) {
  for (const node of paper.querySelectorAll(`[data-line="${id}"]`))
    /** @type {any} */ (node).style.translate = `${dx / (whole().k * at.zoom)}px ${dy / (whole().k * at.zoom)}px`;
}
/** @param {string} id @param {number} dx @param {number} dy */
function drop(id, dx, dy) {
  const scale = whole().k * at.zoom,
    [x, y] = page.moved[id],
    mm = (/** @type {number} */ v) => `${Math.round(v * 10) / 10} mm`;
  edit({ kind: 'set_fields', step: id, fields: { x: mm(x + dx / scale), y: mm(y - dy / scale) } }).catch(() =>
    put(page),
  );
}

// what is chosen in the list is marked on the paper
on('step-chosen', id => {
  for (const node of paper.querySelectorAll('.chosen')) node.classList.remove('chosen');
  if (id && isSheet()) for (const node of paper.querySelectorAll(`[data-line="${id}"]`)) node.classList.add('chosen');
});
