// What a step that is tried comes to, in words.
import { S } from '../core/state.js';
import { titleOfBody } from './names.js';

/** @param {any} result */
export const draftStep = result =>
  result.steps.filter((/** @type {{ status: string }} */ s) => s.status !== 'after').at(-1);
/** @param {any} result @returns {any[]} */
export const advice = result => draftStep(result)?.advice ?? [];
/** @param {number} mm3 */
function volume(mm3) {
  const inch = S.model.units === 'in';
  return `${+(mm3 / (inch ? 25.4 ** 3 : 1000)).toPrecision(4)} ${inch ? 'in' : 'cm'}³`;
}
/** @param {any} own */
export function said(own) {
  const change = own.change ? `${own.change > 0 ? '+' : '−'}${volume(Math.abs(own.change))}` : '';
  const on_ = (own.worked_on ?? []).map(titleOfBody).join(', ');
  const along = own.along ? `along ${own.along} edge${own.along > 1 ? 's' : ''}` : '';
  const took = own.took?.join(', ');
  return [took && `${took};`, change, along, on_ && `on ${on_}`].filter(Boolean).join(' ');
}
