// Press and hold: everything under the pointer, near to far, to choose from.
import { html, targetOf } from '../core/dom.js';

const HOLD = 450;
let timer = 0;
/** @type {HTMLElement | null} */
let list = null;
export const isListing = () => list !== null;
export function shutList() {
  list?.remove();
  list = null;
}
/** @param {HTMLElement} node
 @param {{ at: (event: MouseEvent) => number[], things: (x: number, y: number) => any[], say: (hit: any) => string,
 light: (hit: any) => void, take: (hit: any, event: any) => void,
 more?: (x: number, y: number) => (() => void) | null }} how `more`: what else can be done there */
export function watchHolding(node, { at, things, say, light, take, more }) {
  /** @type {number[] | null} */
  let start = null;
  node.addEventListener('pointerdown', event => {
    if (list && !list.contains(targetOf(event))) shutList();
    if (event.button !== 0) return;
    start = at(event);
    clearTimeout(timer);
    const [x, y] = start;
    // a page that was busy meanwhile hears of the letting go first: it asks once more after what waits
    timer = setTimeout(() => {
      timer = setTimeout(() => {
        const found = start ? things(x, y) : [];
        if (found.length) open(node, x, y, found);
      }, 50);
    }, HOLD);
  });
  const end = () => clearTimeout(timer);
  document.addEventListener('pointerup', () => {
    end();
    start = null;
  });
  node.addEventListener('pointermove', event => {
    if (start) {
      const [x, y] = at(event);
      if (Math.hypot(x - start[0], y - start[1]) > 5) {
        end();
        // a drag that began slowly is a drag: what opened meanwhile was not asked for
        if (list && event.buttons & 1 && !list.contains(targetOf(event))) shutList();
      }
    }
  });
  node.addEventListener('pointerup', end);
  node.addEventListener('pointercancel', end);
  node.addEventListener('pointerleave', end);
  document.addEventListener(
    'keydown',
    event => {
      if (list && event.key === 'Escape') {
        event.stopPropagation();
        shutList();
        light(null);
        node.focus({ preventScroll: true });
      }
    },
    true,
  );

  /** @param {HTMLElement} host @param {number} x @param {number} y @param {any[]} found */
  function open(host, x, y, found) {
    shutList();
    /** @param {number} by */
    const step = by => {
      const all = [...(list?.children ?? [])];
      all[(all.indexOf(document.activeElement) + by + all.length) % all.length].focus();
    };
    const others = more?.(x, y);
    list = html(
      'div',
      {
        class: 'stack',
        role: 'menu',
        'aria-label': 'Under the pointer, near to far',
        onkeydown: (/** @type {KeyboardEvent} */ e) => {
          if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault();
            e.stopPropagation();
            step(e.key === 'ArrowDown' ? 1 : -1);
          }
        },
      },
      ...found.slice(0, 14).map((hit, i) =>
        html(
          'button',
          {
            type: 'button',
            role: 'menuitem',
            onpointerenter: () => light(hit),
            onfocus: () => light(hit),
            onclick: (/** @type {MouseEvent} */ e) => {
              e.stopPropagation();
              shutList();
              take(hit, e);
            },
          },
          `${i + 1}  ${say(hit)}`,
        ),
      ),
      ...(others
        ? [
            html(
              'button',
              {
                type: 'button',
                role: 'menuitem',
                class: 'more',
                onclick: (/** @type {MouseEvent} */ e) => {
                  e.stopPropagation();
                  shutList();
                  others();
                },
              },
              'What can be done here…',
            ),
          ]
        : []),
    );
    host.append(list);
    list.style.left = `${Math.min(x + 10, host.clientWidth - 300)}px`;
    list.style.top = `${Math.max(8, Math.min(y + 10, host.clientHeight - list.offsetHeight - 90))}px`;
    list.firstElementChild?.focus();
  }
}
