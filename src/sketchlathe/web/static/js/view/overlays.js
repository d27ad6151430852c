// Over the solids: what bodies share, what is gone and what has come; and another state in one half of the view.
import * as T from 'three-kit';
import { loadBody, outline, proper } from './meshes.js';
import { beside, draw, over, setDivide } from './scene.js';
import { inkLine, lineMaterial, overlay, paintedAs } from './stuff.js';

// each sort has its colour and its hatching, by the pixel, and is seen through everything
/** @param {string} colour @param {number} sense */
function hatched(colour, sense) {
  return new T.ShaderMaterial({
    transparent: true,
    depthTest: false,
    depthWrite: false,
    uniforms: { ink: { value: new T.Color(colour) }, sense: { value: sense } },
    vertexShader: 'void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
    fragmentShader: `uniform vec3 ink; uniform float sense;
      void main() { float d = abs(fract((gl_FragCoord.x + sense * gl_FragCoord.y) / 11.0) - 0.5) * 11.0;
        gl_FragColor = vec4(ink, mix(0.62, 0.13, smoothstep(0.6, 1.5, d)));
        #include <colorspace_fragment>
      }`,
  });
}
/** @type {Record<string, any[]>} */
const STAINS = {
  overlap: [overlay(0xa8005f, 0.5), lineMaterial(0xa8005f, 2)],
  gone: [hatched('#a8005f', 1), lineMaterial(0xa8005f, 2, true)],
  come: [hatched('#1f6f4a', -1), lineMaterial(0x1f6f4a, 2)],
};
for (const [paint, line] of Object.values(STAINS)) {
  paint.depthTest = false;
  line.depthTest = false;
}
// list: [{key, sort}]
/** @param {{ key: string, sort: string }[]} list */
export async function showStains(list) {
  const bodies = await Promise.all(list.map(async f => ({ body: await loadBody(f.key), sort: f.sort }))).catch(
    () => [],
  );
  over.clear();
  for (const { body, sort } of bodies) {
    const [paint, line] = STAINS[sort];
    over.add(new T.Mesh(body.geometry, paint), outline(body, line, 'proper', proper(body)));
  }
  for (const node of over.children) node.frustumCulled = false;
  draw();
}
/** @param {{ key: string }[]} list */
export const showOverlaps = list => showStains(list.map(f => ({ ...f, sort: 'overlap' })));
// left of the divide other bodies than right of it; null: one state again
/** @param {Told.BodyFacts[] | null} list */
export async function showBeside(list) {
  const found = await Promise.all((list ?? []).map(async facts => ({ facts, body: await loadBody(facts.key) }))).catch(
    () => [],
  );
  beside.clear();
  for (const { facts, body } of found) {
    const mesh = new T.Mesh(body.geometry, paintedAs(facts.id));
    mesh.frustumCulled = false;
    beside.add(mesh, outline(body, inkLine, 'proper', proper(body)));
  }
  if (!list) setDivide(null);
  draw();
}
