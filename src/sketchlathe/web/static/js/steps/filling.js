// The step that is being filled in: its blanks and what stands in them, what they wait for, what is still empty.
import { S } from '../core/state.js';

/** @type {any} */
export let now = null; // {kind, id, fields, touched, editors, active, result}
/** @param {any} step */
export const hold = step => {
  now = step;
};
/** @type {Page.Picking} */
export const picking = { takes: null, pick: null, marked: null, walks: null, hot: null, walked: null };
/** @type {{ digit: ((number: number) => void) | null }} */
export const listening = { digit: null }; // who hears of digits while something is chosen by its number
export const isOpen = () => now !== null;
// kept when all that can be picked is there; null while nothing is on its way
/** @returns {Promise<any> | null} */
export const coming = () => (now?.loading ? now.coming : null);
// a click that waits for it: what the hand does after it comes after it
/** @param {Promise<any>} more @param {() => void} pick @returns {Promise<void>} */
export function pickLater(more, pick) {
  const mine = now,
    /** @type {Promise<void>} */
    late = more.then(() => {
      if (now !== mine) return;
      if (mine.late === late) mine.late = null;
      pick();
    });
  mine.late = late;
  return late;
}
// what stands in an untouched blank: a handy size in the person's unit
/** @param {Told.BlankKind} blank */
export const fresh = blank =>
  blank.type === 'length' ? (S.model.handy[blank.default] ?? blank.default) : blank.default;
// whether anything is picked or typed there
/** @param {string} name */
const filledIn = name => {
  const value = now.fields[name];
  return value && typeof value === 'object' ? Object.values(value).some(Boolean) : Boolean(value);
};
/** @param {string} name @returns {boolean} */
export const visible = name => {
  const { after } = now.kind.blanks[name];
  if (after && !filledIn(after)) return false;
  const when = now.kind.blanks[name].when;
  return !when || (when[1].includes(String(now.fields[when[0]])) && visible(when[0]));
};

/** @returns {[string, string, string][]} */
export const sentence = () => now.kind.sentence;
export const draftOf = () => ({ kind: now.kind.kind, ...(now.id ? { id: now.id } : {}), fields: now.fields });
/** @returns {string | undefined} */
export const empty = () => Object.keys(now.editors).find(n => now.editors[n].empty?.());
export const ready = () => !empty();
