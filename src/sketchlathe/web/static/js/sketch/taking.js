// Curves of the solid: offered while the act is on, their centres and ends to snap to always; what was taken follows
// the solid.
import { $ } from '../core/dom.js';
import { S, built, on, openSketch, there } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { hint } from '../ui/messages.js';
import { redraw } from './layer.js';

/** @type {any[] | null} */
let offers = null,
  taking = false;
export const active = () => taking;

// fetched once an opened sketch; its places are offered to the pointer from then on
export async function prepare() {
  offers = null;
  const id = S.sketch?.id;
  const found = await ask(`/sketches/${id}/takeable`).catch(() => []);
  if (S.sketch?.id !== id) return;
  offers = found;
  around();
}
function around() {
  if (S.sketch && offers)
    S.sketch.around = offers.flatMap(o =>
      o.snaps.map((/** @type {any} */ s) => ({
        ...s,
        take: { curve: o.curve, edge: o.edge ?? null, face: o.face ?? null },
      })),
    );
  if (S.sketch && taking) S.sketch.offers = offers ?? [];
}
on('sketch', around);
export async function start() {
  if (!offers) await prepare();
  if (!offers?.length) {
    hint('There is no solid before this sketch to take from.');
    return;
  }
  taking = true;
  openSketch().offers = offers;
  $('take').setAttribute('aria-pressed', 'true');
  hint('Take from the solid: click edges or section curves (violet, dotted); drag a box for several; Esc ends');
  redraw();
}
export function stop() {
  if (!taking) return;
  taking = false;
  if (S.sketch) S.sketch.offers = [];
  $('take').setAttribute('aria-pressed', 'false');
  redraw();
}
export function back() {
  if (!taking) return false;
  stop();
  hint('');
  return true;
}
/** @param {string[]} refs */
export function take(refs) {
  const chosen = refs.filter(r => r.startsWith('offer:')).map(r => there(offers)[Number(r.split(':')[1])]);
  if (chosen.length)
    edit({
      kind: 'take_curves',
      sketch: openSketch().id,
      offers: chosen.map(({ curve, edge, face }) => ({ curve, edge: edge ?? null, face: face ?? null })),
    }).catch(() => {});
  return chosen.length;
}
// after a build: sketches whose taken curves have moved are brought along, once a revision; undo takes that back
// together with what caused it
let sent = '';
on('build', async () => {
  const moved = built().steps.find(s => s.moved),
    key = moved ? `${built().revision}/${moved.id}` : sent;
  if (!moved || key === sent) return;
  sent = key; // the build that comes of it brings the next sketch
  await edit({ kind: 'follow_solid', sketch: moved.id, curves: moved.moved }, true).catch(() => {});
});
