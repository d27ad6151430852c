// A drawing pinned over the view: moved by its head, made larger at its corner, zoomed and shifted inside, put away.
// Of a sheet, a click on a size takes it into the field one was in, and ticks it.
import { $, html } from '../core/dom.js';
import { recall, remember } from '../core/kept.js';
import { say } from '../ui/messages.js';

const STEP = 24;
/** @type {any} */
let pinned = null;
let at = recall('pinned', { x: 14, y: 116, w: 420, h: 320, zoom: 1, px: 0, py: 0, turn: 0 });

/** Pin a drawing, or put it away. @param {string} src */
export function toggle(src) {
  if (pinned) return away();
  const picture = html('img', { class: 'drawing', src, alt: 'The drawing of the exercise', draggable: 'false' }),
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
  for (const kind of ['pointerdown', 'click', 'dblclick', 'contextmenu', 'wheel'])
    pinned.addEventListener(kind, (/** @type {any} */ event) => event.stopPropagation());
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
    } else if (inSheet && (event.key === '+' || event.key === '=')) zoom(1.25);
    else if (inSheet && event.key === '-') zoom(0.8);
    else if (event.key === 'Escape') away();
    else return; // every other key is the Bench's
    event.preventDefault();
    event.stopPropagation();
  });
  set({});
  head.focus();
  readable(src, sheet).catch(() => {});
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
  pinned.querySelector('.drawing').style.transform =
    `translate(${at.px}px, ${at.py}px) rotate(${at.turn}deg) scale(${at.zoom})`;
}
/** @param {any} node @param {(dx: number, dy: number, from: typeof at) => void} move */
function dragged(node, move) {
  node.addEventListener('pointerdown', (/** @type {any} */ down) => {
    if (down.button !== 0 || down.target.closest('button, [role=button]')) return;
    const from = { ...at };
    node.setPointerCapture(down.pointerId);
    const moved = (/** @type {any} */ event) => move(event.clientX - down.clientX, event.clientY - down.clientY, from);
    node.addEventListener('pointermove', moved);
    node.addEventListener('lostpointercapture', () => node.removeEventListener('pointermove', moved), { once: true });
  });
}

// --- sizes that are taken from a sheet

/** @type {any} */
let field = null; // where one was typing last
document.addEventListener('focusin', event => {
  const node = /** @type {any} */ (event.target);
  if (node.matches?.('input:not([type=checkbox], [type=radio], [type=file], [type=range])') && !pinned?.contains(node))
    field = node;
});
const NUMBER = /\d+(?:[ -]\d+\/\d+|\/\d+|\.\d+)?/;
/** @param {string} words */
const sizeIn = words => words.replace(/^\d+× /, '').match(NUMBER)?.[0];

// a sheet is put in as it is, in place of its picture, so that its sizes can be taken
/** @param {string} src @param {any} sheet */
async function readable(src, sheet) {
  const answer = await fetch(src);
  if (!answer.ok || !answer.headers.get('content-type')?.includes('svg')) return;
  const svg = document.importNode(
    new DOMParser().parseFromString(await answer.text(), 'image/svg+xml').documentElement,
    true,
  );
  const key = `taken ${src}`,
    taken = new Set(recall(key, /** @type {string[]} */ ([])));
  svg.setAttribute('class', 'drawing');
  svg.removeAttribute('width');
  svg.removeAttribute('height');
  for (const [index, text] of [...svg.querySelectorAll('text[data-line]')].entries()) {
    const words = text.textContent ?? '',
      size = sizeIn(words);
    if (!size || /[a-z]{3}/i.test(words.replace(/through|deep|seat|countersunk/g, ''))) continue;
    text.setAttribute('role', 'button');
    text.setAttribute('tabindex', '0');
    const id = `${index} ${words}`;
    const tick = () => {
      text.classList.add('taken');
      text.setAttribute('aria-label', `${words}, taken`);
      text.textContent = `${words} ✓`;
    };
    text.setAttribute('aria-label', `take ${words}`);
    if (taken.has(id)) tick();
    const take = () => {
      if (!field?.isConnected || !field.getClientRects().length) {
        say('Begin to fill a blank, then click the size that belongs there.');
        return;
      }
      field.value = size;
      field.dispatchEvent(new Event('input', { bubbles: true }));
      field.focus();
      taken.add(id);
      remember(key, [...taken]);
      tick();
    };
    text.addEventListener('pointerdown', event => event.preventDefault()); // one stays in the field
    text.addEventListener('click', take);
    text.addEventListener('keydown', event => {
      const { key: pressed } = /** @type {KeyboardEvent} */ (event);
      if (pressed !== 'Enter' && pressed !== ' ') return;
      event.preventDefault();
      event.stopPropagation();
      take();
    });
  }
  if (sheet.isConnected) {
    sheet.replaceChildren(svg);
    set({});
  }
}
