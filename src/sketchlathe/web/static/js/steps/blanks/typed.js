// Blanks that are typed or chosen: numbers, words, choices.
import { html } from '../../core/dom.js';

// Each: make(blank, value, changed, bar) → {node, activate?, deactivate?, picks?}; changed(value) tells the bar.
/** @type {MakeEditor} */
export const number = (blank, value, changed) => {
  const node = html('input', {
    class: 'gap',
    value: value ?? '',
    'aria-label': blank.label,
    title: blank.hint,
    maxlength: 400,
    autocomplete: 'off',
    oninput: () => changed(node.value),
  });
  return {
    node,
    set: v => {
      if (document.activeElement !== node) node.value = v;
      else {
        node.value = v;
        node.select();
      }
    },
  };
};
/** @type {MakeEditor} */
export const choice = (blank, value, changed) => {
  const node = html(
    'select',
    { class: 'gap', 'aria-label': blank.label, title: blank.hint, onchange: () => changed(node.value) },
    ...Object.entries(blank.words).map(([key, word]) =>
      html('option', { value: key, ...(key === value ? { selected: true } : {}) }, word),
    ),
  );
  return {
    node,
    set: v => {
      node.value = v;
    },
  };
};

/** @type {MakeEditor} */
export const text = (blank, value, changed, bar) => {
  const made = number(blank, value, changed, bar);
  made.node.classList.add('words');
  return made;
};
