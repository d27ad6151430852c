// What this browser remembers of a person: read with care, for anything may stand there.
const PREFIX = 'lathe.';
let damaged = false;
// whether something could not be read and was begun anew since this was asked last
export function lostSome() {
  const was = damaged;
  damaged = false;
  return was;
}
// what is remembered by a name; `usual` where nothing is, or nothing of its sort
/** @template T @param {string} name @param {T} usual @returns {T} */
export function recall(name, usual) {
  let text = null;
  try {
    text = localStorage.getItem(PREFIX + name);
  } catch {
    return usual; // a store that nobody may open
  }
  if (text === null) return usual;
  try {
    const value = JSON.parse(text);
    if (usual === null || sort(value) === sort(usual)) return value;
  } catch {
    // told below
  }
  damaged = true;
  forget(name);
  return usual;
}
/** @param {any} value */
const sort = value => (Array.isArray(value) ? 'list' : value === null ? 'nothing' : typeof value);
/** @param {string} name @param {any} value */
export function remember(name, value) {
  try {
    localStorage.setItem(PREFIX + name, JSON.stringify(value));
  } catch {
    // a full or forbidden store: then it is not remembered
  }
}
/** @param {string} name */
export function forget(name) {
  try {
    localStorage.removeItem(PREFIX + name);
  } catch {
    // as above
  }
}
