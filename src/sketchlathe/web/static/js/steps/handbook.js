// The handbook beside the work: F1 or a question mark opens the page of what one is doing, in a tab of its own.
import { $ } from '../core/dom.js';
import { active } from '../sketch/tool.js';
import { isOpen, now } from './filling.js';

const link = $('handbook'),
  contents = link.href;
const page = () => {
  const tool = active();
  return isOpen() ? `/step/${now.kind.kind}` : tool ? `/draw/${tool.kind}` : '';
};

link.addEventListener('click', () => {
  link.href = contents + page();
});
document.addEventListener('keydown', event => {
  if (event.key !== 'F1') return;
  event.preventDefault();
  link.click();
});
document.addEventListener('click', event => {
  if (event.target instanceof Element && event.target.closest('.about')) link.click();
});
