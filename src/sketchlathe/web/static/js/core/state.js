// What the page knows of the model, and who wants to hear of changes.
import { $ } from './dom.js';

/** @param {string} id */
const read = id => JSON.parse($(id).textContent);
/** @type {Told.Kinds} */
export const kinds = read('kinds');
/** @type {Page.Shared} */
export const S = {
  model: read('state'),
  partId: '',
  build: null,
  sketch: null,
  selection: [],
  mode: 'solid',
  viewWidth: 0,
};
S.partId = S.model.at ?? S.model.parts[0].id;

const ears = new Map();
/** @param {string} name @param {(detail: any) => void} hear */
export const on = (name, hear) => {
  if (!ears.has(name)) ears.set(name, []);
  ears.get(name).push(hear);
};
/** @param {string} name @param {any} [detail] */
export const emit = (name, detail) => {
  for (const hear of ears.get(name) ?? []) hear(detail);
};

/** What is there whenever this is asked. @template T @param {T | null | undefined} thing @returns {T} */
export const there = thing => /** @type {T} */ (thing);
/** Whether who is here may do something with the model. @param {Told.State['may'][number]} what */
export const may = what => S.model.may.includes(what);
// the parts that a person sees; deleted ones stay for those that follow them
export const parts = () => S.model.parts.filter(p => !p.gone);
/** The part at hand. @returns {Told.PartTold} */
export const part = () => there(S.model.parts.find(p => p.id === S.partId));
/** The part that one means: of a sheet what it shows first, else the model's first. */
export const partMeant = () => {
  const here = part();
  if (here.sort !== 'sheet') return here.id;
  const shown = here.steps.find(s => s.brings)?.brings;
  return shown ?? S.model.parts.find(p => p.sort !== 'sheet' && !p.gone)?.id ?? here.id;
};
/** The open sketch, where one is. */
export const openSketch = () => there(S.sketch);
/** What the part was built to, where it has been. */
export const built = () => there(S.build);
/** @param {string | undefined} id */
export const step = id => part().steps.find(s => s.id === id);
/** @param {string | undefined} kind */
export const stepKind = kind => there(kinds.steps.find(k => k.kind === kind));
// a sketch's plane: as built, or known from the start when it is an origin plane
/** @param {string | undefined} id */
export const frameOf = id => S.build?.steps.find(s => s.id === id)?.frame ?? step(id)?.frame ?? null;

// a picture of the part as it would be after some edits of a revision
/** @param {number} revision @param {object[]} edits */
export const pictureOf = (revision, edits) => {
  const asked = new URLSearchParams({ revision: String(revision), edits: JSON.stringify(edits) });
  return `/models/${S.model.id}/parts/${S.partId}/as.png?${asked}`;
};
