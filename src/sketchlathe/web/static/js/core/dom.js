// Elements of the page: found, and made.
/** An element that the page has. @param {string} id @returns {HTMLElement} */
export const $ = id => /** @type {HTMLElement} */ (document.getElementById(id));
/** An element that the page may have. @param {string} id @returns {HTMLElement | null} */
export const sought = id => document.getElementById(id);
/** What an event happened at. @param {Event} event @returns {HTMLElement} */
export const targetOf = event => /** @type {HTMLElement} */ (event.target);

const SVG = 'http://www.w3.org/2000/svg';
/** @param {string} name @param {Attributes} [attributes] @param {any[]} children
 @returns {SVGGraphicsElement} */
export function svg(name, attributes = {}, ...children) {
  const node = /** @type {SVGGraphicsElement} */ (document.createElementNS(SVG, name));
  for (const [key, value] of Object.entries(attributes))
    if (value !== null && value !== undefined) node.setAttribute(key, value);
  node.append(...children);
  return node;
}
/** @param {string} name @param {Attributes} [attributes] @param {any[]} children
 @returns {HTMLElement} */
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
