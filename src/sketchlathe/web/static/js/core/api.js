// Talking to the server: edits one after the other, each on the revision the person sees.
import { $ } from './dom.js';
import { S, emit, may, openSketch } from './state.js';
import { fill } from './panels.js';
import { during } from './rest.js';
import { Problem, csrf, talk } from './talk.js';
import { complain, say as tellPerson } from '../ui/messages.js';

const base = () => `/api/models/${S.model.id}`;

/** @type {Told.Ask} */
export const ask = (path, body, method) => during(talk(base() + path, body, method));
// where work under a ticket is; without a word where that is not known
/** @param {string} ticket @returns {Promise<Told.Progress>} */
export const whereAt = ticket => ask(`/progress/${ticket}`).catch(() => ({}));
let queue = Promise.resolve();
let waiting = 0;

/** @param {string} word */
function saved(word, style = '') {
  $('saved').textContent = word;
  $('saved').className = `saved ${style}`;
}

// what every answer to a change brings: the model, the open sketch, the panels
/** @param {Told.Changed} answer */
export function take(answer) {
  S.model = answer.state;
  if (answer.sketch && S.sketch && answer.sketch.id === S.sketch.id) {
    const before = S.sketch;
    S.sketch = answer.sketch;
    emit('sketch');
    emit('redrawn', before);
  }
  // an undo may take the open sketch itself away
  if (S.sketch && !S.model.parts.some(p => p.steps.some(s => s.id === openSketch().id))) emit('sketch-gone');
  saved(`saved, revision ${S.model.revision}`);
  fill(answer.panels);
  emit('model');
  if (answer.notice) tellPerson(answer.notice);
}

// `what`: the body, or a function that makes it when its turn has come (null: nothing is sent after all)
/** @param {string} path @param {any} what */
function change(path, what, quiet = false) {
  if (!may('change')) {
    const problem = new Problem({ message: 'This model was shown to you to look at; it is not yours to change.' }, 403);
    if (!quiet) complain(problem.message);
    return Promise.reject(problem);
  }
  waiting += 1;
  saved('saving…', 'busy');
  const run = async () => {
    const body = typeof what === 'function' ? what() : what;
    if (!body) {
      waiting -= 1;
      if (!waiting) saved(`saved, revision ${S.model.revision}`);
      return null;
    }
    try {
      const answer = await ask(path, {
        ...body,
        base: S.model.revision,
        sketch: S.sketch?.id,
        part: S.partId,
        reading: S.reading,
      });
      take(answer);
      return answer;
    } catch (/** @type {any} */ problem) {
      saved(problem.status ? `saved, revision ${S.model.revision}` : 'not saved', problem.status ? '' : 'bad');
      if (problem.stale) await refresh();
      if (!quiet) complain(problem.message);
      emit('refused', Object.assign(problem, { edit: body.edit }));
      throw problem;
    } finally {
      waiting -= 1;
    }
  };
  const result = queue.then(run, run);
  queue = result.catch(() => {});
  return result;
}

// An edit, or a function that makes it in its turn; rejects with a Problem that has been shown already (unless quiet).
/** @param {any} what */
export const edit = (what, quiet = false) =>
  change(
    '/edit',
    typeof what === 'function'
      ? () => {
          const made = what();
          return made && { edit: made };
        }
      : { edit: what },
    quiet,
  );
// a part of another model, brought here or up to date
/** @param {string} model @param {string} from */
export const link = (model, from, into = '') => change('/link', { model, from, into });
export const undo = () => change('/undo', {}).catch(() => {});
export const redo = () => change('/redo', {}).catch(() => {});
/** @param {number} number */
export const restore = number => change(`/restore/${number}`, {}).catch(() => {});
export const settled = () => queue;
export const busy = () => waiting > 0;

/** Bring the page up to date; with what is known of that already. @param {Told.Fresh} [known] */
export async function refresh(known) {
  const { panels, ...model } = known ?? (await ask(`?part=${S.partId}`));
  S.model = model;
  fill(panels);
  if (S.sketch) {
    if (S.model.parts.some(p => p.steps.some(s => s.id === openSketch().id))) {
      S.sketch = await ask(`/sketches/${S.sketch.id}`);
      emit('sketch');
    } else emit('sketch-gone');
  }
  emit('model');
}

document.addEventListener('htmx:configRequest', event => {
  event.detail.headers['X-CSRFToken'] = csrf;
  event.detail.parameters.part = S.partId;
});
