// Saying things to the person: problems, questions, the hint line.
import { $, html } from '../core/dom.js';
import { on } from '../core/state.js';

/** @param {string} style @param {string} text @param {[string, () => void][]} [actions] */
function tell(style, text, actions = [], stays = 9000) {
  const box = html('div', { class: style, role: 'alert' }, html('p', {}, text));
  box.born = performance.now();
  const shut = () => box.remove();
  for (const [word, act] of actions)
    box.append(
      html(
        'button',
        {
          class: 'fix',
          type: 'button',
          onclick: () => {
            shut();
            act();
          },
        },
        word,
      ),
    );
  box.append(html('button', { class: 'iconbtn', type: 'button', 'aria-label': 'Dismiss', onclick: shut }, '✕'));
  const zone = $('problem');
  for (const old of [...zone.children]) if (old.querySelector('p')?.textContent === text) old.remove();
  while (zone.children.length > 2) zone.firstChild?.remove();
  zone.append(box);
  setTimeout(shut, stays);
}
// when the model has changed since, a complaint's cause is gone
on('model', () => {
  for (const box of [...$('problem').children])
    if (box.matches('.problem') && performance.now() - (box.born ?? 0) > 600) box.remove();
});
/** @param {string} text @param {[string, () => void][]} [actions] */
export const complain = (text, actions) => tell('problem', text, actions);
/** @param {string} text @param {[string, () => void][]} [actions] */
export const say = (text, actions) => tell('telling', text, actions, 6000);
/** @param {string} text */
export const hint = text => {
  $('hint').textContent = text;
};

// A question with named answers; resolves with the key of the one chosen, or null.
/** @param {string} title @param {string} body @param {string[][]} answers @param {string | null} field */
export function question(title, body, answers, field = null) {
  const dialog = $('ask');
  $('ask-title').textContent = title;
  const input =
    field === null ? null : html('input', { class: 'form-control', value: field, maxlength: 120, 'aria-label': title });
  $('ask-body').replaceChildren(...(body ? [html('p', {}, body)] : []), ...(input ? [input] : []));
  return new Promise(answer => {
    /** @param {string | null} key */
    const done = key => {
      dialog.close();
      answer(key === null ? null : input ? input.value : key);
    };
    $('ask-ends').replaceChildren(
      html('button', { class: 'btn', type: 'button', onclick: () => done(null) }, 'Cancel'),
      ...answers.map(([key, word], i) =>
        html(
          'button',
          { class: i === answers.length - 1 ? 'btn k' : 'btn', type: 'button', onclick: () => done(key) },
          word,
        ),
      ),
    );
    dialog.oncancel = () => answer(null);
    dialog.querySelector('form').onsubmit = event => {
      event.preventDefault();
      done(answers[answers.length - 1][0]);
    };
    dialog.showModal();
    (input ?? $('ask-ends').lastElementChild)?.focus();
    input?.select();
  });
}
