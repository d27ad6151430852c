// A step tried while it is filled in: the preview, what came of it, what is missing, what would mend it.
import { $, html } from '../core/dom.js';
import { emit } from '../core/state.js';
import { preview } from '../core/building.js';
import { redraw } from '../sketch/layer.js';
import { showBlame } from '../view/blame.js';
import { showPreview } from '../view/scene.js';
import { activate, isPulling, keep } from './bar.js';
import { draftOf, empty, now, ready } from './filling.js';
import { advice, draftStep, said } from './outcome.js';
import { layOut } from './sentence.js';

// what the last preview said stands in a bar that is laid out anew
export function told() {
  $('keep').disabled = !now.settled;
  const own = now.result?.preview;
  $('bar-answer').textContent = own?.status === 'ok' ? said(own) : '';
}
export function refresh() {
  if (!now) return;
  const mine = now;
  mine.settled = null; // not known yet: true and false are what the preview says
  const why = $('bar').querySelector('.why');
  if (!ready() || Object.values(now.editors).some(e => e.finishes)) {
    why.replaceChildren(...stillMissing());
    $('keep').disabled = true;
    mine.settled = false;
    mine.wanted &&= mine.loading > 0;
    return;
  }
  $('bar-answer').textContent = now.result ? '…' : ''; // what was said before is not true of this
  preview(draftOf(), [...now.touched], async (result, problem) => {
    if (now !== mine) return;
    if (problem) {
      now.result = null;
      fail(problem.message, []);
      return;
    }
    for (const [name, value] of Object.entries(result.defaults ?? {})) {
      now.fields[name] = value;
      now.editors[name]?.set(value);
    }
    now.result = result;
    const own = result.preview;
    if (own.status === 'ok') {
      mine.settled = true;
      why.replaceChildren(
        ...advice(result).map(a =>
          html(
            'span',
            { class: 'note' },
            `▲ ${a.text} `,
            ...(Object.keys(a.fields).length ? [fixButton(a)] : []),
            ...(Object.keys(a.settled).length ? [fixButton({ fix: 'it is right', fields: a.settled })] : []),
          ),
        ),
      );
      $('keep').disabled = false;
      if (mine.wanted) {
        keep();
        return;
      }
      $('bar-answer').textContent = said(own);
    } else
      fail(
        own.message,
        advice(result).filter(a => a.fix),
        own.gave_up,
      );
    now.editors[now.active]?.told?.();
    await showPreview(result);
    if (!isPulling()) emit('tried', result);
    showBlame(draftStep(result)?.blame ?? []);
    emit('marked');
    redraw();
  });
}
export function leadOn() {
  if (empty() !== now.active) activate(empty());
}
// to whoever is done with one place while another is empty: which, and a way there
function stillMissing() {
  const done = now.touched.has(now.active) && !now.editors[now.active]?.empty?.(),
    name = done && empty();
  if (!name) return [];
  return [
    html('span', { class: 'note' }, '▲ Still missing: '),
    fixButton({ fix: now.kind.blanks[name].label, act: () => activate(name) }),
  ];
}
/** @param {string} message @param {any[]} fixes */
function fail(message, fixes, gaveUp = false) {
  now.settled = now.wanted = false;
  // nobody is shut in: a step that cannot be computed may be kept, it stands in the list failed and the rest is built
  if (gaveUp)
    fixes = [
      ...fixes,
      {
        fix: 'keep it all the same',
        act: () => {
          now.settled = true;
          keep();
        },
      },
    ];
  $('keep').disabled = true;
  $('bar-answer').textContent = '';
  $('bar')
    .querySelector('.why')
    .replaceChildren(html('span', {}, `✗ ${message}`), ...fixes.map(fixButton));
}
/** @param {any} f */
const fixButton = f =>
  html(
    'button',
    {
      class: 'fix',
      type: 'button',
      onclick: () => {
        if (f.act) {
          f.act();
          return;
        }
        Object.assign(now.fields, f.fields);
        for (const n of Object.keys(f.fields)) now.touched.add(n);
        now.editors[now.active]?.deactivate?.();
        now.active = null;
        layOut();
        activate(Object.keys(now.editors)[0]);
        refresh();
      },
    },
    f.fix,
  );
