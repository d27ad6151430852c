// Taking out: what, as which format, how fine; with the number of triangles before, progress and Stop while it runs.
import { $, html } from '../core/dom.js';
import { S, built, kinds, on, part, stepKind } from '../core/state.js';
import { ask, whereAt } from '../core/api.js';
import { Problem } from '../core/talk.js';
import { recall, remember } from '../core/kept.js';
import { complain, say } from '../ui/messages.js';
import { cut, sectionPlane } from '../view/section.js';
import { titleOfBody } from '../steps/names.js';
import { portrait } from '../view/scene.js';

const dialog = $('take-out-dialog'),
  me = `e${Math.random().toString(36).slice(2, 9)}`;
/** @type {Record<string, [number, number]>} */
const FINENESS = { rough: [0.1, 0.5], usual: [0.02, 0.2], fine: [0.005, 0.1], finest: [0.001, 0.04] };
const KEPT = 'take-out';
const choice = { format: '3mf', fineness: 'usual', chord: 0.02, angle: 0.2, ...recall(KEPT, /** @type {any} */ ({})) };
let what = 'part',
  counting = 0;

const isSheet = () => part().sort === 'sheet';
function things() {
  if (isSheet()) return [['part', 'the sheet']];
  const out = [['part', 'the part']];
  if ((S.build?.bodies.length ?? 0) > 1)
    out.push(
      ['separate', 'each body by itself, in a zip'],
      ...built().bodies.map(b => [`body ${b.id}`, `only ${titleOfBody(b.id)}`]),
    );
  for (const s of part().steps) if (stepKind(s.kind).drawn && !s.skipped) out.push([`sketch ${s.id}`, s.title]);
  const hit = S.picked?.length === 1 && S.picked[0].what === 'face' ? S.picked[0].body.faces[S.picked[0].index] : null;
  if (hit?.frame) out.push(['face', 'the picked face']);
  if (cut.across) out.push(['section', 'the section']);
  return out;
}
const flat = () => !['part', 'separate'].includes(what) && !what.startsWith('body ');
const formats = () =>
  [
    ...kinds.formats,
    {
      kind: 'view',
      word: 'Picture of the view',
      ending: 'png',
      hint: 'just what is seen now',
      of: 'part',
      solid: false,
    },
  ].filter(f =>
    isSheet() ? f.of === 'sheet' : flat() ? f.of === 'outline' : f.of === 'part' && (what !== 'separate' || f.solid),
  );
/** @type {() => any} */
const format = () => formats().find(f => f.kind === choice.format) ?? formats()[0];

const offered = () => JSON.stringify([things(), what, formats().map(f => f.kind)]);
let filledWith = '';
function fill() {
  const list = things();
  if (!list.some(([k]) => k === what)) what = 'part';
  filledWith = offered();
  $('take-what').replaceChildren(...list.map(([k, w]) => html('option', { value: k, selected: k === what }, w)));
  $('take-formats').replaceChildren(
    ...formats().map(f =>
      html(
        'label',
        { class: 'format' },
        html('input', {
          type: 'radio',
          name: 'format',
          value: f.kind,
          checked: f.kind === format().kind,
          onchange: () => {
            choice.format = f.kind;
            rememberIt();
            follow();
          },
        }),
        html('b', {}, f.word),
        html('span', { class: 'num' }, `.${what === 'separate' ? 'zip' : f.ending}`),
        html('small', {}, f.hint),
      ),
    ),
  );
  follow();
}
const rememberIt = () => remember(KEPT, choice);
async function follow() {
  const meshed = Boolean(format().meshed);
  $('take-fineness').hidden = !meshed;
  $('take-own').hidden = choice.fineness !== 'own';
  $('take-count').textContent = '';
  $('take-seen').hidden = true;
  if (!meshed || !dialog.open) return;
  const mine = ++counting;
  $('take-count').textContent = 'counting triangles…';
  const found = await ask('/triangles', {
    part: S.partId,
    chord: choice.chord,
    angle: choice.angle,
    ticket: `c${me}`,
  }).catch(problem => problem);
  if (mine !== counting) return;
  if (found.picture) {
    $('take-seen').src = found.picture;
    $('take-seen').hidden = false;
  }
  $('take-count').textContent = found instanceof Problem ? found.message : counted(found);
  $('take-says').textContent = [found.lacks && `This part is ${found.lacks}.`, found.crowded && crowding(found)]
    .filter(Boolean)
    .join(' ');
}
/** @param {{ triangles: number, off: number }} mesh */
function counted({ triangles, off }) {
  const percent = 100 * off,
    exactly = Math.abs(percent) < 0.0005 ? 'exact' : `${percent.toPrecision(2)} % off`;
  return `${triangles.toLocaleString('en').replaceAll(',', ' ')} triangles, volume ${exactly}`;
}
/** @param {any} told */
function crowding({ crowded, bodies }) {
  const cure =
    bodies > 1 ? 'take the bodies out one by one, or move them apart a little' : 'thicken or thin that place a little';
  return (
    `${crowded} edge${crowded > 1 ? 's have' : ' has'} more than two faces: bodies or walls that touch along an ` +
    `edge. Some printers' programs refuse that; ${cure}.`
  );
}
const shown = () => {
  $('take-chord').value = choice.chord;
  $('take-angle').value = String(+((choice.angle * 180) / Math.PI).toPrecision(3));
};
/** @param {string} name */
function fine(name) {
  choice.fineness = name;
  if (FINENESS[name]) [choice.chord, choice.angle] = FINENESS[name];
  shown();
  rememberIt();
  follow();
}
$('take-what').addEventListener('change', () => {
  what = $('take-what').value;
  fill();
});
$('take-fine').addEventListener('change', () => fine($('take-fine').value));
for (const id of ['take-chord', 'take-angle'])
  $(id).addEventListener('change', () => {
    choice.chord = Number($('take-chord').value);
    choice.angle = (Number($('take-angle').value) * Math.PI) / 180;
    rememberIt();
    follow();
  });
$('take-out').addEventListener('click', () => {
  dialog.showModal();
  $('take-fine').value = choice.fineness;
  shown();
  fill();
  $('take-formats').querySelector('input:checked')?.focus();
});
$('take-drop').addEventListener('click', () => {
  if (running) ask('/stop', { ticket: me });
  else dialog.close();
});
// what is offered is made anew only where it is another: a click under way is not lost with its node
on('model', () => {
  if (!dialog.open) return;
  if (offered() === filledWith) follow();
  else fill();
});

let running = false;
function question() {
  const q = new URLSearchParams({ ticket: me });
  if (format().meshed) {
    q.set('chord', choice.chord);
    q.set('angle', choice.angle);
  }
  if (what === 'separate') q.set('separate', '1');
  if (what.startsWith('body ')) q.set('body', what.slice(5));
  if (what.startsWith('sketch ')) q.set('sketch', what.slice(7));
  if (what === 'face') q.set('face', JSON.stringify(S.picked[0].body.faces[S.picked[0].index].pick));
  if (what === 'section') q.set('section', JSON.stringify(sectionPlane()));
  return q;
}
/** @param {Blob} blob @param {string} name */
function keep(blob, name) {
  const link = html('a', { href: URL.createObjectURL(blob), download: name });
  document.body.append(link);
  link.click();
  link.remove();
  setTimeout(() => URL.revokeObjectURL(link.href), 10000);
  const large = blob.size > 1e6 ? `${(blob.size / 1e6).toPrecision(3)} MB` : `${Math.ceil(blob.size / 1e3)} kB`;
  say(`${name} taken out, ${large}.`);
}
$('take-form').addEventListener('submit', async event => {
  event.preventDefault();
  if (running) return;
  if (format().kind === 'view') {
    keep(
      await portrait(),
      `${part()
        .name.toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')}-view.png`,
    );
    dialog.close();
    return;
  }
  running = true;
  $('take-now').disabled = true;
  $('take-drop').textContent = 'Stop';
  $('take-says').textContent = 'Writing…';
  const clock = setInterval(async () => {
    const at = await whereAt(me);
    if (running && at.title) $('take-says').textContent = `${at.title}…`;
  }, 500);
  try {
    const answer = await fetch(`/models/${S.model.id}/parts/${S.partId}/take-out/${format().kind}?${question()}`, {
      headers: { Accept: 'application/json' },
    });
    if (!answer.ok) throw new Problem(await answer.json().catch(() => ({})), answer.status);
    const name =
      /filename="([^"]+)"/.exec(answer.headers.get('Content-Disposition') ?? '')?.[1] ?? `part.${format().ending}`;
    keep(await answer.blob(), name);
    dialog.close();
  } catch (/** @type {any} */ problem) {
    $('take-says').textContent = problem.status === 499 ? 'Stopped.' : problem.message;
    if (!dialog.open && problem.status !== 499) complain(problem.message);
  }
  clearInterval(clock);
  running = false;
  $('take-now').disabled = false;
  $('take-drop').textContent = 'Cancel';
});
dialog.addEventListener('close', () => {
  $('take-says').textContent = '';
});
