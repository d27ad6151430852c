// Bringing files in: solids and triangles become a step, drawings go into the open sketch, tables become parameters.
import { $, html, targetOf } from '../core/dom.js';
import { S, kinds, on, openSketch, part } from '../core/state.js';
import { ask, edit, take } from '../core/api.js';
import { talk } from '../core/talk.js';
import { MM } from '../core/units.js';
import { complain, hint, say } from '../ui/messages.js';
import { openBar } from '../steps/bar.js';
import { fit } from '../view/controls.js';

const file = $('bring-file'),
  me = `i${Math.random().toString(36).slice(2, 9)}`;
file.accept = kinds.readers.flatMap(r => r.endings).join(',');
/** @type {any} */
let reading = null;

export const choose = () => {
  file.value = '';
  file.click();
};
file.addEventListener('change', () => {
  const [one] = file.files;
  file.value = '';
  if (one) bring(one);
});
$('bring-drawing').addEventListener('click', choose);
on('choosefile', choose);
$('parameters').addEventListener('click', event => {
  if (targetOf(event).closest('#bring-table')) choose();
});

/** @param {any} chosen */
export async function bring(chosen) {
  if (reading) return;
  const ending = chosen.name.toLowerCase().replace(/^.*(?=\.)/, ''),
    kind = kinds.readers.find(r => r.endings.includes(ending));
  if (!kind) {
    const known = kinds.readers.flatMap(r => r.endings).join(', ');
    complain(`“${ending}” is not a kind of file that can be brought in; known are ${known}.`);
    return;
  }
  if (kind.gives === 'curves' && S.mode !== 'sketch') {
    complain(`Open or make a sketch first: ${kind.spoken} drawing is brought into one.`);
    return;
  }
  if (kind.gives === 'underlay' && S.mode !== 'sketch') {
    complain('Open or make a sketch first: a picture is laid under one, to be traced.');
    return;
  }
  if (kind.gives === 'step' && S.mode === 'sketch') {
    complain(`Keep or drop the open sketch first: ${kind.spoken} file becomes a step.`);
    return;
  }
  const form = new FormData();
  form.set('file', chosen);
  form.set('part', S.partId);
  if (S.sketch) form.set('sketch', S.sketch.id);
  form.set('base', String(S.model.revision));
  form.set('ticket', me);
  reading = chosen.name;
  $('busy').hidden = false;
  $('busy').querySelector('span').textContent = `Reading ${chosen.name}…`;
  try {
    const found = await talk(`/api/models/${S.model.id}/bring`, form);
    if (found.gives === 'step') {
      take(found);
      const p = part(),
        made = p.steps[(p.now ?? p.steps.length) - 1];
      say(`${chosen.name} is step ${p.steps.indexOf(made) + 1}. ${found.notes.join(' ')}`);
      once = true;
      openBar(made.kind, made.id);
    } else if (found.gives === 'underlay') {
      take(found);
      hint(`${chosen.name} lies under the sketch. ${found.notes.join(' ')}`);
    } else if (found.gives === 'curves') place(chosen.name, found);
    else
      await edit({ kind: 'bring_parameters', rows: found.data.rows })
        .then(() => say(`${found.data.rows.length} parameters brought in.`))
        .catch(() => {});
  } catch (/** @type {any} */ problem) {
    if (problem.status !== 499) complain(problem.message ?? 'The file could not be sent.');
  }
  reading = null;
  $('busy').hidden = true;
}
let once = false; // a part that was brought in is shown whole
on('shown', () => {
  if (once) {
    once = false;
    fit();
  }
});
$('stop').addEventListener('click', () => {
  if (reading) ask('/stop', { ticket: me }).catch(() => {});
});

// a drawing: in which unit? what it comes to in each is shown, then it is put at the origin
/** @param {string} name @param {any} found */
function place(name, found) {
  const { data } = found,
    dialog = $('drawing-dialog'),
    [low, high] = data.box,
    wide = high[0] - low[0],
    tall = high[1] - low[1];
  const unit = data.unit ? `the file says ${data.unit}` : 'the file does not say in which unit';
  $('drawing-says').textContent = `${data.curves} curves, ${data.joins} ends joined; ${unit}. ${found.notes.join(' ')}`;
  const choice = $('drawing-unit');
  choice.replaceChildren(
    ...Object.entries(MM).map(([u, k]) =>
      html(
        'option',
        { value: k, selected: u === (data.unit || 'mm') },
        `${u}: ${+(wide * k).toPrecision(5)} × ${+(tall * k).toPrecision(5)} mm`,
      ),
    ),
  );
  dialog.querySelector('h2').textContent = `Bring in ${name}`;
  dialog.querySelector('form').onsubmit = async event => {
    event.preventDefault();
    dialog.close();
    const k = Number(choice.value),
      corner =
        $('drawing-at').value === 'corner'
          ? [-low[0] * k, -low[1] * k]
          : $('drawing-at').value === 'middle'
            ? [(-(low[0] + high[0]) / 2) * k, (-(low[1] + high[1]) / 2) * k]
            : [0, 0];
    await edit({ kind: 'paste', sketch: openSketch().id, clip: data.clip, by: corner, scale: k }).catch(() => {});
    hint(`${name} is in the sketch; its sizes are free until dimensions hold them.`);
  };
  $('drawing-drop').onclick = () => dialog.close();
  dialog.showModal();
  dialog.querySelector('.btn.k').focus();
}

// dropping a file anywhere on the view
const view = $('view');
view.addEventListener('dragover', event => {
  if (event.dataTransfer?.types.includes('Files')) {
    event.preventDefault();
    view.classList.add('dropping');
  }
});
view.addEventListener('dragleave', () => view.classList.remove('dropping'));
view.addEventListener('drop', event => {
  view.classList.remove('dropping');
  const [one] = event.dataTransfer?.files ?? [];
  if (one) {
    event.preventDefault();
    bring(one);
  }
});
