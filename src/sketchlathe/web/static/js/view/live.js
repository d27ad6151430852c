// The part while a number is dragged: between exact builds its mesh goes from one to the other, sixty times a second.
// What is shown so is a preview; the exact part takes its place when the hand rests.
import * as T from 'three-kit';
import { S, built } from '../core/state.js';
import { ask } from '../core/api.js';
import { working } from '../core/rest.js';
import { loadArrays, loadBody } from './meshes.js';
import { draw, setInstead } from './scene.js';
import { inkLine, paintedAs } from './stuff.js';

const BEYOND = 0.6, // of what lies between two known states: so far beyond them the picture is believed
  REST = 24; // ms
export class Live {
  // edit(value) → the edit that gives the number a value; exact(answer, problem) hears of every exact build
  /** @param {number} value @param {(value: number) => object} edit
   @param {(value: number, answer: any, problem: any) => void} exact */
  constructor(value, edit, exact) {
    this.from = this.value = value;
    this.edit = edit;
    this.exact = exact;
    /** @type {{ value: number, places: Map<string, any> | null }[]} */
    this.keys = [{ value, places: null }];
    /** @type {any[]} */
    this.bodies = [];
    this.name = '';
    this.group = new T.Group();
    this.me = `v${Math.random().toString(36).slice(2, 9)}`;
    this.ended = false;
    this.asking = false;
    this.wanted = null;
    this.ready = this.load();
  }
  async load() {
    this.bodies = await Promise.all(
      (S.build?.bodies ?? []).map(async facts => {
        const body = await loadBody(facts.key),
          still = body.geometry.getAttribute('position').array,
          geometry = new T.BufferGeometry(),
          lines = new T.LineSegmentsGeometry(),
          ends = segmentsOf(body);
        geometry.setAttribute('position', new T.BufferAttribute(still.slice(), 3));
        geometry.setAttribute('normal', body.geometry.getAttribute('normal'));
        geometry.setIndex(body.geometry.index);
        lines.setPositions(new Float32Array(3 * ends.length));
        const nodes = [new T.Mesh(geometry, paintedAs(facts.id)), new T.LineSegments2(lines, inkLine)];
        for (const node of nodes) node.frustumCulled = false;
        this.group.add(...nodes);
        return { id: facts.id, still, stillLines: body.lines, geometry, lines, ends };
      }),
    );
  }
  // the number is at a value: the picture goes there at once, if it can. An exact build is asked for where what is
  // known does not reach, and when the hand rests: builds that nobody sees take the time that the picture needs.
  /** @param {number} value */
  to(value) {
    this.value = value;
    this.show();
    clearTimeout(this.resting);
    working('live', this.reaches(value));
    if (this.reaches(value))
      this.resting = setTimeout(() => {
        working('live', false);
        this.want(value);
      }, REST);
    else this.want(value);
  }
  /** @param {number} value */
  reaches(value) {
    if (this.keys.length < 2) return false;
    const [low, high] = [this.keys[0].value, this.keys[this.keys.length - 1].value],
      more = BEYOND * (high - low);
    return value >= low - more && value <= high + more;
  }
  /** @param {number} value */
  async want(value) {
    this.wanted = value;
    if (this.asking) return;
    this.asking = true;
    while (this.wanted !== null && !this.ended) {
      const at = this.wanted;
      this.wanted = null;
      await this.learn(at);
    }
    this.asking = false;
  }
  /** @param {number} value */
  async learn(value) {
    const question = { part: S.partId, ticket: this.me, edits: [this.edit(value)], near: true };
    try {
      const answer = await ask('/build', question);
      const keys = Object.entries(answer.morphs ?? {});
      const places = new Map(
        await Promise.all(keys.map(async ([id, key]) => /** @type {[string, any]} */ ([id, await loadArrays(key)]))),
      );
      // bodies that stay as they are need no places
      const alike = built().bodies.every(
        b => places.has(b.id) || answer.bodies.some(o => o.id === b.id && o.key === b.key),
      );
      await this.ready;
      if (this.ended) return;
      if (alike && answer.bodies.length === built().bodies.length) {
        this.keys = [...this.keys.filter(k => k.value !== value), { value, places }].sort((a, b) => a.value - b.value);
        this.show();
      }
      this.exact(value, answer, null);
    } catch (/** @type {any} */ problem) {
      if (!this.ended && problem.status !== 499) this.exact(value, null, problem);
    }
  }
  // between the two known states beside the value, or on beyond the last ones
  show() {
    if (this.keys.length < 2 || this.ended) return;
    let i = this.keys.findIndex(k => k.value >= this.value);
    i = Math.min(Math.max(i < 0 ? this.keys.length - 1 : i, 1), this.keys.length - 1);
    const [a, b] = [this.keys[i - 1], this.keys[i]],
      // what lies far beyond what is known is not made up
      t = Math.min(1 + BEYOND, Math.max(-BEYOND, (this.value - a.value) / (b.value - a.value)));
    for (const body of this.bodies) {
      const [one, other] = [a, b].map(k => k.places?.get(body.id) ?? { positions: body.still, lines: body.stillLines });
      blend(body.geometry.getAttribute('position'), one.positions, other.positions, t);
      blend(body.lines.getAttribute('instanceStart').data, one.lines, other.lines, t, body.ends);
    }
    setInstead(this.group);
    this.shows = true;
    draw();
  }
  end() {
    this.ended = true;
    clearTimeout(this.resting);
    working('live', false);
    setInstead(null);
    for (const body of this.bodies) {
      body.geometry.dispose();
      body.lines.dispose();
    }
    if (this.asking) ask('/stop', { ticket: this.me }).catch(() => {});
  }
}
// each place at a share between two others; `ends`: which places, one after the other (all, where nothing is said)
/** @param {any} buffer @param {Vec} one @param {Vec} other @param {number} t @param {any} ends */
export function blend(buffer, one, other, t, ends = null) {
  const { array } = buffer;
  if (ends)
    ends.forEach((/** @type {number} */ from, /** @type {number} */ to) => {
      for (let k = 0; k < 3; k += 1)
        array[3 * to + k] = one[3 * from + k] + t * (other[3 * from + k] - one[3 * from + k]);
    });
  else for (let i = 0; i < array.length; i += 1) array[i] = one[i] + t * (other[i] - one[i]);
  buffer.needsUpdate = true;
}
// both ends of every stretch of the edges that are seen
/** @param {Body} body */
function segmentsOf(body) {
  const ends = [];
  for (const edge of body.edges)
    if (edge.faces.length > 1 && !edge.seam)
      for (let i = edge.at[0]; i < edge.at[0] + edge.at[1] - 1; i += 1) ends.push(i, i + 1);
  return ends;
}
