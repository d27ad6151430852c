// Press and hold: everything under the pointer, near to far, to choose from.
import { html, targetOf } from '../core/dom.js';

const HOLD = 450;
let timer = 0,
  list = null;
export const isListing = () => list !== null;
export function shutList() {
  list?.remove();
  list = null;
}
// watch(node, at, things, say, light, take): at(event) → [x, y]; things(x, y) → hits; take(hit, event)
export function watchHolding(node, { at, things, say, light, take }) {
  let start = null;
  node.addEventListener('pointerdown', event => {
    if (list && !list.contains(targetOf(event))) shutList();
    if (event.button !== 0) return;
    start = at(event);
    clearTimeout(timer);
    timer = setTimeout(() => {
      const [x, y] = start,
        found = things(x, y);
      if (found.length) open(node, x, y, found);
    }, HOLD);
  });
  const end = () => clearTimeout(timer);
  node.addEventListener('pointermove', event => {
    if (start) {
      const [x, y] = at(event);
      if (Math.hypot(x - start[0], y - start[1]) > 5) end();
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

  function open(host, x, y, found) {
    shutList();
    const step = by => {
      const all = [...list.children];
      all[(all.indexOf(document.activeElement) + by + all.length) % all.length].focus();
    };
    list = html(
      'div',
      {
        class: 'stack',
        role: 'menu',
        'aria-label': 'Under the pointer, near to far',
        onkeydown: e => {
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
            onclick: e => {
              e.stopPropagation();
              shutList();
              take(hit, e);
            },
          },
          `${i + 1}  ${say(hit)}`,
        ),
      ),
    );
    host.append(list);
    list.style.left = `${Math.min(x + 10, host.clientWidth - 300)}px`;
    list.style.top = `${Math.max(8, Math.min(y + 10, host.clientHeight - list.offsetHeight - 90))}px`;
    list.firstElementChild?.focus();
  }
}
