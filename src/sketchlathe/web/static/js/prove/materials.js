// Choosing a material: searched by name, tried on the part while one goes through the list; materials of one's own.
import { $, html } from '../core/dom.js';
import { S, emit, kinds, part, there } from '../core/state.js';
import { edit } from '../core/api.js';
import { findable } from '../ui/keys.js';

export const all = () => ({ ...S.model.own, ...kinds.materials });
// what a body is made of: its own, or what the part that it was brought from is made of
/** @param {string} body */
export const keyOf = body =>
  part().madeOf[body] ?? S.build?.bodies.find(b => b.id === body && b.brought)?.material ?? part().material;
/** @type {{ body: string, key: string | null } | null} */
let tried = null; // {body ('' for all), key}
/** @param {string} body */
export const stuffOf = body =>
  all()[tried && (!tried.body || tried.body === body) ? (tried.key ?? '') : keyOf(body)] ?? kinds.materials.pla;

const dialog = $('materials'),
  words = $('materials-text'),
  list = $('materials-list'),
  facts = $('materials-facts'),
  own = $('own-material');
let body = '',
  /** @type {string | null} */
  chosen = null;
/** @param {string | null} key */
const attempt = key => {
  tried = key ? { body, key } : null;
  emit('look');
};

function show() {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean),
    found = Object.entries(all()).filter(([k, m]) =>
      wanted.every(w => `${k} ${m.name} ${m.group}`.toLowerCase().includes(w)),
    );
  if (!found.some(([k]) => k === chosen)) chosen = found[0]?.[0] ?? null;
  const nodes = [];
  let group = null;
  for (const [key, m] of found) {
    if (m.group !== group) {
      group = m.group;
      nodes.push(html('li', { class: 'group', role: 'presentation' }, group));
    }
    const swatch = html('i', { class: `swatch ${m.finish}`, 'aria-hidden': 'true' });
    swatch.style.background = m.colour;
    nodes.push(
      html(
        'li',
        {
          role: 'option',
          id: `material-${key}`,
          'aria-selected': String(key === chosen),
          onclick: () => {
            chosen = key;
            mark();
          },
          ondblclick: keep,
        },
        swatch,
        html('span', {}, m.name),
        html('span', { class: 'num' }, `${m.density} g/cm³`),
      ),
    );
  }
  list.replaceChildren(
    ...nodes,
    ...(found.length ? [] : [html('li', { class: 'group' }, 'No material has these words. One of your own?')]),
  );
  mark();
}
function mark() {
  for (const node of list.querySelectorAll('[role=option]'))
    node.setAttribute('aria-selected', String(node.id === `material-${chosen}`));
  const node = chosen ? $(`material-${chosen}`) : null,
    m = all()[chosen ?? ''];
  words.setAttribute('aria-activedescendant', node ? node.id : '');
  node?.scrollIntoView({ block: 'nearest' });
  facts.replaceChildren(
    ...(m
      ? [
          `${m.name}: ${m.density} g/cm³, ${m.source === 'typed' ? 'typed for this model' : m.source}; ${m.finish}`,
          ...(S.model.own[chosen ?? '']
            ? [
                ' ',
                html(
                  'button',
                  {
                    class: 'fix',
                    type: 'button',
                    onclick: () =>
                      edit({ kind: 'delete_material', id: chosen })
                        .then(show)
                        .catch(() => {}),
                  },
                  'delete it',
                ),
              ]
            : []),
        ]
      : []),
  );
  $('materials-keep').disabled = !m;
  attempt(chosen);
}
const shut = () => {
  attempt(null);
  dialog.close();
};
async function keep() {
  if (!chosen) return;
  const key = chosen;
  await edit({ kind: 'set_material', part: S.partId, material: key, ...(body ? { body } : {}) }).catch(() => {});
  shut();
}
words.addEventListener('input', show);
words.addEventListener('keydown', event => {
  const options = [...list.querySelectorAll('[role=option]')],
    at = options.findIndex(o => o.id === `material-${chosen}`);
  if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    event.preventDefault();
    const next = options[Math.max(0, Math.min(options.length - 1, at + (event.key === 'ArrowDown' ? 1 : -1)))];
    if (next) {
      chosen = next.id.slice(9);
      mark();
    }
  }
  if (event.key === 'Enter') {
    event.preventDefault();
    keep();
  }
});
$('materials-keep').addEventListener('click', keep);
$('materials-drop').addEventListener('click', shut);
dialog.addEventListener('cancel', () => attempt(null));
own.addEventListener('submit', async event => {
  event.preventDefault();
  const f = own.elements,
    known = new Set(Object.keys(S.model.own));
  try {
    await edit({
      kind: 'keep_material',
      name: f.name.value,
      density: Number(f.density.value.replace(',', '.')) || 0,
      colour: f.colour.value,
    });
    chosen = Object.keys(S.model.own).find(k => !known.has(k)) ?? chosen;
    words.value = '';
    own.reset();
    there(own.closest('details')).open = false;
    show();
    words.focus();
  } catch {
    /* said already */
  }
});
findable.push(() =>
  Object.entries(all()).map(([key, m]) => ({
    name: m.name,
    where: 'material',
    about: `${m.group} ${m.density}`,
    quiet: true,
    go: () => chooseMaterial('', key),
  })),
);
// key: the material to begin at
/** @param {string | null} key */
export function chooseMaterial(of = '', key = null) {
  body = of;
  chosen = key ?? (of ? keyOf(of) : part().material);
  words.value = '';
  dialog.showModal();
  show();
  words.focus();
}
