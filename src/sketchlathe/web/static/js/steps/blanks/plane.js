// A plane: of the origin, a flat face, a datum.
import { part } from '../../core/state.js';
import { everything, located } from '../picks.js';
import { button, datums, PLANES, leave } from './shared.js';

/** @type {MakeEditor} */
export function plane(blank, value, changed, bar) {
  const node = button(blank);
  /** @param {any} v */
  const word = v => {
    node.say(
      v?.plane
        ? PLANES[v.plane]
        : v?.face
          ? 'the picked face'
          : v?.datum
            ? (part().steps.find(s => s.id === v.datum)?.title ?? 'datum')
            : 'plane or flat face…',
    );
  };
  let now = value;
  /** @param {any} v */
  const choose = v => {
    now = v;
    word(v);
    changed(v);
    if (!bar.single && bar.isActive()) activate();
  };
  const activate = () => {
    const given = datums(bar, 'plane'),
      flat = everything(['face']).filter(h => h.body.faces[h.index].frame);
    bar.list([
      ...Object.entries(PLANES).map(([key, text], i) => ({
        id: key,
        text: `${i + 1}  ${text}`,
        on: now?.plane === key,
        radio: true,
        toggle: () => choose({ plane: key }),
      })),
      ...given.map((s, i) => ({
        id: s.id,
        text: `${i < 6 ? `${i + 4}  ` : ''}${s.title}`,
        on: now?.datum === s.id,
        radio: true,
        toggle: () => choose({ datum: s.id }),
      })),
    ]);
    const walkable = [
      ...Object.keys(PLANES).map(plane => ({ plane, says: PLANES[plane] })),
      ...given.map(s => ({ datum: s.id, says: s.title })),
      ...flat,
    ];
    let walked = -1;
    bar.walks({
      walk: by => {
        walked = (walked + by + walkable.length) % walkable.length;
        bar.lightSheet(walkable[walked].plane ?? null);
        return walkable[walked];
      },
      take: thing => {
        choose(
          thing.what
            ? { face: thing.body.faces[thing.index].pick }
            : thing.plane
              ? { plane: thing.plane }
              : { datum: thing.datum },
        );
        return '';
      },
    });
    bar.sheets(key => choose({ plane: key }));
    bar.takes(['face'], hit => {
      const face = hit.body.faces[hit.index];
      if (!face.frame) return 'That face is not flat: pick a flat one.';
      choose({ face: face.pick });
      return '';
    });
    bar.digits(d => {
      const key = Object.keys(PLANES)[d - 1];
      if (key) choose({ plane: key });
      else if (given[d - 4]) choose({ datum: given[d - 4].id });
    });
    bar.marked(() => located(now?.face ? [now.face] : []));
    bar.note(blank.hint);
  };
  word(value);
  return {
    node,
    activate,
    deactivate: () => {
      leave(bar);
      bar.sheets(null);
    },
    set: v => {
      now = v;
      word(v);
    },
    finishes: bar.single,
    goesOn: !bar.single,
    unchosen: () => !(now?.plane || now?.face || now?.datum),
    empty: () => !bar.single && !blank.optional && !(now?.plane || now?.face || now?.datum),
  };
}
