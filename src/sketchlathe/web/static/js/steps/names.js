// What things of the solid are called, in words: faces and edges by their form and the steps that made them, bodies.
import { S, part } from '../core/state.js';

const SAY = {
  flat: 'flat face',
  cylindrical: 'cylindrical face',
  conical: 'conical face',
  spherical: 'spherical face',
  'ring-shaped': 'ring-shaped face',
  curved: 'curved face',
  straight: 'straight edge',
  circular: 'circular edge',
  point: 'point',
};
const ROLES = {
  start: 'start',
  end: 'end',
  side: 'side',
  cut: 'cut',
  blend: 'rounding',
  bevel: 'bevel',
  rim: 'rim',
  corner: 'corner',
  inner: 'inside wall',
  face: 'face',
  wall: 'wall',
  floor: 'floor',
  tip: 'tip',
  seat: 'seat',
  step: 'step',
  mouth: 'mouth',
};
// the step an atom names, and its role there: "s7:side:c3", "s9:inner(s7:side:c3)", "s12#2(s7:end)"; who first made the
// face may have a word of its own for it
function origin(face) {
  const steps = S.model.parts.flatMap(p => p.steps);
  const said = atom => {
    const [, id, role] = /^([a-z]+\d+)(?::([a-z]+))?/.exec(atom) ?? [],
      [, first, made, source] = /([a-z]+\d+):([a-z]+)(?::([^):]+))?/.exec(atom) ?? [],
      own = steps.find(s => s.id === first)?.faces[`${made}:${source}`],
      i = part().steps.findIndex(s => s.id === id);
    return i < 0 ? '' : `${own ?? (role ? (ROLES[role] ?? 'face') : 'copy')} of step ${i + 1}`;
  };
  return [...new Set(face.pick.atoms.map(said).filter(Boolean))].join(' and ');
}
export function nameOf(hit) {
  if (hit.what === 'face') {
    const f = hit.body.faces[hit.index];
    return `${SAY[f.form] ?? f.form}, ${origin(f)}`;
  }
  if (hit.what === 'edge') {
    const e = hit.body.edges[hit.index];
    const form = e.form === 'curved' ? 'curved edge' : (SAY[e.form] ?? 'curved edge');
    return `${form}, ${origin(hit.body.faces[e.faces[0]])}`;
  }
  return 'corner';
}
export function titleOfBody(id) {
  const built = S.build?.bodies.find(b => b.id === id)?.title;
  const title = part().steps.find(s => s.id === id.split('.')[0])?.title;
  return part().bodyNames?.[id] ?? built ?? `body of ${title ?? 'an earlier step'}`;
}
