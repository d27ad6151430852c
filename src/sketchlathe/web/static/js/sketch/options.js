// The strip above the tools: the variants of a drawing tool, and what else it wants to know.
import { $, html } from '../core/dom.js';
import { kinds } from '../core/state.js';

/** @type {Record<string, Record<string, any>>} */
const kept = {}; // what was last chosen, by tool
const strip = $('options');

/** @param {Told.ToolKind | null} tool @returns {Record<string, any>} */
export const optionsOf = tool =>
  tool ? (kept[tool.kind] ??= Object.fromEntries(tool.options.map(o => [o.name, o.default]))) : {};

/** @type {(tool: Told.ToolKind | null, told?: { choose?: any, changed?: any }) => void} */
export function showOptions(tool, { choose, changed } = {}) {
  const family = tool ? kinds.tools.filter(t => t.family === tool.family) : [];
  strip.hidden = !tool || (family.length < 2 && !tool.options.length);
  if (!tool || strip.hidden) {
    strip.replaceChildren();
    return;
  }
  const values = optionsOf(tool);
  strip.replaceChildren(
    ...(family.length > 1
      ? family.map(t =>
          html(
            'button',
            {
              class: 'chip',
              type: 'button',
              'aria-pressed': String(t.kind === tool.kind),
              'data-variant': t.kind,
              title: `${t.word}: ${t.hint} (${t.chord[0]} ${t.chord[1]})`,
              onclick: () => choose(t.kind),
            },
            t.variant || t.word,
          ),
        )
      : []),
    ...tool.options.map(o => html('label', { class: 'opt' }, o.label, field(o, values, changed))),
  );
}
// what is to be written is written first; Enter leads back to the drawing
export function beginInText() {
  /** @type {any} */
  const words = strip.querySelector('input.wide');
  words?.focus();
  words?.select();
}
/** @param {Told.ToolOption} option @param {Record<string, any>} values @param {() => void} changed */
function field(option, values, changed) {
  /** @param {any} value */
  const set = value => {
    values[option.name] = value;
    changed();
  };
  if (option.choices.length) {
    const node = html(
      'select',
      { 'aria-label': option.label, onchange: e => set(e.target.value) },
      ...option.choices.map(([v, w]) => html('option', { value: v, selected: v === values[option.name] }, w)),
    );
    return node;
  }
  if (typeof option.default === 'boolean') {
    const node = html('input', { type: 'checkbox', onchange: e => set(e.target.checked) });
    node.checked = values[option.name];
    return node;
  }
  if (typeof option.default === 'string')
    return html('input', {
      class: 'wide',
      maxlength: 200,
      value: values[option.name],
      oninput: e => set(e.target.value),
    });
  return html('input', {
    type: 'number',
    min: option.low,
    max: option.high,
    step: Number.isInteger(option.default) && (option.high ?? 0) > 10 ? 1 : 0.1,
    value: values[option.name],
    oninput: e => {
      if (e.target.value !== '') set(Number(e.target.value));
    },
  });
}
strip.addEventListener('submit', event => {
  event.preventDefault();
  $('view').focus();
});
strip.addEventListener('keydown', event => {
  if (event.key === 'Escape' || event.key === 'Enter') {
    event.preventDefault();
    event.stopPropagation();
    $('view').focus();
  }
});
