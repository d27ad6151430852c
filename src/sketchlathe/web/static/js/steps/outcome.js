// What a step that is tried comes to, in words.
import { S } from '../core/state.js';
import { titleOfBody } from './names.js';

export const draftStep = result => result.steps.filter(s => s.status !== 'after').at(-1);
export const advice = result => draftStep(result)?.advice ?? [];
function volume(mm3) {
  const inch = S.model.units === 'in';
  return `${+(mm3 / (inch ? 25.4 ** 3 : 1000)).toPrecision(4)} ${inch ? 'in' : 'cm'}³`;
}
export function said(own) {
  const change = own.change ? `${own.change > 0 ? '+' : '−'}${volume(Math.abs(own.change))}` : '';
  const on_ = (own.worked_on ?? []).map(titleOfBody).join(', ');
  return [change, on_ && `on ${on_}`].filter(Boolean).join(' ');
}
