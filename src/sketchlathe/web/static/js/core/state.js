// What the page knows of the model, and who wants to hear of changes.
const read = id => JSON.parse(document.getElementById(id).textContent);
/** @type {import('../../../types/told').Kinds} */
export const kinds = read('kinds');
/** @type {import('../../../types/page').Shared} */
export const S = { model: read('state'), partId: null, build: null, sketch: null, selection: [], mode: 'solid' };
S.partId = S.model.at ?? S.model.parts[0].id;

const ears = new Map();
export const on = (name, hear) => {
  if (!ears.has(name)) ears.set(name, []);
  ears.get(name).push(hear);
};
export const emit = (name, detail) => {
  for (const hear of ears.get(name) ?? []) hear(detail);
};

// the parts that a person sees; deleted ones stay for those that follow them
export const parts = () => S.model.parts.filter(p => !p.gone);
export const part = () => S.model.parts.find(p => p.id === S.partId);
export const step = id => part().steps.find(s => s.id === id);
export const stepKind = kind => kinds.steps.find(k => k.kind === kind);
// a sketch's plane: as built, or known from the start when it is an origin plane
export const frameOf = id => S.build?.steps.find(s => s.id === id)?.frame ?? step(id)?.frame ?? null;
export const $ = id => document.getElementById(id);

// a picture of the part as it would be after some edits of a revision
export const pictureOf = (revision, edits) => {
  const asked = new URLSearchParams({ revision, edits: JSON.stringify(edits) });
  return `/models/${S.model.id}/parts/${S.partId}/as.png?${asked}`;
};

const SVG = 'http://www.w3.org/2000/svg';
export function svg(name, attributes = {}, ...children) {
  const node = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes))
    if (value !== null && value !== undefined) node.setAttribute(key, value);
  node.append(...children);
  return node;
}
/** @returns {HTMLElement} */
export function html(name, attributes = {}, ...children) {
  const node = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) {
    if (key.startsWith('on')) node.addEventListener(key.slice(2), value);
    else if (value === true) node.setAttribute(key, '');
    else if (value !== null && value !== undefined && value !== false) node.setAttribute(key, value);
  }
  node.append(...children);
  return node;
}
