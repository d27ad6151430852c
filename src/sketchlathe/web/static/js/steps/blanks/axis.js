// An axis.
import { html } from '../../core/dom.js';
import { S, frameOf, stepKind } from '../../core/state.js';
import { candidates, faintPoints, redraw, viewOf } from '../../sketch/layer.js';
import { reach } from '../../view/datums.js';
import { located, pickOf } from '../picks.js';
import { button, before, titleOf, AXES, datums, leave } from './shared.js';

const UNIT = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
/** @type {MakeEditor} */
export function axis(blank, value, changed, bar) {
  let now = value ?? {};
  const node = button(blank);
  const given = () => now.axis || now.line || now.point || now.edge || now.face || now.datum;
  const word = () => {
    node.say(`${now.reversed ? 'against ' : ''}${spoken()}`);
  };
  const spoken = () =>
    now.axis
      ? AXES[now.axis]
      : now.datum
        ? titleOf(now.datum)
        : now.line
          ? `a line of ${titleOf(now.sketch)}`
          : now.point
            ? `a point of ${titleOf(now.sketch)}`
            : now.edge
              ? 'the picked edge'
              : now.face
                ? 'the picked face’s axis'
                : blank.optional
                  ? 'nothing'
                  : 'axis…';
  const turn = () => choose({ ...now, reversed: !now.reversed });
  /** @param {any} v */
  const choose = v => {
    now = v;
    word();
    changed(v);
    activate();
    return '';
  };
  async function activate() {
    // what the solid offers can be picked at once, while the sketches are still asked for
    bar.takes(['edge', 'face'], hit => {
      if (hit.what === 'edge') {
        const e = hit.body.edges[hit.index];
        if (!['straight', 'circular'].includes(e.form)) return 'That edge is neither straight nor round.';
        return choose({ edge: pickOf(hit) });
      }
      const f = hit.body.faces[hit.index];
      if (f.form === 'flat' || f.form === 'curved') return 'Pick a round face, a straight edge or a line.';
      return choose({ face: f.pick });
    });
    bar.digits(d => {
      const key = Object.keys(AXES)[d - 1];
      if (key) choose({ axis: key });
    });
    bar.marked(() => located([now.edge, now.face].filter(Boolean)));
    const lines = [],
      points = [];
    for (const s of before(bar)
      .filter(x => stepKind(x.kind).drawn && !x.skipped && frameOf(x.id))
      .slice(-4)) {
      const view = await viewOf(s.id);
      // an axis through a point stands at right angles to the sketch's plane: single points and centres
      for (const c of view.curves)
        for (const p of c.points)
          if (c.tags.includes('point') || p.ref.endsWith('.centre'))
            points.push({
              step: s,
              ref: p.ref,
              at: p.at,
              text: `through ${c.tags.includes('point') ? c.word : `the centre of ${c.word}`} of ${s.title}`,
            });
      for (const c of view.curves.filter(x => x.tags.includes('line'))) lines.push({ step: s, curve: c });
    }
    if (!bar.isActive()) return;
    bar.list(
      [
        ...Object.entries(AXES).map(([key, word_], i) => ({
          id: key,
          text: `${i + 1}  ${word_}`,
          on: now.axis === key,
          radio: true,
          toggle: () => choose({ axis: key }),
        })),
        ...datums(bar, 'axis').map(s => ({
          id: s.id,
          text: s.title,
          on: now.datum === s.id,
          radio: true,
          toggle: () => choose({ datum: s.id }),
        })),
        ...lines
          .slice(0, 24)
          .map(({ step, curve }) => ({
            id: `${step.id}${curve.id}`,
            text: `${curve.word} of ${step.title}`,
            on: now.sketch === step.id && now.line === curve.id,
            radio: true,
            toggle: () => choose({ sketch: step.id, line: curve.id }),
          })),
        ...points
          .slice(0, 24)
          .map(p => ({
            id: `${p.step.id}${p.ref}`,
            text: p.text,
            on: now.sketch === p.step.id && now.point === p.ref,
            radio: true,
            toggle: () => choose({ sketch: p.step.id, point: p.ref }),
          })),
        ...(blank.optional
          ? [{ id: 'none', text: 'nothing', on: !given(), radio: true, toggle: () => choose({}) }]
          : []),
      ],
      [
        html(
          'button',
          {
            class: 'fix',
            type: 'button',
            id: 'turn-axis',
            'aria-pressed': String(Boolean(now.reversed)),
            disabled: !given(),
            onclick: turn,
          },
          'the other way round',
        ),
      ],
    );
    candidates.points = points.map(p => ({
      of: `${p.step.id}${p.ref}`,
      frame: frameOf(p.step.id),
      at: p.at,
      on: now.sketch === p.step.id && now.point === p.ref,
      pick: () => choose({ sketch: p.step.id, point: p.ref }),
    }));
    const far = Math.max(reach(), ...faintPoints().flat().map(Math.abs)),
      r = 1.2 * far;
    candidates.lines = [
      ...Object.entries(AXES).map(([key, text], i) => ({
        of: key,
        frame: { origin: [0, 0, 0], x: UNIT[i], y: UNIT[(i + 1) % 3] },
        path: `M${-r} 0L${r} 0`,
        // where it runs along or through a solid, the solid's edges and faces are taken
        hit: S.build?.bodies.length ? `M${-r} 0L${-far} 0M${far} 0L${r} 0` : undefined,
        name: { text, at: r },
        on: now.axis === key,
        pick: () => choose({ axis: key }),
      })),
      ...lines.map(({ step, curve }) => ({
        of: `${step.id}${curve.id}`,
        frame: frameOf(step.id),
        path: curve.path,
        on: now.sketch === step.id && now.line === curve.id,
        pick: () => choose({ sketch: step.id, line: curve.id }),
      })),
    ];
    redraw();
  }
  word();
  return {
    node,
    activate,
    deactivate: () => {
      leave(bar);
      candidates.lines = [];
      candidates.points = [];
      redraw();
    },
    set: v => {
      now = v ?? {};
      word();
    },
    unchosen: () => !given(),
    empty: () => !blank.optional && !given(),
  };
}
