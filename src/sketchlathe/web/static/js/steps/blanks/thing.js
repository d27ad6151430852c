// What something is placed by.
import { nameOf, titleOfBody } from '../names.js';
import { everything, located, thingOf } from '../picks.js';
import { button, datums, titleOf, PLANES, AXES, leave } from './shared.js';

// what something is placed by: of a body a face, an edge, a corner; of the origin its planes, axes, itself; datums
/** @type {[any, string][]} */
const STANDING = [
  ...Object.entries(PLANES).map(([key, text]) => /** @type {[any, string]} */ ([{ plane: key }, text])),
  ...Object.entries(AXES).map(([key, text]) => /** @type {[any, string]} */ ([{ axis: key }, text])),
  [{ origin: true }, 'origin'],
];
/** @type {MakeEditor} */
export function thing(blank, value, changed, bar) {
  let now = value ?? {},
    walked = -1;
  const node = button(blank),
    takes = ['face', 'edge', 'vertex'];
  const filled = () => Boolean(now.face || now.edge || now.datum || now.plane || now.axis || now.origin);
  const place = () => {
    const [hit] = located([now.face ?? now.edge].filter(Boolean));
    if (now.at) return `corner of ${titleOfBody(hit?.facts.id ?? '')}`;
    return `${now.spot ? `${now.spot} of ` : ''}${hit ? nameOf(hit, false) : 'what is picked'}`;
  };
  const standing = () => STANDING.find(([v]) => Object.entries(v).every(([k, x]) => now[k] === x))?.[1];
  const word = () => {
    const body = now.face || now.edge;
    const empty = blank.nothing || `${blank.label}…`;
    node.say(body ? place() : now.datum ? titleOf(now.datum) : (standing() ?? empty));
  };
  /** @param {any} v */
  const choose = v => {
    now = v;
    word();
    changed(v);
    if (bar.isActive()) activate();
    return '';
  };
  const onlyBodies = () => blank.only === 'body';
  const activate = () => {
    const given = ['plane', 'axis', 'point'].flatMap(what => datums(bar, what));
    /** @param {string} id @param {string} text @param {any} v */
    const radio = (id, text, v) => ({
      id,
      text,
      on: Object.entries(v).every(([k, x]) => now[k] === x),
      radio: true,
      toggle: () => choose(v),
    });
    // of an edge not only itself can be meant
    const round = located([now.edge].filter(Boolean)).some(h => h.body.edges[h.index].form === 'circular');
    const spots = now.edge && !now.at ? ['', 'middle', ...(round ? ['centre'] : [])] : [];
    bar.list([
      ...spots.map(spot => ({
        id: `spot-${spot}`,
        text: spot ? `its ${spot}` : 'the edge itself',
        on: (now.spot ?? '') === spot,
        radio: true,
        toggle: () => choose({ ...now, spot }),
      })),
      ...(onlyBodies() ? [] : STANDING.map(([v, text]) => radio(text, text, v))),
      ...(onlyBodies() ? [] : given.map(s => radio(s.id, s.title, { datum: s.id }))),
      ...(blank.optional && filled()
        ? [{ id: 'none', text: 'nothing', on: false, radio: true, toggle: () => choose({}) }]
        : []),
    ]);
    /** @param {Hit} hit */
    const take = hit => {
      const v = thingOf(hit);
      return v ? choose(v) : 'Nothing meets at this corner: pick another.';
    };
    bar.takes(takes, take);
    bar.walks({
      walk: by => {
        const all = everything(['edge', 'face']);
        if (!all.length) return null;
        walked = (walked + by + all.length) % all.length;
        return all[walked];
      },
      take,
    });
    bar.marked(() => located([now.face ?? now.edge].filter(Boolean)));
    bar.note(blank.hint);
  };
  word();
  return {
    node,
    activate,
    deactivate: () => leave(bar),
    set: v => {
      now = v ?? {};
      word();
    },
    goesOn: true,
    unchosen: () => !filled(),
    empty: () => (blank.must || !blank.optional) && !filled(),
  };
}
