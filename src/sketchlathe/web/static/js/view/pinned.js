// A drawing pinned over the view: moved by its head, made larger at its corner, zoomed and shifted inside, put away.
import { $, html } from '../core/dom.js';
import { recall, remember } from '../core/kept.js';

const STEP = 24;
/** @type {any} */
let pinned = null;
let at = recall('pinned', { x: 14, y: 116, w: 420, h: 320, zoom: 1, px: 0, py: 0, turn: 0 });

/** Pin a drawing, or put it away. @param {string} src */
export function toggle(src) {
  if (pinned) return away();
  const picture = html('img', { src, alt: 'The drawing of the exercise', draggable: 'false' }),
    sheet = html(
      'div',
      {
        class: 'sheet',
        tabindex: '0',
        role: 'group',
        'aria-label': 'The drawing: plus and minus zoom, arrow keys shift it',
      },
      picture,
    );
  const button = (/** @type {string} */ word, /** @type {string} */ title, /** @type {() => void} */ act) =>
    html('button', { class: 'fix', type: 'button', title, onclick: act }, word);
  const head = html(
    'div',
    {
      class: 'head',
      tabindex: '0',
      role: 'group',
      'aria-label': 'Drawing: arrow keys move it, with Shift they make it larger',
    },
    html('b', {}, 'Drawing'),
    button('whole', 'All of the drawing', () => set({ zoom: 1, px: 0, py: 0 })),
    button('turn', 'Turn it by a quarter', () => set({ turn: (at.turn + 90) % 360, px: 0, py: 0 })),
    button('put away', 'Put the drawing away (w p)', away),
  );
  pinned = html(
    'section',
    { class: 'pinned', id: 'pinned', 'aria-label': 'Drawing of the exercise' },
    head,
    sheet,
    html('div', { class: 'corner', 'aria-hidden': 'true' }),
  );
  $('view').append(pinned);
  for (const kind of ['pointerdown', 'click', 'dblclick', 'contextmenu', 'wheel', 'keydown'])
    pinned.addEventListener(kind, (/** @type {any} */ event) => {
      if (kind === 'keydown' && event.key === 'Escape') away();
      if (kind !== 'keydown' || event.target.closest('.head, .sheet')) event.stopPropagation();
    });
  dragged(head, (dx, dy, from) => set({ x: from.x + dx, y: from.y + dy }));
  dragged(pinned.querySelector('.corner'), (dx, dy, from) => set({ w: from.w + dx, h: from.h + dy }));
  dragged(sheet, (dx, dy, from) => set({ px: from.px + dx, py: from.py + dy }));
  sheet.addEventListener('wheel', (/** @type {any} */ event) => {
    event.preventDefault();
    zoom(Math.exp(-event.deltaY / 400));
  });
  const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  pinned.addEventListener('keydown', (/** @type {any} */ event) => {
    const way = /** @type {Record<string, number[]>} */ (ways)[event.key],
      inSheet = event.target === sheet;
    if (way && (inSheet || event.target === head)) {
      const [dx, dy] = [way[0] * STEP, way[1] * STEP];
      if (inSheet) set({ px: at.px - dx, py: at.py - dy });
      else if (event.shiftKey) set({ w: at.w + dx, h: at.h + dy });
      else set({ x: at.x + dx, y: at.y + dy });
      event.preventDefault();
    }
    if (inSheet && (event.key === '+' || event.key === '=')) zoom(1.25);
    if (inSheet && event.key === '-') zoom(0.8);
  });
  set({});
  head.focus();
}
/** @param {number} by */
const zoom = by => set({ zoom: Math.min(Math.max(at.zoom * by, 0.5), 12) });
function away() {
  pinned?.remove();
  pinned = null;
  document.getElementById('pin-task')?.focus();
}
/** @param {Partial<typeof at>} to */
function set(to) {
  const room = $('view').getBoundingClientRect();
  at = { ...at, ...to };
  at.w = Math.min(Math.max(at.w, 200), room.width - 8);
  at.h = Math.min(Math.max(at.h, 140), room.height - 8);
  at.x = Math.min(Math.max(at.x, 0), room.width - at.w);
  at.y = Math.min(Math.max(at.y, 0), room.height - at.h);
  remember('pinned', at);
  if (!pinned) return;
  Object.assign(pinned.style, { left: `${at.x}px`, top: `${at.y}px`, width: `${at.w}px`, height: `${at.h}px` });
  pinned.querySelector('img').style.transform =
    `translate(${at.px}px, ${at.py}px) rotate(${at.turn}deg) scale(${at.zoom})`;
}
/** @param {any} node @param {(dx: number, dy: number, from: typeof at) => void} move */
function dragged(node, move) {
  node.addEventListener('pointerdown', (/** @type {any} */ down) => {
    if (down.button !== 0 || down.target.closest('button')) return;
    const from = { ...at };
    node.setPointerCapture(down.pointerId);
    const moved = (/** @type {any} */ event) => move(event.clientX - down.clientX, event.clientY - down.clientY, from);
    node.addEventListener('pointermove', moved);
    node.addEventListener('lostpointercapture', () => node.removeEventListener('pointermove', moved), { once: true });
  });
}
