// What may be asked of the Bench from outside: by tests, proofs and benchmarks, and in the browser's console.
export { S } from './core/state.js';
export * as panels from './core/panels.js';
export * as channel from './sketch/channel.js';
export { camera } from './view/camera.js';
export * as places from './view/places.js';
export * as scene from './view/scene.js';
