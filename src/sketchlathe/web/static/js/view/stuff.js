// What solids and lines are drawn with: one material a colour, in the look that was chosen, cut by the section's plane.
import * as T from 'three-kit';
import { S } from '../core/state.js';
import { stuffOf } from '../prove/materials.js';

// how solids look: with or without their edges, see-through, edges behind faint
/** @type {Record<string, { word: string, edges: boolean, opacity: number, behind?: boolean }>} */
export const LOOKS = {
  edges: { word: 'shaded with edges', edges: true, opacity: 1 },
  plain: { word: 'shaded', edges: false, opacity: 1 },
  faint: { word: 'hidden edges faint', edges: true, opacity: 1, behind: true },
  glass: { word: 'see-through', edges: true, opacity: 0.34 },
};
let look = LOOKS.edges;
export const lookNow = () => look;
/** @param {string} name */
export function wear(name) {
  look = LOOKS[name];
  for (const material of paints.values()) dress(material);
}

// one material a colour; bodies without one of their own are stone, painted faces lie a hair over their body
export const STONE = { colour: '#d9cfbb', shine: 0, metal: 0, clear: 0 };
export const paints = new Map();
/** @type {any[]} */
export const clips = []; // the section's plane, shared by all materials of solids
/** @param {{ colour: string, shine?: number, metal?: number, clear?: number }} finish */
export function paintOf({ colour, shine, metal, clear }, over = 0) {
  const key = `${colour} ${shine} ${metal} ${clear} ${over}`;
  if (!paints.has(key)) {
    const common = {
      color: colour,
      polygonOffset: true,
      polygonOffsetFactor: 1.5 - over,
      polygonOffsetUnits: 2 - over,
      clippingPlanes: clips,
    };
    // a metal shines in its own colour, anything else in that of the light
    const made = shine
      ? new T.MeshPhongMaterial({
          ...common,
          shininess: 8 + 70 * shine,
          specular: new T.Color(metal ? colour : '#ffffff').multiplyScalar(metal ? 0.5 * shine : 0.16 * shine),
        })
      : new T.MeshLambertMaterial(common);
    made.clear = clear;
    paints.set(key, dress(made));
  }
  return paints.get(key);
}
// parts that are put together and look alike are told apart by a tint of their own
const TINTS = ['#d9cfbb', '#c2cfca', '#d8c3b2', '#c8c6d6', '#ccd2b4', '#d6cdd0', '#b8c6d2', '#cdbf9f'];
/** @param {string} id @param {any} stuff */
function tintOf(id, stuff) {
  /** @type {(body: any) => string} */
  const source = b => b.brought ?? '',
    bodies = S.build?.bodies ?? [],
    mine = source(bodies.find(b => b.id === id) ?? {}),
    alike = bodies.some(b => b.id !== id && source(b) !== mine && stuffOf(b.id).colour === stuff.colour);
  if (!mine || !alike) return stuff;
  const kinds = [...new Set(bodies.map(source))];
  return { ...stuff, colour: TINTS[kinds.indexOf(mine) % TINTS.length] };
}
/** @param {string} id */
export const paintedAs = id =>
  paintOf(
    finishOf(
      id,
      (S.build?.paints ?? []).filter(p => p.body === id),
    ),
  );
/** @param {string} id @param {{ face: number | null, colour: string }[]} own */
export const finishOf = (id, own) => {
  const stuff = stuffOf(id),
    colour = own.find(p => p.face === null)?.colour;
  return colour ? { ...stuff, colour } : tintOf(id, stuff);
};
/** @param {any} material */
function dress(material) {
  const opacity = Math.min(look.opacity, 1 - (material.clear ?? 0));
  material.opacity = opacity;
  material.transparent = opacity < 1;
  material.depthWrite = opacity === 1;
  material.needsUpdate = true;
  return material;
}
/** @type {any[]} */
const lines = []; // they must know how large the view is
/** @param {number} color @param {number} width */
export const lineMaterial = (color, width, dashed = false, clippingPlanes = /** @type {any[] | null} */ (null)) => {
  lines.push(new T.LineMaterial({ color, linewidth: width, dashed, dashSize: 6, gapSize: 4, clippingPlanes }));
  return lines.at(-1);
};
/** @param {number} width @param {number} height */
export const sizeLines = (width, height) => lines.forEach(m => m.resolution.set(width, height));
export const inkLine = lineMaterial(0x1f2d35, 1.4, false, clips);
/** @param {number} color @param {number} opacity */
export const overlay = (color, opacity) =>
  new T.MeshBasicMaterial({
    color,
    transparent: true,
    opacity,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -1,
    polygonOffsetUnits: -2,
    side: T.DoubleSide,
  });
export const hotFace = overlay(0xc08a2e, 0.3);
export const pickedFace = overlay(0xc08a2e, 0.55);
export const hotLine = lineMaterial(0xc08a2e, 3.5);
export const pickedLine = lineMaterial(0x84580b, 4.5);
export const addedGhost = overlay(0xc08a2e, 0.42);
export const cutGhost = overlay(0x3a3126, 0.34);
export const addedLine = lineMaterial(0x84580b, 1.6);
export const cutLine = lineMaterial(0x3a3126, 1.6, true);
export const behindLine = lineMaterial(0x9a9284, 1, true, clips);
export const capLine = lineMaterial(0x1f2d35, 2);
// what is only for reference: violet, dotted, see-through; nothing of it can be picked
export const referenceLine = lineMaterial(0x63418f, 1.1, true, clips);
export const referenceStuff = new T.MeshLambertMaterial({
  color: '#b9aacd',
  transparent: true,
  opacity: 0.45,
  depthWrite: false,
  side: T.DoubleSide,
  clippingPlanes: clips,
});
behindLine.depthTest = false;
cutGhost.depthTest = false;
cutLine.depthTest = false;

// everything of solids is left out on one side of a plane (none: nothing is)
/** @param {any} plane */
export function clipBy(plane) {
  clips.length = 0;
  if (plane) clips.push(plane);
  for (const material of [
    ...paints.values(),
    inkLine,
    behindLine,
    referenceLine,
    referenceStuff,
    hotFace,
    pickedFace,
    hotLine,
    pickedLine,
  ]) {
    material.clippingPlanes = clips.length ? clips : null;
    material.needsUpdate = true;
  }
}
/** @param {Vec} p */
export const away = p => clips.length > 0 && clips[0].distanceToPoint(new T.Vector3(...p)) < -1e-4;
