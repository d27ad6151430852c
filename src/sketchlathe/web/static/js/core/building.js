// Builds and previews: the newest wins, progress and Stop after half a second.
import { $ } from './dom.js';
import { S, emit, on } from './state.js';
import { ask, whereAt } from './api.js';
import { fill } from './panels.js';
import { complain } from '../ui/messages.js';

const me = Math.random().toString(36).slice(2, 10);
let slow = 0;

/** @param {string} ticket */
function startClock(ticket) {
  clearInterval(slow);
  const started = Date.now();
  slow = setInterval(async () => {
    if (Date.now() - started < 500) return;
    $('busy').hidden = false;
    const at = await whereAt(ticket);
    $('busy').querySelector('span').textContent = at.title
      ? `Building ${at.title} (${(at.number ?? 0) + 1} of ${at.count})`
      : 'Building…';
  }, 300);
}
function stopClock() {
  clearInterval(slow);
  $('busy').hidden = true;
}
let stoppedByHand = false;
$('stop').addEventListener('click', () => {
  stoppedByHand = true;
  ask('/stop', { ticket: `b${me}` });
  ask('/stop', { ticket: `p${me}` });
});

/** @type {Promise<void> | null} */
let flying = null;
let again = false;
let started = 0;
// One build at a time; when the model changes meanwhile a long one is stopped and the newest follows.
export function build() {
  if (!flying) {
    flying = run().finally(() => {
      flying = null;
    });
    return flying;
  }
  if (!again && Date.now() - started > 400) ask('/stop', { ticket: `b${me}` }).catch(() => {});
  again = true;
  return flying;
}
// from nothing, on the server and here: for whoever doubts what is shown
let doubted = false;
export function buildAfresh() {
  doubted = true;
  emit('doubted');
  return build();
}
async function run() {
  do {
    again = false;
    started = Date.now();
    stoppedByHand = false;
    startClock(`b${me}`);
    try {
      const result = await ask('/build', {
        part: S.partId,
        ticket: `b${me}`,
        reading: S.reading,
        ...(doubted ? { afresh: true } : {}),
      });
      doubted = false;
      // the model, or who looks at which part of it, has moved on meanwhile
      if (result.revision !== S.model.revision || result.part !== S.partId) {
        again = true;
        continue;
      }
      S.build = result;
      fill(result.panels);
      emit('build');
    } catch (/** @type {any} */ problem) {
      if (stoppedByHand)
        complain('The build was stopped. The part shown is as it was before.', [['build again', build]]);
      else if (problem.status !== 499) complain(problem.message);
      else again = true;
    }
  } while (again);
  stopClock();
}
on('model', build);

let asked = 0;
let previewing = false;
/** @type {{ question: object, hear: Hearing, number: number } | null} */
let next = null;
// A preview of a draft step, or of the part after some edits; answers only for the newest question.
/** @param {object} draft @param {string[]} touched @param {Hearing} hear */
export const preview = (draft, touched, hear) => wonder({ draft, touched }, hear);
/** @param {object[]} edits @param {Hearing} hear */
export const tryEdits = (edits, hear) => wonder({ edits }, hear);
// one that takes long gives way to a newer question; not sooner, for its worker forgets what it has built
const PATIENCE = 4000;
let flight = 0, // the number of the question that is being answered
  begun = 0,
  giving = 0; // the flight that gives way once its time is up
function giveWay() {
  if (giving === flight) return;
  const mine = (giving = flight);
  setTimeout(
    () => {
      if (previewing && flight === mine && next) ask('/stop', { ticket: `p${me}` }).catch(() => {});
    },
    Math.max(0, begun + PATIENCE - Date.now()),
  );
}
/** @param {object} question @param {Hearing} hear */
async function wonder(question, hear) {
  next = { question, hear, number: ++asked };
  if (previewing) {
    giveWay();
    return;
  }
  previewing = true;
  while (next) {
    const now = next;
    next = null;
    flight = now.number;
    begun = Date.now();
    startClock(`p${me}`);
    try {
      const result = await ask('/build', { part: S.partId, ticket: `p${me}`, ...now.question });
      if (now.number === asked) now.hear(result, null);
    } catch (/** @type {any} */ problem) {
      if (now.number === asked) now.hear(null, problem);
    }
  }
  stopClock();
  previewing = false;
}
export const forgetPreviews = () => {
  asked += 1;
  next = null;
};
