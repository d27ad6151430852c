// The keyboard over the open sketch: [ and ] walk through everything, Enter selects.
import { $, targetOf } from '../core/dom.js';
import { S, openSketch } from '../core/state.js';
import { hint } from '../ui/messages.js';
import { onKey } from '../ui/keys.js';
import * as acts from './acts.js';
import { keep } from './board.js';
import { remove, select } from './choosing.js';
import * as dimension from './dimension.js';
import { holding } from './holding.js';
import { light } from './layer.js';
import { passes } from './readouts.js';
import * as taking from './taking.js';
import * as tool from './tool.js';

const view = $('view');
const drawing = () => S.mode === 'sketch';

let walking = -1;
/** @param {number} by */
function walk(by) {
  if (tool.active()) {
    tool.walk(by);
    return;
  }
  const all = [
    'origin',
    'x_axis',
    'y_axis',
    ...openSketch().curves.flatMap(c => [c.id, ...c.points.map(p => p.ref)]),
    ...openSketch().dimensions.map(d => d.id),
    ...openSketch().marks.map(m => m.id),
  ];
  walking = (walking + by + all.length) % all.length;
  const hot = all[walking];
  S.hot = hot;
  const c = openSketch().curves.find(x => x.id === hot.split('.')[0]),
    other = openSketch().dimensions.find(d => d.id === hot) ?? openSketch().marks.find(m => m.id === hot);
  const fixed = { origin: 'the origin', x_axis: 'the horizontal axis', y_axis: 'the vertical axis' }[hot],
    said = c?.word ?? (other ? `${'word' in other ? other.word : ''} ${other.text}`.trim() : fixed),
    point = hot.includes('.') ? `${hot.split('.')[1]} of ` : '';
  hint(`${point}${said}: Enter to ${dimension.active() ? 'dimension it' : 'select it'}`);
  light(S.hot);
}
onKey(event => {
  if (!drawing() || targetOf(event).closest('dialog')) return false;
  const writing = targetOf(event).matches('input, select');
  if (writing) return false;
  if (event.key === 'Escape') {
    if (dimension.back() || holding.back() || acts.back() || taking.back() || tool.back()) {
      return true;
    }
    if (S.selection.length) {
      select([], false);
      return true;
    }
    return false;
  }
  if (event.key === 'Delete' || event.key === 'Backspace') {
    remove();
    return true;
  }
  // digits with a dimension chosen are its new number
  const [only] = S.selection,
    size = S.selection.length === 1 && !tool.active() && openSketch().dimensions.find(d => d.id === only);
  if (size && size.driving && /^[0-9.]$/.test(event.key)) {
    dimension.change(only, event.key);
    return true;
  }
  if (event.key === '`') {
    tool.cycleSnap();
    return true;
  }
  if (tool.typing(event)) return true;
  if ((event.ctrlKey || event.metaKey) && event.key === 'c') {
    acts.copy();
    return true;
  }
  if ((event.ctrlKey || event.metaKey) && event.key === 'v') {
    acts.paste();
    return true;
  }
  if ((event.ctrlKey || event.metaKey) && event.key === 'a') {
    select(
      openSketch()
        .curves.filter(c => passes(c.id))
        .map(c => c.id),
      false,
    );
    hint(`${S.selection.length} selected`);
    return true;
  }
  if (event.key === ']' || event.key === '[') {
    walk(event.key === ']' ? 1 : -1);
    return true;
  }
  if (event.key === 'Enter' && event.target === view) {
    if (dimension.active()) {
      if (S.hot && dimension.click) {
        const ref = S.hot;
        S.hot = null;
        dimension.click(ref, [openSketch().size * 0.4, -openSketch().size * 0.2]);
        return true;
      }
      return dimension.nudge();
    }
    if (acts.active()) return acts.enter(S.hot);
    if (holding.active() && S.hot) {
      holding.click(S.hot);
      return true;
    }
    if (tool.active() && !tool.rests()) {
      tool.enter();
      return true;
    }
    if (S.hot) {
      const d = openSketch().dimensions.find(x => x.id === S.hot);
      if (d && S.selection.includes(d.id)) dimension.change(d.id);
      else select([S.hot], event.shiftKey || S.selection.length > 0);
      return true;
    }
    keep();
    return true;
  }
  return false;
});
