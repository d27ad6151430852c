// The printer live: what it prints, what waits, its spool; what can be told to it.
import { $, html } from '../core/dom.js';
import { talk } from '../core/talk.js';
import { facts, hours, tell } from './shared.js';

/** @type {any} */
let state = null;
/** @param {string} path */
const deeds = path => talk(`/printer/${path}`, {}).catch(problem => tell(problem.message));
function printer() {
  const box = $('printer');
  box.className = 'printer';
  if (!state) {
    box.textContent = 'Asking…';
    return;
  }
  $('queue').disabled = state.state === 'lost';
  if (state.state === 'lost') {
    box.replaceChildren(
      html('p', { class: 'lost mb-1' }, '✗ The printer does not answer.'),
      html('p', { class: 'mb-1' }, 'What it was printing goes on there or has stopped; it is asked again by itself.'),
      ...(facts.alone
        ? [html('button', { class: 'btn', type: 'button', onclick: () => deeds('faults/back') }, 'Plug it in again')]
        : []),
    );
    return;
  }
  const j = state.job,
    nodes = [];
  if (j) {
    const done = html('i');
    done.style.width = `${j.percent}%`;
    nodes.push(
      html('div', { class: 'row2' }, html('b', {}, j.state), html('span', { class: 'num' }, `${j.percent} %`)),
      html('div', {}, j.name),
      html('div', { class: 'jobbar', role: 'progressbar', 'aria-valuenow': j.percent, 'aria-label': 'printed' }, done),
    );
    nodes.push(
      html(
        'div',
        { class: 'row2' },
        html('span', {}, 'layer'),
        html('span', { class: 'num' }, `${j.layer} of ${j.layers}`),
      ),
      html('div', { class: 'row2' }, html('span', {}, 'left'), html('span', { class: 'num' }, hours(j.seconds_left))),
    );
    if (j.why) nodes.push(html('p', { class: 'lost mb-1' }, `▲ ${j.why}`));
    if (j.mine)
      nodes.push(
        j.state === 'paused'
          ? html('button', { class: 'btn', type: 'button', onclick: () => deeds(`resume/${j.id}`) }, 'Resume')
          : html('button', { class: 'btn', type: 'button', onclick: () => deeds(`pause/${j.id}`) }, 'Pause'),
        html('button', { class: 'btn', type: 'button', onclick: () => deeds(`cancel/${j.id}`) }, 'Cancel'),
      );
  } else nodes.push(html('p', { class: 'mb-1' }, 'It is idle.'));
  for (const w of state.waiting)
    nodes.push(
      html(
        'div',
        { class: 'row2' },
        html('span', {}, `waiting: ${w.name}`),
        ...(w.mine
          ? [html('button', { class: 'fix', type: 'button', onclick: () => deeds(`cancel/${w.id}`) }, 'cancel')]
          : []),
      ),
    );
  const last = state.ended.at(-1);
  if (last && !j) nodes.push(html('p', { class: 'mb-1' }, `Last: ${last.name}, ${last.state}.`));
  nodes.push(
    html(
      'div',
      { class: 'row2' },
      html('span', {}, 'spool'),
      html('span', { class: 'num' }, `${state.filament} m left`),
    ),
  );
  if (state.filament < 20)
    nodes.push(html('button', { class: 'btn', type: 'button', onclick: () => deeds('spool') }, 'Put a new spool on'));
  if (facts.alone)
    nodes.push(
      html(
        'details',
        { class: 'shows' },
        html('summary', {}, 'practise faults'),
        html('button', { class: 'btn', type: 'button', onclick: () => deeds('faults/filament') }, 'Run out'),
        html('button', { class: 'btn', type: 'button', onclick: () => deeds('faults/lost') }, 'Pull the plug'),
      ),
    );
  const open = box.querySelector('details')?.open;
  box.replaceChildren(...nodes);
  if (open) box.querySelector('details').open = true;
}
if (facts.printer) {
  const live = new EventSource('/printer/events');
  live.onmessage = event => {
    state = JSON.parse(event.data);
    printer();
  };
  live.onerror = () => {
    if (live.readyState === EventSource.CLOSED) {
      state = { state: 'lost' };
      printer();
    }
  };
  printer();
}
