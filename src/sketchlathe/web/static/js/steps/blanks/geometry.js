// Faces and edges of the solid.
import { html } from '../../core/dom.js';
import { S } from '../../core/state.js';
import { exact } from '../../core/units.js';
import { add, camera, dot } from '../../view/camera.js';
import { niceStep } from '../../view/places.js';
import { inShort } from '../names.js';
import { everything, located, pickOf, samePick } from '../picks.js';
import { button } from './shared.js';

// the direction of a straight edge
/** @param {Body} body @param {MeshEdge} edge */
function runOf(body, edge) {
  /** @param {number} i */
  const at = i => body.lines.subarray(3 * i, 3 * i + 3),
    a = at(edge.at[0]),
    b = at(edge.at[0] + edge.at[1] - 1),
    l = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]) || 1;
  return [0, 1, 2].map(k => (b[k] - a[k]) / l);
}
// where on a flat face somebody clicked: from the two straight edges beside it that run across each other, in handy
// steps; nothing at its middle
/** @param {any} hit @returns {{ pick: any, text: string }[] | null} */
function fromEdges(hit) {
  const face = hit.body.faces[hit.index],
    [x, y] = camera.project(hit.point),
    [mx, my] = camera.project(face.centre);
  if (!face.frame || Math.hypot(x - mx, y - my) < 9) return null;
  const step = niceStep(4),
    /** @type {{ way: number[], pick: any, far: number }[]} */
    edges = hit.body.edges
      .flatMap((/** @type {MeshEdge} */ e, /** @type {number} */ index) => {
        if (e.form !== 'straight' || !e.faces.includes(hit.index) || e.faces.length < 2) return [];
        const way = runOf(hit.body, e),
          start = [...hit.body.lines.subarray(3 * e.at[0], 3 * e.at[0] + 3)],
          off = add(hit.point, start, -1),
          along = dot(off, way);
        return [{ way, pick: pickOf({ ...hit, what: 'edge', index }), far: Math.hypot(...add(off, way, -along)) }];
      })
      .sort((/** @type {any} */ a, /** @type {any} */ b) => a.far - b.far);
  const [one] = edges,
    two = one && edges.find(other => Math.abs(dot(other.way, one.way)) < 0.8);
  if (!two) return null;
  return [one, two].map(({ pick, far }) => ({
    pick,
    text: `${exact(Math.max(step, Math.round(far / step) * step), 6)} ${S.model.units}`,
  }));
}
// faces or edges of the solid; picks add up, picking again takes away
/** @type {(all: string[], one: string, many: string) => MakeEditor} */
export const geometry = (all, one, many) => (blank, value, changed, bar) => {
  const takes = blank.only ? [blank.only] : all; // a blank for an edge takes edges
  let picks = [...(value ?? [])],
    walked = -1;
  const node = button(blank);
  const word = () => {
    const whole = one === 'edge' ? picks.filter(p => p.atoms).length : 0,
      single = picks.length - whole,
      /** @type {(n: number, a: string, b: string) => string[]} */
      counted = (n, a, b) => (n ? [`${n} ${n === 1 ? a : b}`] : []);
    node.say(
      picks.length
        ? [...counted(single, one, many), ...counted(whole, 'face’s edges', 'faces’ edges')].join(' and ')
        : blank.optional
          ? blank.nothing || 'nothing'
          : `${many}…`,
    );
  };
  // with a straight edge picked, those that run the same way can be taken with it
  const along = () => {
    const last =
      takes.includes('edge') && blank.most !== 1
        ? located(picks)
            .filter(h => h.what === 'edge' && h.body.edges[h.index].form === 'straight')
            .at(-1)
        : null;
    if (!last) return [];
    const way = runOf(last.body, last.body.edges[last.index]),
      /** @type {(e: MeshEdge) => boolean} */
      same = e => e.form === 'straight' && e.faces.length > 1 && Math.abs(dot(runOf(last.body, e), way)) > 1 - 1e-9;
    const more = last.body.edges
      .flatMap((/** @type {MeshEdge} */ e, /** @type {number} */ index) =>
        same(e) ? [pickOf({ ...last, index })] : [],
      )
      .filter((/** @type {any} */ p) => !picks.some(q => samePick(p, q)));
    return more.length
      ? [
          html(
            'button',
            {
              class: 'fix',
              type: 'button',
              id: 'all-parallel',
              onclick: () => {
                picks = [...picks, ...more];
                sync();
                changed(picks);
              },
            },
            `all ${more.length + 1} parallel to it`,
          ),
        ]
      : [];
  };
  // while its effect is seen it may not be there by itself: it is called what it was called when it was picked
  /** @type {Map<any, string>} */
  const names = new Map();
  /** @param {any} p @param {number} i */
  const called = (p, i) => {
    const hit = names.has(p) ? null : located([p])[0];
    if (hit) names.set(p, inShort(hit));
    return names.get(p) ?? `${p.first ? 'edge' : 'face'} ${i + 1}`;
  };
  const sync = () => {
    word();
    bar.list(
      picks.map((p, i) => ({
        id: String(i),
        text: called(p, i),
        hit: () => located([p])[0],
        on: true,
        toggle: () => {
          picks = picks.filter(q => q !== p);
          sync();
          changed(picks);
        },
      })),
      along(),
    );
    bar.marked(() => located(picks));
  };
  /** @param {Hit} hit */
  const toggle = hit => {
    const pick = pickOf(hit),
      old = picks.find(p => samePick(p, pick));
    if (hit.what && !takes.includes(hit.what)) return `Pick ${takes.includes('edge') ? 'an edge' : 'a face'}.`;
    picks = old ? picks.filter(p => p !== old) : blank.most === 1 ? [pick] : [...picks, pick];
    sync();
    changed(picks);
    const all = one === 'edge' && !old && pick.atoms ? ', with all edges of that face' : '';
    if (!old && picks.length === 1 && blank.nears.length && hit.point) {
      const where = fromEdges(hit);
      if (where) {
        /** @type {Record<string, any>} */
        const said = {};
        blank.nears.forEach(([distance, edge], i) => {
          said[distance] = where[i].text;
          said[edge] = [where[i].pick];
        });
        bar.put(said, blank.nears[0][0]);
        return '';
      }
    }
    if (picks.length)
      bar.note(`${node.textContent} picked${all}; ${blank.most === 1 ? '' : 'pick more, or '}Enter keeps it`);
    return '';
  };
  /** @param {number} by */
  const walk = by => {
    const all = everything(takes);
    if (!all.length) return null;
    walked = (walked + by + all.length) % all.length;
    return all[walked];
  };
  return {
    node,
    activate: () => {
      bar.takes(takes, toggle);
      sync();
      bar.walks({ walk, take: toggle });
      bar.note(blank.hint);
    },
    deactivate: () => {
      bar.takes(null);
      bar.list([]);
      bar.walks(null);
    },
    set: v => {
      picks = [...v];
      word();
    },
    empty: () => !blank.optional && !picks.length,
    start: word(),
  };
};
