// One editor for each type of blank. Knows types, never kinds of steps.
import { S, emit, frameOf, html, part, stepKind } from '../core/state.js';
import { ask } from '../core/api.js';
import { withUnit } from '../core/units.js';
import { candidates, redraw, viewOf } from '../sketch/layer.js';
import { dot } from '../view/camera.js';
import { pickables } from '../view/scene.js';
import { nameOf, titleOfBody } from './names.js';
import { everything, located, pickOf, samePick, thingOf } from './picks.js';

// Each: make(blank, value, changed, bar) → {node, activate?, deactivate?, picks?}; changed(value) tells the bar.
const number = (blank, value, changed) => {
  const node = html('input', {
    class: 'gap',
    value: value ?? '',
    'aria-label': blank.label,
    title: blank.hint,
    maxlength: 400,
    autocomplete: 'off',
    oninput: () => changed(node.value),
  });
  return {
    node,
    set: v => {
      if (document.activeElement !== node) node.value = v;
      else {
        node.value = v;
        node.select();
      }
    },
  };
};
const choice = (blank, value, changed) => {
  const node = html(
    'select',
    { class: 'gap', 'aria-label': blank.label, title: blank.hint, onchange: () => changed(node.value) },
    ...Object.entries(blank.words).map(([key, word]) =>
      html('option', { value: key, ...(key === value ? { selected: true } : {}) }, word),
    ),
  );
  return {
    node,
    set: v => {
      node.value = v;
    },
  };
};
// a blank filled by picking; what it is called by includes what it shows
function button(blank) {
  const node = html('button', { class: 'gap', type: 'button', title: blank.hint });
  node.say = text => {
    node.textContent = text;
    node.setAttribute('aria-label', `${blank.label}: ${text}`);
  };
  return node;
}

function regions(blank, value, changed, bar) {
  let picks = [...(value ?? [])],
    chains = [];
  const node = button(blank),
    also = blank.also ?? [];
  const isFace = p => Boolean(p.atoms),
    isChain = p => Boolean(p.curve);
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
  const idOf = pick =>
    isFace(pick)
      ? `face ${pick.atoms.join('+')} ${pick.centre}`
      : isChain(pick)
        ? `${pick.sketch}~${pick.curve}`
        : `${pick.sketch}|${[...pick.sides].sort().join(' ')}`;
  const has = id => picks.some(p => idOf(p) === id);
  const flip = pick => {
    picks = has(idOf(pick)) ? picks.filter(p => idOf(p) !== idOf(pick)) : [...picks, pick];
    sync();
    changed(picks);
    return '';
  };
  const regionPick = c => ({ sketch: c.sketch, sides: c.region.key, known: c.known });
  const toggle = c => flip(regionPick(c));
  const sync = () => {
    word();
    candidates.chosen = new Set(picks.map(idOf));
    candidates.lines = chains.flatMap(c =>
      c.paths.map(path => ({ frame: c.frame, path, on: has(idOf(c.pick)), pick: () => flip(c.pick) })),
    );
    bar.list(
      [
        ...candidates.list.map(c => ({
          id: c.id,
          text: c.text,
          on: candidates.chosen.has(c.id),
          toggle: () => toggle(c),
        })),
        ...chains.map(c => ({ id: idOf(c.pick), text: c.text, on: has(idOf(c.pick)), toggle: () => flip(c.pick) })),
        ...picks
          .filter(isFace)
          .map((p, i) => ({ id: idOf(p), text: `face ${i + 1}`, on: true, toggle: () => flip(p) })),
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
    picks = every ? others : [...others, ...candidates.list.map(regionPick)];
    sync();
    changed(picks);
  };
  async function activate() {
    const steps = part().steps,
      end = bar.before ?? part().now ?? steps.length,
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
            paths: ids.map(id => view.curves.find(c => c.id === id).path),
            text: `${s.title}, open chain for a wall (${ids.length} curve${ids.length > 1 ? 's' : ''})`,
          });
    }
    const used = new Set(steps.flatMap(s => (s.skipped || s.id === bar.id ? [] : s.uses)));
    list.sort((a, b) => used.has(a.sketch) - used.has(b.sketch));
    const fresh = list.filter(c => !used.has(c.sketch));
    const only = !picks.length && (fresh.length === 1 || list.length === 1) ? (fresh[0] ?? list[0]) : null;
    if (!bar.isActive(node)) {
      if (only && bar.isOpen(node)) {
        picks = [regionPick(only)];
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
      toggle(only);
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
      word();
    },
    empty: () => !picks.length,
  };
}

// one curve of a sketch, and all that hangs together with it
function curve(blank, value, changed, bar) {
  let now = value;
  const node = button(blank);
  const word = () => {
    node.say(now ? `${titleOf(now.sketch)}` : 'curve…');
  };
  async function activate() {
    const found = [];
    for (const s of before(bar).filter(x => stepKind(x.kind).drawn && !x.skipped && frameOf(x.id))) {
      const view = await viewOf(s.id);
      for (const c of view.curves.filter(x => x.tags.includes('curve') && !x.tags.includes('text')))
        found.push({ s, c });
    }
    if (!bar.isActive(node)) return;
    const choose = ({ s, c }) => {
      now = { sketch: s.id, curve: c.id };
      word();
      activate();
      changed(now);
    };
    const on = ({ s, c }) => now?.sketch === s.id && now.curve === c.id;
    bar.list(
      found
        .slice(0, 24)
        .map(f => ({
          id: f.s.id + f.c.id,
          text: `${f.c.word} of ${f.s.title}`,
          on: on(f),
          radio: true,
          toggle: () => choose(f),
        })),
    );
    candidates.lines = found.map(f => ({ frame: frameOf(f.s.id), path: f.c.path, on: on(f), pick: () => choose(f) }));
    bar.note(found.length ? blank.hint : 'There is no sketch with curves yet: draw a line to cut along.');
    redraw();
  }
  word();
  return {
    node,
    activate,
    deactivate: () => {
      bar.list([]);
      candidates.lines = [];
      redraw();
    },
    set: v => {
      now = v;
      word();
    },
    empty: () => !now,
  };
}

// what something follows: curves of sketches with all that hangs together with them, edges
function path(blank, value, changed, bar) {
  let picks = [...(value ?? [])],
    chains = [],
    walked = -1;
  const node = button(blank),
    takes = ['edge'];
  const word = () => {
    const curves = picks.filter(p => p.curve),
      edges = picks.length - curves.length;
    const said = [
      ...new Set(curves.map(p => titleOf(p.sketch))),
      ...(edges ? [edges === 1 ? '1 edge' : `${edges} edges`] : []),
    ];
    node.say(said.join(' and ') || (blank.optional ? blank.nothing || 'nothing' : `${blank.label}…`));
  };
  const keep = next => {
    picks = next;
    word();
    changed(picks);
    show();
    return '';
  };
  const chosen = c => picks.some(p => p.sketch === c.sketch && c.ids.includes(p.curve));
  const toggle = c =>
    keep(
      chosen(c)
        ? picks.filter(p => !(p.sketch === c.sketch && c.ids.includes(p.curve)))
        : [...picks, { sketch: c.sketch, curve: c.ids[0] }],
    );
  const take = hit => {
    const pick = pickOf(hit),
      old = picks.find(p => !p.curve && samePick(p, pick));
    return keep(old ? picks.filter(p => p !== old) : [...picks, pick]);
  };
  function show() {
    if (!bar.isActive(node)) return;
    bar.list(chains.map(c => ({ id: c.sketch + c.ids[0], text: c.text, on: chosen(c), toggle: () => toggle(c) })));
    candidates.lines = chains.flatMap(c =>
      c.paths.map(d => ({ frame: c.frame, path: d, on: chosen(c), pick: () => toggle(c) })),
    );
    bar.takes(takes, take);
    bar.walks({
      walk: by => {
        const all = everything(takes);
        if (!all.length) return null;
        walked = (walked + by + all.length) % all.length;
        return all[walked];
      },
      take,
    });
    bar.marked(() => located(picks.filter(p => !p.curve)));
    bar.note(blank.hint);
    redraw();
  }
  async function activate() {
    const found = [];
    for (const s of before(bar).filter(x => stepKind(x.kind).drawn && !x.skipped && frameOf(x.id))) {
      const view = await viewOf(s.id),
        open = view.chains.map(ids => [...ids]),
        inOne = new Set(open.flat());
      const others = view.curves.filter(c => c.tags.includes('curve') && !c.tags.includes('text') && !inOne.has(c.id));
      for (const ids of [...open, ...others.map(c => [c.id])])
        found.push({
          sketch: s.id,
          ids,
          frame: frameOf(s.id),
          paths: ids.map(id => view.curves.find(c => c.id === id).path),
          text:
            ids.length > 1
              ? `${s.title}, ${ids.length} curves end to end`
              : `${view.curves.find(c => c.id === ids[0]).word} of ${s.title}`,
        });
    }
    if (!bar.isActive(node)) return;
    chains = found.slice(-24);
    show();
  }
  word();
  return {
    node,
    activate,
    deactivate: () => {
      bar.list([]);
      bar.takes(null);
      bar.walks(null);
      bar.marked(null);
      candidates.lines = [];
      redraw();
    },
    set: v => {
      picks = [...v];
      word();
    },
    empty: () => !blank.optional && !picks.length,
  };
}

// another part of the model; where there is just one, that
function otherPart(blank, value, changed, bar) {
  const offered = S.model.parts.filter(
    p => p.id !== S.partId && (p.id === value || !(p.gone || follows(p.id, S.partId))),
  );
  const node = html(
    'select',
    { class: 'gap', 'aria-label': blank.label, title: blank.hint, onchange: () => changed(node.value) },
    ...(value ? [] : [html('option', { value: '' }, offered.length ? 'part…' : 'no other part')]),
    ...offered.map(p => html('option', { value: p.id, ...(p.id === value ? { selected: true } : {}) }, p.name)),
  );
  // where both are put together: as it stands there
  const standing = () => {
    const brings = (p, id) => p.steps.some(s => s.brings === id && !s.skipped);
    const found = S.model.parts.filter(
      p => !p.gone && p.id !== S.partId && brings(p, S.partId) && brings(p, node.value),
    );
    bar.list(
      [],
      found.map(p =>
        html(
          'button',
          {
            class: 'fix',
            type: 'button',
            'data-stands': p.id,
            onclick: () =>
              ask('/stands', { together: p.id, part: S.partId, other: node.value })
                .then(fields => bar.put(fields))
                .catch(problem => bar.note(problem.message)),
          },
          `where it stands in ${p.name}`,
        ),
      ),
    );
  };
  node.addEventListener('change', standing);
  return {
    node,
    activate: () => {
      if (!offered.length) bar.note('There is no other part in this model yet: make one first (t n).');
      else if (!node.value && offered.length === 1) {
        node.value = offered[0].id;
        changed(node.value);
      } else bar.note(blank.hint);
      standing();
    },
    deactivate: () => bar.list([]),
    set: v => {
      node.value = v;
    },
    empty: () => !node.value,
  };
}
// whether one part brings another, directly or through others
const follows = (id, other) =>
  S.model.parts.find(p => p.id === id)?.steps.some(s => s.brings && (s.brings === other || follows(s.brings, other))) ??
  false;

const PLANES = { top: 'top plane', front: 'front plane', right: 'right plane' };
const before = bar => part().steps.slice(0, bar.before ?? part().now ?? part().steps.length);
// datum steps that came out as a plane, an axis or a point
const datums = (bar, what) =>
  before(bar).filter(s => {
    const d = S.build?.steps.find(r => r.id === s.id)?.datum;
    return d && !s.skipped && (d.normal ? 'plane' : d.direction ? 'axis' : 'point') === what;
  });
function plane(blank, value, changed, bar) {
  const node = button(blank);
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
  const choose = v => {
    now = v;
    word(v);
    changed(v);
    if (!bar.single) activate();
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
      bar.list([]);
      bar.sheets(null);
      bar.takes(null);
      bar.digits(null);
      bar.marked(null);
      bar.walks(null);
    },
    set: v => {
      now = v;
      word(v);
    },
    finishes: bar.single,
    unchosen: () => !(now?.plane || now?.face || now?.datum),
    empty: () => !bar.single && !blank.optional && !(now?.plane || now?.face || now?.datum),
  };
}
const text = (blank, value, changed) => {
  const made = number(blank, value, changed);
  made.node.classList.add('words');
  return made;
};

// members of a pattern, left out by name: clicked where they stand, ticked in the list, or typed
function members(blank, value, changed, bar) {
  const made = text(blank, value, v => {
      changed(v);
      told();
    }),
    { node } = made;
  const names = () => node.value.split(/[\s,;]+/).filter(Boolean);
  const toggle = name => {
    const out = names();
    node.value = (out.includes(name) ? out.filter(n => n !== name) : [...out, name]).join(', ');
    changed(node.value);
    told();
  };
  const said = name =>
    name.includes('.') ? `column ${name.split('.')[0]}, row ${name.split('.')[1]}` : `member ${name}`;
  function told() {
    const spots = bar.spots(),
      out = new Set(names());
    bar.list(
      spots
        .slice(0, 60)
        .map(s => ({
          id: s.name,
          text: `${said(s.name)}${out.has(s.name) ? ', left out' : ''}`,
          on: out.has(s.name),
          toggle: () => toggle(s.name),
        })),
    );
    candidates.points = spots.map(s => ({
      frame: { origin: s.at, x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] },
      at: [0, 0],
      on: out.has(s.name),
      says: `${said(s.name)}: ${out.has(s.name) ? 'take it in again' : 'leave it out'}`,
      pick: () => toggle(s.name),
    }));
    redraw();
  }
  return {
    ...made,
    told,
    activate: () => {
      bar.note(blank.hint);
      told();
    },
    deactivate: () => {
      bar.list([]);
      candidates.points = [];
      redraw();
    },
  };
}

// the direction of a straight edge
function runOf(body, edge) {
  const at = i => body.lines.subarray(3 * i, 3 * i + 3),
    a = at(edge.at[0]),
    b = at(edge.at[0] + edge.at[1] - 1),
    l = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]) || 1;
  return [0, 1, 2].map(k => (b[k] - a[k]) / l);
}
// faces or edges of the solid; picks add up, picking again takes away
const geometry = (all, one, many) => (blank, value, changed, bar) => {
  const takes = blank.only ? [blank.only] : all; // a blank for an edge takes edges
  let picks = [...(value ?? [])],
    walked = -1;
  const node = button(blank);
  const word = () => {
    node.say(
      picks.length
        ? picks.length === 1
          ? `1 ${picks[0].atoms && one === 'edge' ? 'face’s edges' : one}`
          : `${picks.length} ${many}`
        : blank.optional
          ? 'nothing'
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
      same = e => e.form === 'straight' && e.faces.length > 1 && Math.abs(dot(runOf(last.body, e), way)) > 1 - 1e-9;
    const more = last.body.edges
      .flatMap((e, index) => (same(e) ? [pickOf({ ...last, index })] : []))
      .filter(p => !picks.some(q => samePick(p, q)));
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
  const sync = () => {
    word();
    bar.list(
      picks.map((p, i) => ({
        id: i,
        text: `${p.first ? 'edge' : 'face'} ${i + 1}`,
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
  const toggle = hit => {
    const pick = pickOf(hit),
      old = picks.find(p => samePick(p, pick));
    if (hit.what && !takes.includes(hit.what)) return `Pick ${takes.includes('edge') ? 'an edge' : 'a face'}.`;
    picks = old ? picks.filter(p => p !== old) : blank.most === 1 ? [pick] : [...picks, pick];
    sync();
    changed(picks);
    if (picks.length)
      bar.note(
        `${picks.length === 1 ? `1 ${picks[0].first ? 'edge' : 'face'}` : `${picks.length} things`} picked; ${blank.most === 1 ? '' : 'pick more, or '}Enter keeps it`,
      );
    return '';
  };
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
// one or more of some things with names
const named = (items, say) => (blank, value, changed, bar) => {
  let chosen = [...(value ?? [])];
  const node = button(blank);
  const word = () => {
    node.say(chosen.length ? say(chosen) : blank.nothing || (blank.optional ? 'all' : `${blank.label}…`));
  };
  const toggle = id => {
    chosen = chosen.includes(id) ? chosen.filter(c => c !== id) : [...chosen, id];
    word();
    activate();
    changed(chosen);
    return '';
  };
  const activate = () => {
    bar.list(items(bar).map(([id, title]) => ({ id, text: title, on: chosen.includes(id), toggle: () => toggle(id) })));
    if (blank.type === 'bodies') bar.takes(['face'], hit => toggle(hit.facts.id));
    bar.marked(() =>
      pickables()
        .filter(i => blank.type === 'bodies' && chosen.includes(i.facts.id))
        .flatMap(i => i.body.faces.map((f, index) => ({ ...i, what: 'face', index }))),
    );
    bar.note(blank.hint);
  };
  word();
  return {
    node,
    activate,
    deactivate: () => {
      bar.list([]);
      bar.takes(null);
      bar.marked(null);
    },
    set: v => {
      chosen = [...v];
      word();
    },
    empty: () => !blank.optional && !chosen.length,
  };
};
const titleOf = id => part().steps.find(s => s.id === id)?.title ?? id;
const bodies = named(
  () => pickables().map(i => [i.facts.id, titleOfBody(i.facts.id)]),
  c => (c.length === 1 ? titleOfBody(c[0]) : `${c.length} bodies`),
);
const steps = named(
  bar =>
    before(bar)
      .filter(s => stepKind(s.kind).makes_solid && !s.skipped)
      .map(s => [s.id, s.title]),
  c => c.map(titleOf).join(', '),
);

const AXES = { x: 'x axis', y: 'y axis', z: 'z axis' };
function axis(blank, value, changed, bar) {
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
  const choose = v => {
    now = v;
    word();
    changed(v);
    activate();
    return '';
  };
  async function activate() {
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
    if (!bar.isActive(node)) return;
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
      given()
        ? [
            html(
              'button',
              {
                class: 'fix',
                type: 'button',
                id: 'turn-axis',
                'aria-pressed': String(Boolean(now.reversed)),
                onclick: turn,
              },
              'the other way round',
            ),
          ]
        : [],
    );
    candidates.points = points.map(p => ({
      frame: frameOf(p.step.id),
      at: p.at,
      on: now.sketch === p.step.id && now.point === p.ref,
      pick: () => choose({ sketch: p.step.id, point: p.ref }),
    }));
    candidates.lines = lines.map(({ step, curve }) => ({
      frame: frameOf(step.id),
      path: curve.path,
      on: now.sketch === step.id && now.line === curve.id,
      pick: () => choose({ sketch: step.id, line: curve.id }),
    }));
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
    redraw();
  }
  word();
  return {
    node,
    activate,
    deactivate: () => {
      bar.list([]);
      bar.takes(null);
      bar.digits(null);
      bar.marked(null);
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
function points(blank, value, changed, bar) {
  let picks = [...(value ?? [])];
  const node = button(blank);
  const word = () => {
    node.say(picks.length ? `${picks.length} point${picks.length > 1 ? 's' : ''}` : 'points…');
  };
  const has = (s, r) => picks.some(p => p.sketch === s && p.ref === r);
  async function activate() {
    const found = [];
    for (const s of before(bar).filter(x => stepKind(x.kind).drawn && !x.skipped && frameOf(x.id))) {
      const view = await viewOf(s.id),
        seen = new Set();
      for (const c of view.curves)
        for (const p of c.points) {
          const alone = c.tags.includes('point'),
            centre = p.ref.endsWith('.centre'),
            at = p.at.map(v => v.toFixed(6)).join();
          if (seen.has(at)) continue;
          seen.add(at);
          found.push({
            step: s,
            ref: p.ref,
            at: p.at,
            rank: alone ? 0 : centre ? 1 : 2,
            text: `${alone ? c.word : centre ? `centre of ${c.word}` : `${p.ref.split('.')[1]} of ${c.word}`}, ${s.title}`,
          });
        }
    }
    for (const s of datums(bar, 'point'))
      found.push({
        step: s,
        ref: 'point',
        at: [0, 0],
        frame: { ...S.build.steps.find(r => r.id === s.id).datum, x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] },
        rank: 0,
        text: s.title,
      });
    if (!bar.isActive(node)) return;
    found.sort((a, b) => a.rank - b.rank);
    const toggle = f => {
      picks = has(f.step.id, f.ref)
        ? picks.filter(p => !(p.sketch === f.step.id && p.ref === f.ref))
        : [...picks, { sketch: f.step.id, ref: f.ref }];
      word();
      activate();
      changed(picks);
    };
    const main = found.filter(f => f.rank < 2 || has(f.step.id, f.ref));
    const offered = main.length ? main : found.slice(0, 20);
    bar.list(
      offered
        .slice(0, 40)
        .map(f => ({ id: f.step.id + f.ref, text: f.text, on: has(f.step.id, f.ref), toggle: () => toggle(f) })),
    );
    candidates.points = found.map(f => ({
      frame: f.frame ?? frameOf(f.step.id),
      at: f.at,
      on: has(f.step.id, f.ref),
      pick: () => toggle(f),
    }));
    if (!found.length) bar.note('There is no sketch with points yet: draw points where the holes belong.');
    redraw();
  }
  word();
  return {
    node,
    activate,
    deactivate: () => {
      bar.list([]);
      candidates.points = [];
      redraw();
    },
    set: v => {
      picks = [...v];
      word();
    },
    empty: () => !picks.length,
  };
}

// what something is placed by: of a body a face, an edge, a corner; of the origin its planes, axes, itself; datums
const STANDING = [
  ...Object.entries(PLANES).map(([key, text]) => [{ plane: key }, text]),
  ...Object.entries(AXES).map(([key, text]) => [{ axis: key }, text]),
  [{ origin: true }, 'origin'],
];
function thing(blank, value, changed, bar) {
  let now = value ?? {},
    walked = -1;
  const node = button(blank),
    takes = ['face', 'edge', 'vertex'];
  const filled = () => Boolean(now.face || now.edge || now.datum || now.plane || now.axis || now.origin);
  const place = () => {
    const [hit] = located([now.face ?? now.edge].filter(Boolean));
    if (now.at) return `corner of ${titleOfBody(hit?.facts.id ?? '')}`;
    return `${now.spot ? `${now.spot} of ` : ''}${hit ? nameOf(hit) : 'what is picked'}`;
  };
  const standing = () => STANDING.find(([v]) => Object.entries(v).every(([k, x]) => now[k] === x))?.[1];
  const word = () => {
    const body = now.face || now.edge;
    const empty = blank.nothing || `${blank.label}…`;
    node.say(body ? place() : now.datum ? titleOf(now.datum) : (standing() ?? empty));
  };
  const choose = v => {
    now = v;
    word();
    changed(v);
    if (bar.isActive(node)) activate();
    return '';
  };
  const onlyBodies = () => blank.only === 'body';
  const activate = () => {
    const given = ['plane', 'axis', 'point'].flatMap(what => datums(bar, what));
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
    deactivate: () => {
      bar.list([]);
      bar.takes(null);
      bar.walks(null);
      bar.marked(null);
    },
    set: v => {
      now = v ?? {};
      word();
    },
    goesOn: true,
    unchosen: () => !filled(),
    empty: () => (blank.must || !blank.optional) && !filled(),
  };
}

// what of the solid blanks of some types take
export const TAKES = { faces: ['face'], edges: ['edge', 'face'] };
export const EDITORS = {
  length: number,
  angle: number,
  count: number,
  choice,
  regions,
  curve,
  path,
  plane,
  text,
  members,
  axis,
  points,
  bodies,
  steps,
  thing,
  part: otherPart,
  faces: geometry(TAKES.faces, 'face', 'faces'),
  edges: geometry(TAKES.edges, 'edge', 'edges'),
};
export const isPick = type => !['length', 'angle', 'count', 'choice', 'text', 'members'].includes(type);
export const forget = () => {
  candidates.list = [];
  candidates.lines = [];
  candidates.points = [];
  candidates.chosen = new Set();
  candidates.pick = null;
  emit('layer');
};
