// Help with a sketch: how what is free moves, what would hold it, the ways out of a conflict.
import { $, html, svg } from '../core/dom.js';
import { S, emit, on, openSketch } from '../core/state.js';
import { ask } from '../core/api.js';
import { inSketch } from '../view/places.js';
import * as dimension from './dimension.js';
import { draft, redraw } from './layer.js';
import { chip, drawing, mine } from './pieces.js';

// show how it moves: real motions, frame by frame
let swinging = 0;
export function stopSwing() {
  swinging += 1;
}
export async function swing() {
  const run = ++swinging,
    still = matchMedia('(prefers-reduced-motion: reduce)').matches;
  const motions = await ask(`/sketches/${openSketch().id}/motions`).catch(() => []);
  const help = $('sketch-help');
  if (!motions.length || run !== swinging) {
    help.textContent = 'Nothing can move.';
    return;
  }
  help.replaceChildren(
    html(
      'ol',
      { class: 'motions' },
      ...motions.map((m, i) =>
        html(
          'li',
          {},
          html(
            'button',
            {
              class: 'fix',
              type: 'button',
              onclick: () => {
                swinging += 1;
                play([m], swinging, still);
              },
            },
            `${i + 1}. ${m.text}`,
          ),
        ),
      ),
    ),
  );
  play(motions, run, still);
}
/** @param {any[]} motions @param {any} run @param {boolean} still */
async function play(motions, run, still) {
  for (const m of motions) {
    for (const [i, frame] of (still ? [m.frames[Math.floor(m.frames.length / 4)]] : m.frames).entries()) {
      if (run !== swinging || !drawing()) {
        draft.nodes = [];
        redraw();
        return;
      }
      draft.nodes = [
        inSketch(
          ...Object.values(frame).map(d => svg('path', { class: 'swing', d, 'vector-effect': 'non-scaling-stroke' })),
        ),
      ];
      redraw();
      await new Promise(r => setTimeout(r, still ? 900 : 34));
      void i;
    }
  }
  draft.nodes = [];
  redraw();
}

export async function suggest() {
  const found = await ask(`/sketches/${openSketch().id}/suggestions`).catch(() => []);
  let at = 0;
  const help = $('sketch-help');
  const show = () => {
    if (!found.length) {
      help.textContent = 'No suggestion: drag what is free and dimension it.';
      return;
    }
    const p = found[at];
    S.selection = p.refs.filter(r => r !== 'new');
    emit('selection');
    help.replaceChildren(
      html('p', { class: 'suggestion' }, p.text + (p.value ? ` (now ${p.value})` : '')),
      chip(
        'do it',
        async () => {
          await mine(p.value ? { ...p.edit, value: p.value } : p.edit);
          S.selection = [];
          emit('selection');
          if (S.sketch?.freedom) suggest();
        },
        { id: 'do-suggestion' },
      ),
      ...(found.length > 1
        ? [
            chip('another', () => {
              at = (at + 1) % found.length;
              show();
            }),
          ]
        : []),
      chip('no', () => {
        help.replaceChildren();
        S.selection = [];
        emit('selection');
      }),
    );
    $('do-suggestion').focus();
  };
  show();
}

// a refused constraint or dimension: what it fights with, and the ways out
on('refused', problem => {
  if (!drawing() || !problem.fights?.length) return;
  S.fights = problem.fights;
  redraw();
  const help = $('sketch-help'),
    asked = problem.edit,
    over = () => {
      S.fights = [];
      help?.replaceChildren();
      redraw();
    };
  /** @param {string} id */
  const word = id =>
    problem.words?.[problem.fights.indexOf(id)] ?? openSketch().marks.find(m => m.id === id)?.text ?? 'a join';
  if (!help || !['add_constraint', 'add_dimension', 'set_dimension'].includes(asked?.kind)) {
    setTimeout(over, 6000);
    return;
  }
  /** @param {string} id */
  const retry = async id => {
    over();
    if (await mine({ kind: 'delete_from_sketch', ids: [id] })) await mine(asked);
  };
  help.replaceChildren(
    html(
      'div',
      { class: 'fight', role: 'group', 'aria-label': 'Ways out of the conflict' },
      html('b', {}, 'It fights with what is marked.'),
      ...(asked.kind === 'add_dimension'
        ? [
            chip('make it a reference', () => {
              over();
              mine({ ...asked, driving: false });
              dimension.stop();
            }),
          ]
        : []),
      ...problem.fights.slice(0, 9).map((/** @type {string} */ id) =>
        chip(
          `remove ${word(id)}`,
          () => {
            dimension.stop();
            retry(id);
          },
          {
            onmouseenter: () => {
              S.hot = id;
              redraw();
            },
            onmouseleave: () => {
              S.hot = null;
              redraw();
            },
          },
        ),
      ),
      chip('drop it', () => {
        over();
        dimension.stop();
      }),
    ),
  );
});
