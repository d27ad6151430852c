// A constraint chosen before the things it is to hold: they are clicked after it, again and again until Esc.
import { S, emit, kinds, openSketch } from '../core/state.js';
import { ask, edit } from '../core/api.js';
import { hint } from '../ui/messages.js';
import { redraw } from './layer.js';

/** @type {{ kind: Told.ConstraintKind | null }} */
const held = { kind: null };
const holdable = () =>
  S.selection.filter(r => !openSketch().dimensions.some(d => d.id === r) && !openSketch().marks.some(m => m.id === r));
export const holding = {
  active: () => held.kind,
  stop() {
    held.kind = null;
  },
  back() {
    if (!held.kind) return false;
    held.kind = null;
    S.selection = [];
    emit('selection');
    hint('');
    redraw();
    return true;
  },
  /** @param {string | null} ref */
  async click(ref) {
    if (!ref || openSketch().dimensions.some(d => d.id === ref) || openSketch().marks.some(m => m.id === ref)) return;
    S.selection = S.selection.includes(ref) ? S.selection.filter(r => r !== ref) : [...S.selection, ref];
    emit('selection');
    redraw();
    const { kind } = held,
      refs = holdable();
    if (!kind || !refs.length) return;
    const offers = (await ask(`/sketches/${openSketch().id}/selection`, { on: refs }).catch(() => null))?.offers ?? [];
    if (held.kind !== kind) return;
    if (offers.some(o => o.kind === kind.kind)) {
      await put(kind.kind, refs);
      S.selection = [];
      emit('selection');
      say();
      return;
    }
    if (refs.length >= kind.most) {
      hint(`${cap(kind.word)} cannot hold these. ${kind.hint}`);
      S.selection = [];
      emit('selection');
      return;
    }
    say();
  },
};
/** @param {string} word */
const cap = word => word[0].toUpperCase() + word.slice(1);
const say = () => {
  if (!held.kind) return;
  const next = S.selection.length ? 'the next thing' : 'what it is to hold';
  hint(`${cap(held.kind.word)}: click ${next}. ${held.kind.hint} Esc ends`);
};
/** @param {string} kind @param {string[]} refs */
const put = (kind, refs) =>
  edit({ kind: 'add_constraint', sketch: openSketch().id, constraint: kind, on: refs.slice(0, 4) }).then(
    () => true,
    () => false,
  );
/** @param {string | undefined} kind */
export async function constrain(kind) {
  const refs = holdable();
  if (!refs.length) {
    held.kind = kinds.constraints.find(c => c.kind === kind) ?? null;
    say();
    return;
  }
  await edit({ kind: 'add_constraint', sketch: openSketch().id, constraint: kind, on: refs.slice(0, 4) }).then(
    () => {
      S.selection = [];
      emit('selection');
    },
    () => {},
  );
}
