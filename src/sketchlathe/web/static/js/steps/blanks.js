// One editor for each type of blank, in `blanks/`. They know types, never kinds of steps.
import { emit } from '../core/state.js';
import { candidates } from '../sketch/layer.js';
import { axis } from './blanks/axis.js';
import { curve } from './blanks/curve.js';
import { geometry } from './blanks/geometry.js';
import { members } from './blanks/members.js';
import { bodies, steps } from './blanks/named.js';
import { otherPart } from './blanks/part.js';
import { path } from './blanks/path.js';
import { plane } from './blanks/plane.js';
import { points } from './blanks/points.js';
import { regions } from './blanks/regions.js';
import { thing } from './blanks/thing.js';
import { variant } from './blanks/variant.js';
import { choice, number, text } from './blanks/typed.js';

// what of the solid blanks of some types take
/** @type {Record<string, string[]>} */
export const TAKES = { faces: ['face'], edges: ['edge', 'face'] };
/** @type {Record<string, MakeEditor>} */
export const EDITORS = {
  length: number,
  angle: number,
  count: number,
  choice,
  regions,
  curve,
  path,
  plane,
  text,
  members,
  axis,
  points,
  bodies,
  steps,
  thing,
  part: otherPart,
  variant,
  faces: geometry(TAKES.faces, 'face', 'faces'),
  edges: geometry(TAKES.edges, 'edge', 'edges'),
};
/** @param {string} type */
export const isPick = type => !['length', 'angle', 'count', 'choice', 'text', 'members', 'variant'].includes(type);
export const forget = () => {
  candidates.list = [];
  candidates.lines = [];
  candidates.points = [];
  candidates.chosen = new Set();
  candidates.pick = null;
  emit('layer');
};
