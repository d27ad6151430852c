// When the page rests: nothing asked is unanswered, nothing fetched is on its way, nothing waits for a moment to pass,
// and what came has been drawn. `data-rests` of the body says so, for whoever drives the page.
let under = 0, // things under way
  look = 0;
const states = new Set();
const body = document.body.dataset;

// something happened: two pictures later it has been drawn and whatever it set going has begun
export function stir() {
  body.rests = '';
  cancelAnimationFrame(look);
  look = requestAnimationFrame(() => {
    look = requestAnimationFrame(() => {
      if (!under && !states.size) body.rests = 'yes';
    });
  });
}
// until a promise is kept or broken; gives the promise
/** @template T @param {Promise<T>} promise */
export function during(promise) {
  under += 1;
  stir();
  const over = () => {
    under -= 1;
    stir();
  };
  promise.then(over, over);
  return promise;
}
// a state of something, by name
/** @param {string} name @param {boolean} yes */
export function working(name, yes) {
  if (yes) states.add(name);
  else states.delete(name);
  stir();
}
// as setTimeout, for what a person waits for
/** @param {() => void} act */
export function later(act, ms = 0) {
  under += 1;
  stir();
  return setTimeout(() => {
    under -= 1;
    stir();
    act();
  }, ms);
}
for (const kind of ['pointerdown', 'pointermove', 'pointerup', 'click', 'keydown', 'keyup', 'input', 'change', 'wheel'])
  document.addEventListener(kind, stir, { capture: true, passive: true });
document.addEventListener('htmx:beforeRequest', () => working('htmx', true));
document.addEventListener('htmx:afterRequest', () => working('htmx', false));
