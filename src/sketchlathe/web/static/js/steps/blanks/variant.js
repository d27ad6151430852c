// A variant of the model, or its values of now.
import { S } from '../../core/state.js';
import { choice } from './typed.js';

/** @type {MakeEditor} */
export const variant = (blank, value, changed, bar) =>
  choice(
    { ...blank, words: { '': 'it is now', ...Object.fromEntries(S.model.variants.map(v => [v.id, v.name])) } },
    value ?? '',
    changed,
    bar,
  );
