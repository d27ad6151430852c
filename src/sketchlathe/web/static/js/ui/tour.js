// A tour of the first part: it looks at what is there, says the next thing beside the place where it is done, and
// goes back when something is undone. It never does anything itself.
import { $, html, targetOf } from '../core/dom.js';
import { S, on, part } from '../core/state.js';
import { camera } from '../view/camera.js';
import { active, placed } from '../sketch/tool.js';
import { isOpen } from '../steps/filling.js';
import { toScreen } from '../view/places.js';

const sketches = () => part().steps.filter(s => s.kind === 'sketch').length;
const extrudes = () => part().steps.filter(s => s.kind === 'extrude');
/** @param {string} tag */
const curves = tag => S.sketch?.curves.filter(c => c.tags.includes(tag)).length ?? 0;
const drawn = () => S.mode !== 'sketch' && sketches() > 0; // the sketch was kept
const solid = () => (S.build?.bodies.length ?? 0) > 0 && extrudes().length > 0 && !isOpen();
/** @param {number[]} at */
const inView = ([x, y]) => {
  const b = $('view').getBoundingClientRect();
  return new DOMRect(b.left + x - 6, b.top + y - 6, 12, 12);
};
/** @param {number} x @param {number} y */
const spot = (x, y) => () => (S.frame ? inView(toScreen(S.frame, [x, y])) : null);

// each: what to do, where, and whether it is done; `once`: stays done
const STAGES = [
  {
    text: 'Parts begin as sketches. Choose Sketch, or press s then k.',
    at: '#tray-solid [data-step=sketch]',
    until: () => isOpen() || sketches() > 0,
  },
  {
    text: 'A sketch lies on a plane. Click the name “top plane” in the view, or press 1.',
    at: '#bar',
    until: () => sketches() > 0,
  },
  {
    text: 'Choose Rectangle, or press d then r.',
    at: '#tray-sketch [data-tool=rectangle]',
    until: () => drawn() || curves('line') >= 4 || active()?.kind === 'rectangle',
  },
  {
    text:
      'Click the cross where the axes meet. The pointer says “origin” when it has caught it: the corner will ' +
      'stay there.',
    at: spot(0, 0),
    until: () => drawn() || curves('line') >= 4 || placed() > 0,
  },
  {
    text: 'Move up and to the right, then type 60, press Tab, type 40, press Enter. What is typed becomes dimensions.',
    at: '#sizes',
    aside: true,
    until: () => drawn() || curves('line') >= 4,
  },
  {
    text: 'Now a hole: choose Circle, or press d then c.',
    at: '#tray-sketch [data-tool=circle]',
    until: () => drawn() || curves('round') > 0 || active()?.kind === 'circle',
  },
  {
    text: 'Click inside the rectangle, type 12 and press Enter.',
    at: spot(30, 20),
    aside: true,
    until: () => drawn() || curves('round') > 0,
  },
  {
    text: () => {
      const held = S.sketch?.freedom
        ? 'What is dashed can still be moved, and that is allowed: a dimension (k d) would hold it.'
        : 'Everything is held: nothing can move by accident.';
      return `${held} Keep the sketch with o then k, or here.`;
    },
    at: '#keep-sketch',
    until: drawn,
  },
  {
    text: 'Give it thickness: choose Extrude, or press s then e.',
    at: '#tray-solid [data-step=extrude]',
    until: () => extrudes().length > 0 || ($('bar').dataset.for === 'step' && isOpen()),
  },
  {
    text: 'Click between the rectangle and the circle. Then type 8 for the distance and press Enter.',
    at: '#bar',
    aside: true,
    until: solid,
  },
  {
    text: 'Turn it: drag with the right mouse button, or press the arrow keys. 0 shows all of it again.',
    at: '#dial',
    until: () => camera.az !== standing[0] || camera.el !== standing[1],
    once: true,
  },
  {
    text: 'Every number stays open. Click the distance in this sentence, type 12, press Enter.',
    at: '#steps [data-blank=distance]',
    until: () => extrudes()[0]?.fields.distance !== thickness,
    once: true,
  },
  {
    text: 'Weighed and measured all the while, here. To print it, choose Take out, or press f then t.',
    at: '#take-out',
    until: () => takenOut,
    once: true,
  },
];
let now = -1,
  timer = 0,
  /** @type {number[]} */
  standing = [],
  /** @type {any} */
  thickness = null,
  takenOut = false;
const done = new Set();

const card = html(
  'section',
  { class: 'tour', hidden: true, 'aria-label': 'Tour of the first part' },
  html('p', { role: 'status' }),
  html(
    'div',
    { class: 'ends' },
    html('span', { class: 'num' }),
    html(
      'button',
      { class: 'fix', type: 'button', id: 'tour-leave', 'data-name': 'Leave the tour', onclick: () => leave() },
      'leave the tour',
    ),
  ),
);
const ring = html('div', { class: 'tour-ring', hidden: true, 'aria-hidden': 'true' });
document.body.append(ring, card);

/** @param {string | (() => DOMRect | null)} at */
function rectOf(at) {
  if (typeof at === 'function') return at();
  const node = document.querySelector(at),
    box = node?.getBoundingClientRect();
  return box?.width ? box : null;
}
function look() {
  const at = STAGES.findIndex((s, i) => {
    const met = done.has(i) || s.until();
    if (met && s.once && i === now) done.add(i);
    return !met;
  });
  if (at < 0) {
    farewell();
    return;
  }
  if (at !== now) {
    now = at;
    takenOut = false;
    standing = [camera.az, camera.el];
    thickness = extrudes()[0]?.fields.distance ?? null;
    card.querySelector('.num').textContent = `${at + 1} of ${STAGES.length}`;
  }
  const { text, aside } = STAGES[at],
    words = typeof text === 'function' ? text() : text,
    told = card.querySelector('p');
  if (told.textContent !== words) told.textContent = words;
  stand(rectOf(STAGES[at].at), aside);
}
// beside what it speaks of, never over it: below, above, or at the side where there is room
/** @param {DOMRect | null | undefined} box @param {boolean} [aside] */
function stand(box, aside) {
  const w = card.offsetWidth,
    h = card.offsetHeight,
    gap = 14;
  ring.hidden = !box;
  if (!box) {
    place(innerWidth / 2 - w / 2, innerHeight * 0.3);
    return;
  }
  Object.assign(ring.style, {
    left: `${box.left - 5}px`,
    top: `${box.top - 5}px`,
    width: `${box.width + 10}px`,
    height: `${box.height + 10}px`,
  });
  const across = Math.max(8, Math.min(box.left + box.width / 2 - w / 2, innerWidth - w - 8));
  // the view is where it is done: beside it, below the list of steps
  if (aside) {
    place(Math.max(8, $('view').getBoundingClientRect().left - w - 8), 200);
    return;
  }
  if (box.top > innerHeight * 0.6) place(across, box.top - h - gap);
  else if (box.bottom + h + gap < innerHeight - 140) place(across, box.bottom + gap);
  else place(box.right + gap + w < innerWidth ? box.right + gap : box.left - gap - w, Math.max(8, box.top));
}
/** @param {number} x @param {number} y */
function place(x, y) {
  card.style.left = `${x}px`;
  card.style.top = `${y}px`;
}

function begin() {
  done.clear();
  now = -1;
  takenOut = false;
  card.hidden = false;
  card.querySelector('#tour-leave').textContent = 'leave the tour';
  clearInterval(timer);
  timer = setInterval(look, 160);
  look();
  $('view').focus({ preventScroll: true });
}
function leave() {
  clearInterval(timer);
  card.hidden = ring.hidden = true;
  $('view').focus({ preventScroll: true });
}
function farewell() {
  clearInterval(timer);
  ring.hidden = true;
  card.querySelector('p').textContent =
    'That is the whole way: sketch, sizes, thickness, change, take out. ' +
    'Press / at any time and type what you look for.';
  card.querySelector('.num').textContent = '';
  card.querySelector('#tour-leave').textContent = 'done';
  place(innerWidth / 2 - card.offsetWidth / 2, 64);
}
$('take-out').addEventListener('click', () => {
  takenOut = true;
});
document.addEventListener('click', event => {
  if (targetOf(event).closest('#tour-begin')) begin();
});
on('mode', () => {
  if (!card.hidden && now >= 0) look();
});
