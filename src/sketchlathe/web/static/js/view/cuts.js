// The section on the screen: everything in front of a plane is left out, the cut faces are drawn hatched.
import * as T from 'three-kit';
import { S, on } from '../core/state.js';
import { camera } from './camera.js';
import { beforeDrawing, draw, isHidden, put } from './scene.js';
import { capLine, clipBy } from './stuff.js';

const caps = put(new T.Group());
/** @param {{ origin: number[], normal: number[] } | null} frame */
export function setClip(frame, flipped = false) {
  if (frame) {
    const n = frame.normal.map(v => (flipped ? v : -v));
    clipBy(new T.Plane(new T.Vector3(...n), -n.reduce((sum, v, i) => sum + v * frame.origin[i], 0)));
  } else clipBy(null);
  draw();
}
// Hatching drawn by the pixel, so it is crisp at every zoom; each body its own way (ISO 128-50): direction and
// distance.
const WAYS = [
  [45, 9],
  [135, 9],
  [45, 6],
  [135, 6],
  [60, 12],
  [120, 12],
  [30, 7.5],
  [150, 7.5],
];
const hatching = {
  vertexShader: `varying vec3 place;
    void main() { place = position; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }`,
  fragmentShader: `varying vec3 place; uniform vec3 along; uniform float apart; uniform vec3 ground; uniform vec3 ink;
    void main() { float t = dot(place, along) / apart; float d = abs(fract(t) - 0.5) / max(fwidth(t), 1e-6);
      gl_FragColor = vec4(mix(ink, ground, smoothstep(0.35, 1.15, d)), 1.0);
      #include <colorspace_fragment>
    }`,
};
/** @param {Frame} frame @param {number} number @param {boolean} hot */
function hatchMaterial(frame, number, hot) {
  const [degrees, pixels] = WAYS[number % WAYS.length],
    a = (degrees * Math.PI) / 180;
  const along = new T.Vector3(...frame.x)
    .multiplyScalar(Math.cos(a))
    .addScaledVector(new T.Vector3(...frame.y), Math.sin(a));
  const material = new T.ShaderMaterial({
    ...hatching,
    side: T.DoubleSide,
    uniforms: {
      along: { value: along },
      apart: { value: 1 },
      ground: { value: new T.Color(hot ? '#E7C98A' : '#f3e9d2') },
      ink: { value: new T.Color('#84580B') },
    },
  });
  material.pixels = pixels;
  return material;
}
/** @type {any} */
let lastCut = null,
  /** @type {string | null} */
  chosenCut = null;
// the cut faces of the bodies that show; the order of bodies is that of the part, so a body keeps its hatching
/** @param {any} cut */
export function setCaps(cut) {
  for (const { geometry, material } of caps.children) {
    geometry.dispose();
    if (material !== capLine) material.dispose();
  }
  caps.clear();
  lastCut = cut;
  const order = [...(S.build?.bodies ?? []), ...(S.build?.references ?? [])].map(b => b.id);
  for (const b of cut?.bodies ?? []) {
    if (isHidden(b.id)) continue;
    const geometry = new T.BufferGeometry();
    geometry.setAttribute('position', new T.BufferAttribute(new Float32Array(b.positions), 3));
    geometry.setIndex(b.triangles);
    const mesh = new T.Mesh(geometry, hatchMaterial(cut.frame, Math.max(0, order.indexOf(b.id)), chosenCut === b.id));
    mesh.frustumCulled = false;
    mesh.userData.cut = b;
    caps.add(mesh);
    const points = b.lines.flatMap((/** @type {number[][]} */ line) => {
      const out = [];
      for (let i = 0; i + 5 < line.length; i += 3) out.push(...line.slice(i, i + 6));
      return out;
    });
    if (points.length) {
      const lines = new T.LineSegments2(new T.LineSegmentsGeometry().setPositions(points), capLine);
      lines.frustumCulled = false;
      caps.add(lines);
    }
  }
  draw();
}
/** @param {string | null} id */
export function chooseCut(id) {
  if (chosenCut !== id) {
    chosenCut = id;
    setCaps(lastCut);
  }
}
export const capMeshes = () => caps.children.filter((/** @type {any} */ m) => m.userData.cut);
beforeDrawing.push(() => {
  for (const { material } of capMeshes()) material.uniforms.apart.value = material.pixels / camera.scale;
});
on('hidden', () => setCaps(lastCut));
