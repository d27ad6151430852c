// Closed regions of sketches; faces and open chains where the blank takes them.
import { html } from '../../core/dom.js';
import { frameOf, part, stepKind, there } from '../../core/state.js';
import { withUnit } from '../../core/units.js';
import { candidates, redraw, viewOf } from '../../sketch/layer.js';
import { inShort } from '../names.js';
import { located } from '../picks.js';
import { button } from './shared.js';

/** @type {MakeEditor} */
export function regions(blank, value, changed, bar) {
  let picks = [...(value ?? [])],
    /** @type {any[]} */
    chains = [],
    offered = false; // chosen by itself: the first click says what is meant instead
  const node = button(blank),
    also = blank.also ?? [];
  /** @type {(pick: any) => boolean} */
  const isFace = p => Boolean(p.atoms),
    /** @type {(pick: any) => boolean} */
    isChain = p => Boolean(p.curve);
  /** @param {number} n @param {string} one */
  const counted = (n, one) => (n ? [`${n} ${one}${n > 1 ? 's' : ''}`] : []);
  const word = () => {
    const faces = picks.filter(isFace).length,
      curves = picks.filter(isChain).length;
    node.say(
      picks.length
        ? [
            ...counted(picks.length - faces - curves, 'region'),
            ...counted(faces, 'face'),
            ...counted(curves, 'open chain'),
          ].join(' and ')
        : 'regions…',
    );
  };
  /** @param {any} pick @returns {string} */
  const idOf = pick =>
    isFace(pick)
      ? `face ${pick.atoms.join('+')} ${pick.centre}`
      : isChain(pick)
        ? `${pick.sketch}~${pick.curve}`
        : `${pick.sketch}|${[...pick.sides].sort().join(' ')}`;
  /** @param {string} id */
  const has = id => picks.some(p => idOf(p) === id);
  /** @param {any} pick */
  const flip = pick => {
    if (offered) picks = [];
    offered = false;
    picks = has(idOf(pick)) ? picks.filter(p => idOf(p) !== idOf(pick)) : [...picks, pick];
    sync();
    changed(picks);
    return '';
  };
  /** @param {any} c */
  const regionPick = c => ({ sketch: c.sketch, sides: c.region.key, known: c.known });
  /** @param {any} c */
  const toggle = c => flip(regionPick(c));
  /** @param {any} pick */
  const tick = pick => {
    offered = false;
    flip(pick);
  };
  const sync = () => {
    word();
    candidates.chosen = new Set(picks.map(idOf));
    candidates.lines = chains.flatMap(c =>
      c.paths.map((/** @type {string} */ path) => ({
        of: idOf(c.pick),
        frame: c.frame,
        path,
        on: has(idOf(c.pick)),
        pick: () => flip(c.pick),
      })),
    );
    bar.list(
      [
        ...candidates.list.map(c => ({
          id: c.id,
          text: c.text,
          on: candidates.chosen.has(c.id),
          toggle: () => tick(regionPick(c)),
        })),
        ...chains.map(c => ({ id: idOf(c.pick), text: c.text, on: has(idOf(c.pick)), toggle: () => tick(c.pick) })),
        ...picks.filter(isFace).map((p, i) => {
          const hit = located([p])[0];
          return { id: idOf(p), text: hit ? inShort(hit) : `face ${i + 1}`, on: true, toggle: () => tick(p) };
        }),
      ],
      candidates.list.length > 1
        ? [
            html(
              'button',
              { class: 'fix', type: 'button', id: 'all-regions', onclick: all },
              candidates.list.every(c => candidates.chosen.has(c.id)) ? 'none' : 'all closed regions',
            ),
          ]
        : [],
    );
    bar.marked(() => located(picks.filter(isFace)));
    redraw();
  };
  const all = () => {
    const every = candidates.list.every(c => candidates.chosen.has(c.id)),
      others = picks.filter(p => isFace(p) || isChain(p));
    offered = false;
    picks = every ? others : [...others, ...candidates.list.map(regionPick)];
    sync();
    changed(picks);
  };
  async function activate() {
    const steps = part().steps,
      end = bar.before ?? part().now ?? steps.length,
      /** @type {any[]} */
      list = [],
      open = [];
    for (const s of steps.slice(0, end)) {
      const frame = stepKind(s.kind).drawn ? frameOf(s.id) : null;
      if (!frame || s.skipped) continue;
      const view = await viewOf(s.id);
      [...view.regions]
        .sort((a, b) => b.area - a.area)
        .forEach((region, i) =>
          list.push({
            id: `${s.id}|${[...region.key].sort().join(' ')}`,
            sketch: s.id,
            frame,
            region,
            known: view.known,
            text: `${s.title}, ${region.letters || `region ${i + 1}`} (${withUnit(region.area, 4, 2)})`,
          }),
        );
      if (also.includes('chains'))
        for (const ids of view.chains)
          open.push({
            frame,
            pick: { sketch: s.id, curve: ids[0] },
            paths: ids.map(id => there(view.curves.find(c => c.id === id)).path),
            text: `${s.title}, open chain for a wall (${ids.length} curve${ids.length > 1 ? 's' : ''})`,
          });
    }
    const used = new Set(steps.flatMap(s => (s.skipped || s.id === bar.id ? [] : s.uses)));
    list.sort((a, b) => Number(used.has(a.sketch)) - Number(used.has(b.sketch)));
    const fresh = list.filter(c => !used.has(c.sketch));
    const only = !picks.length && (fresh.length === 1 || list.length === 1) ? (fresh[0] ?? list[0]) : null;
    if (!bar.isActive()) {
      if (only && bar.isOpen(node)) {
        picks = [regionPick(only)];
        offered = true;
        word();
        changed(picks);
      }
      return;
    }
    candidates.list = list;
    candidates.pick = toggle;
    chains = open;
    if (also.includes('faces'))
      bar.takes(['face'], hit => {
        const face = hit.body.faces[hit.index];
        return face.frame ? flip(face.pick) : 'That face is not flat: pick a flat one.';
      });
    if (only && !picks.length) {
      picks = [regionPick(only)];
      offered = true;
      sync();
      changed(picks);
      return;
    }
    sync();
    if (!list.length && !open.length)
      bar.note(
        also.includes('faces')
          ? 'There is no closed region to pick: draw one in a sketch, or pick a flat face.'
          : 'There is no closed region to pick: draw one in a sketch first.',
      );
  }
  const deactivate = () => {
    candidates.list = candidates.list.filter(c => candidates.chosen.has(c.id));
    candidates.lines = [];
    candidates.pick = null;
    bar.takes(null);
    bar.list([]);
    redraw();
  };
  word();
  return {
    node,
    activate,
    deactivate,
    set: v => {
      picks = [...v];
      offered = false;
      word();
    },
    empty: () => !blank.optional && !picks.length,
    // the only one was found: the next thing is asked for
    get goesOn() {
      return offered;
    },
    unchosen: () => !picks.length,
  };
}
