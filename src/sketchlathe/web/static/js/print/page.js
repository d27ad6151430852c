// Check & print: what was found, how to lie, layers, estimate, the printer live.
import { choose, fit, load, paint, setBed, setLoose, showLayer } from './plate.js';

const $ = id => document.getElementById(id);
const facts = JSON.parse($('facts').textContent),
  csrf = document.querySelector('meta[name=csrf]').content;
const me = `q${Math.random().toString(36).slice(2, 9)}`,
  KEPT = 'lathe.process';
function el(name, attributes = {}, ...children) {
  const node = document.createElement(name);
  for (const [k, v] of Object.entries(attributes))
    if (k.startsWith('on')) node.addEventListener(k.slice(2), v);
    else if (v === true) node.setAttribute(k, '');
    else if (v !== false && v !== null && v !== undefined) node.setAttribute(k, v);
  node.append(...children);
  return node;
}
/** @param {string} path */
async function talk(path, body, method = body === undefined ? 'GET' : 'POST') {
  let answer;
  try {
    answer = await fetch(path, {
      method,
      headers: { 'Content-Type': 'application/json', Accept: 'application/json', 'X-CSRFToken': csrf },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    throw new Error('The server cannot be reached.');
  }
  const data = await answer.json().catch(() => ({}));
  if (!answer.ok)
    throw Object.assign(new Error(data.message ?? 'The server did not answer.'), { status: answer.status, ...data });
  return data;
}
/** @type {import('../../../types/told').Ask} */
const ask = (path, body, method) => talk(`/api/models/${facts.model}${path}`, body, method);
function tell(text) {
  const box = el('div', { class: 'problem', role: 'alert' }, el('p', {}, text));
  box.append(
    el('button', { class: 'iconbtn', type: 'button', 'aria-label': 'Dismiss', onclick: () => box.remove() }, '✕'),
  );
  $('problem').replaceChildren(box);
  setTimeout(() => box.remove(), 9000);
}

// --- the check
const process = { ...facts.process, ...JSON.parse(localStorage.getItem(KEPT) ?? '{}') };
for (const input of $('process').elements)
  if (input.name in process)
    input.value =
      typeof process[input.name] === 'string' ? process[input.name] : +Number(process[input.name]).toPrecision(5);
let lay = '', // the way it lies; empty: as is usual for it
  report = null,
  asking = 0;
const hours = s =>
  s >= 3600
    ? `${Math.floor(s / 3600)} h ${String(Math.round((s % 3600) / 60)).padStart(2, '0')} min`
    : `${Math.max(1, Math.round(s / 60))} min`;
async function check() {
  const mine = ++asking;
  $('busy').hidden = false;
  $('busy').querySelector('span').textContent = 'Looking…';
  const clock = setInterval(async () => {
    const now = await ask(`/progress/${me}`).catch(() => null);
    if (mine === asking && now?.title) $('busy').querySelector('span').textContent = `${now.title}…`;
  }, 500);
  try {
    const found = await ask('/print/check', { part: facts.part, process, lay, moved, ticket: me });
    if (mine !== asking) return;
    report = found;
    await load(found.mesh, found.layers, found.heights);
    fill();
  } catch (problem) {
    if (mine === asking && problem.status !== 499) {
      $('findings').replaceChildren(
        el('li', { class: 'bad' }, el('span', { class: 'tick' }, '✗'), el('span', {}, problem.message)),
      );
    }
    const field = problem.where && $('process').elements[problem.where];
    if (field) {
      field.classList.add('bad');
      $('how').open = true;
      field.focus();
    }
  } finally {
    clearInterval(clock);
    if (mine === asking) $('busy').hidden = true;
  }
}
$('stop').addEventListener('click', () => ask('/stop', { ticket: me }).catch(() => {}));
async function change(edits, word) {
  try {
    await ask('/edit', { base: facts.revision, edit: { kind: 'together', edits, word } });
    facts.revision += 1;
    $('says').textContent = `${word}: saved`;
    await check();
  } catch (problem) {
    tell(problem.message);
    if (problem.stale) facts.revision = problem.revision;
  }
}
// several bodies, each as it lies best: on how many beds, and which one is shown
function beds() {
  const shown = report.layings.find(w => w.several)?.name === report.chosen;
  if (!shown) return el('span', { class: 'num' }, 'every body as it lies best');
  if (report.beds === 1) return el('span', { class: 'num' }, 'all on one bed');
  const choose = el(
    'select',
    {
      'aria-label': 'Bed',
      onchange: () => {
        lay = `${report.chosen}/${choose.value}`;
        check();
      },
    },
    ...Array.from({ length: report.beds }, (_, i) =>
      el('option', { value: i + 1, selected: report.bed === i + 1 }, `bed ${i + 1} of ${report.beds}`),
    ),
  );
  return el('span', { class: 'num' }, choose);
}
const queueSays = () => (report?.beds > 1 ? `Queue all ${report.beds} beds` : 'Queue this part');
// --- bodies moved on the bed by hand: where each lies, kept for this part in this browser
const LIES = `lathe.lies.${facts.model}.${facts.part}`;
let moved = JSON.parse(localStorage.getItem(LIES) ?? '{}'), // {id: [bed, x, y, degrees]}
  held = null;
// one that is moved leaves the others of its bed where they are
function put(id, change) {
  for (const b of report.bodies) moved[b.id] = [b.bed, b.x, b.y, b.turn];
  const was = moved[id];
  moved[id] = [change.bed ?? was[0], change.x ?? was[1], change.y ?? was[2], change.turn ?? was[3]];
  localStorage.setItem(LIES, JSON.stringify(moved));
  if (change.bed) lay = `${report.chosen}/${change.bed}`;
  check();
}
function hold(id) {
  held = id;
  choose(id);
  onBed();
  $('on-bed-list').querySelector('[aria-pressed=true]')?.closest('li').scrollIntoView({ block: 'nearest' });
}
const tidy = v => +v.toFixed(2);
function field(body, name, word, unit) {
  const input = el('input', { class: 'num', inputmode: 'decimal', value: tidy(body[name]), 'data-lies': name });
  input.addEventListener('change', () => {
    const value = Number(input.value.replace(',', '.'));
    if (Number.isFinite(value)) put(body.id, { [name]: value });
    else input.classList.add('bad');
  });
  return el('label', { class: 'row2' }, el('span', {}, word), el('span', {}, input, el('i', {}, unit)));
}
const NUDGE = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
function onBed() {
  const box = $('on-bed'),
    at = document.activeElement?.dataset?.lies,
    bodies = report.bodies;
  box.hidden = !bodies.length;
  $('on-bed-list').replaceChildren(
    ...bodies.map(b => {
      const item = el('li', {});
      const name = el(
        'button',
        {
          type: 'button',
          class: 'chip',
          'data-lies': b.id,
          'aria-pressed': String(held === b.id),
          onclick: () => hold(held === b.id ? null : b.id),
        },
        b.title,
      );
      name.addEventListener('keydown', event => {
        const by = NUDGE[event.key],
          far = event.shiftKey ? 10 : 1;
        if (!by && event.key !== 'r') return;
        event.preventDefault();
        held = b.id;
        put(b.id, by ? { x: b.x + by[0] * far, y: b.y + by[1] * far } : { turn: (b.turn + 90) % 360 });
      });
      item.append(name);
      if (held === b.id) {
        const on = el(
          'select',
          { 'data-lies': 'bed', onchange: e => put(b.id, { bed: Number(e.currentTarget.value) }) },
          ...Array.from({ length: report.beds + (bodies.length > 1 ? 1 : 0) }, (_, i) =>
            el('option', { value: i + 1, selected: b.bed === i + 1 }, i < report.beds ? `${i + 1}` : 'a new one'),
          ),
        );
        item.append(
          field(b, 'x', 'middle, across', 'mm'),
          field(b, 'y', 'middle, deep', 'mm'),
          field(b, 'turn', 'turned', '°'),
          el('label', { class: 'row2' }, el('span', {}, 'on bed'), on),
        );
      }
      return item;
    }),
  );
  $('lay-anew').hidden = !bodies.some(b => b.id in moved);
  if (at) box.querySelector(`[data-lies="${CSS.escape(at)}"]`)?.focus();
}
$('lay-anew').addEventListener('click', () => {
  moved = {};
  localStorage.removeItem(LIES);
  check();
});
let spotted = null;
function fill() {
  const best = report.layings.find(w => !w.several) ?? report.layings[0];
  $('findings').replaceChildren(
    ...report.findings.map(f => {
      const item = el(
        'li',
        { class: f.well ? 'ok' : 'bad' },
        el('span', { class: 'tick', 'aria-hidden': 'true' }, f.well ? '✓' : '▲'),
      );
      const text = el(
        'div',
        {},
        el(
          f.triangles.length ? 'button' : 'span',
          f.triangles.length
            ? {
                class: 'spot',
                type: 'button',
                title: 'Show it on the part',
                'aria-pressed': 'false',
                onclick: e => spot(f, item, e.currentTarget),
              }
            : {},
          el('span', { class: 'visually-hidden' }, f.well ? 'fine: ' : 'to look at: '),
          el('b', {}, f.text),
        ),
        el('small', {}, [f.detail, f.titles.length ? `from ${f.titles.join(' and ')}` : ''].filter(Boolean).join('; ')),
      );
      if (f.remedy)
        text.append(
          el(
            'button',
            { class: 'fix', type: 'button', onclick: () => change(f.remedy.edits, f.remedy.text) },
            f.remedy.text,
          ),
        );
      else if (f.lay && best.name !== report.chosen)
        text.append(
          el(
            'button',
            {
              class: 'fix',
              type: 'button',
              onclick: () => {
                lay = best.name;
                check();
              },
            },
            `Lay it ${best.name}`,
          ),
        );
      item.append(text);
      return item;
    }),
  );
  $('layings').replaceChildren(
    ...report.layings.map(w =>
      el(
        'li',
        {},
        el(
          'label',
          {},
          el('input', {
            type: 'radio',
            name: 'lay',
            checked: w.name === report.chosen,
            onchange: () => {
              lay = w.name;
              check();
            },
          }),
          el('b', {}, w.name),
          w.several
            ? beds()
            : el(
                'span',
                { class: 'num' },
                w.support === undefined
                  ? 'all together, as they stand'
                  : `support ${+(w.support / 100).toFixed(1)} cm², ${+w.height.toFixed(1)} mm high` +
                      (w.fits ? '' : ', too large'),
              ),
        ),
      ),
    ),
  );
  $('queue').textContent = queueSays();
  if (!report.bodies.some(b => b.id === held)) held = null;
  setLoose(
    report.bodies,
    (id, dx, dy) => {
      const b = report.bodies.find(one => one.id === id);
      put(id, { x: b.x + dx, y: b.y + dy });
    },
    hold,
  );
  onBed();
  choose(held);
  const e = report.estimate;
  $('estimate').replaceChildren(
    ...[
      ['material', e.material],
      ['layers', `${e.layers} × ${report.process.layer} mm`],
      ['time', hours(e.seconds)],
      ['filament', `${e.grams.toFixed(1)} g, ${e.metres.toFixed(1)} m`],
      ['cost', `${process.currency} ${e.cost.toFixed(2)}`.trim()],
    ].map(([a, b]) =>
      el('div', { class: 'row2', 'data-estimate': a }, el('span', {}, a), el('span', { class: 'num' }, b)),
    ),
  );
  const layer = $('layer');
  layer.max = String(report.heights.length || 1);
  layer.value = String(Math.ceil(report.heights.length * 0.72) || 1);
  setBed(report.process.bed_x, report.process.bed_y);
  spotted = null;
  const worst = report.findings.find(f => !f.well && f.triangles.length);
  paint(worst ? worst.triangles : []);
  layers();
  if (!$('says').textContent.endsWith('saved')) $('says').textContent = `revision ${report.revision}`;
}
function spot(finding, item, button) {
  for (const other of $('findings').querySelectorAll('.on')) {
    other.classList.remove('on');
    other.querySelector('.spot')?.setAttribute('aria-pressed', 'false');
  }
  spotted = spotted === finding ? null : finding;
  if (spotted) {
    item.classList.add('on');
    button.setAttribute('aria-pressed', 'true');
  }
  paint(spotted ? spotted.triangles : []);
}
function layers() {
  const n = Number($('layer').value),
    count = report?.heights.length ?? 0;
  const says = count ? `layer ${n} of ${count}` : '';
  $('layer-says').textContent = says;
  // what a reader speaks: how high it lies, too
  $('layer').setAttribute(
    'aria-valuetext',
    says ? `${says}, ${+report.heights[n - 1].toFixed(2)} mm up` : 'no layers yet',
  );
  showLayer(n, $('solid').checked);
}
$('layer').addEventListener('input', () => {
  $('solid').checked = false;
  layers();
});
$('solid').addEventListener('change', layers);
$('view').addEventListener('keydown', event => {
  const step = { PageUp: 1, PageDown: -1 }[event.key];
  if (!step) return;
  event.preventDefault();
  $('layer').value = Number($('layer').value) + step;
  $('solid').checked = false;
  layers();
});
$('process').addEventListener('submit', event => event.preventDefault());
$('process').addEventListener('change', event => {
  event.target.classList.remove('bad');
  const words = typeof process[event.target.name] === 'string',
    value = words ? event.target.value.trim() : Number(event.target.value.replace(',', '.'));
  if (!words && !Number.isFinite(value)) {
    event.target.classList.add('bad');
    return;
  }
  process[event.target.name] = value;
  localStorage.setItem(KEPT, JSON.stringify(process));
  check();
});

// --- the printer
let state = null;
const deeds = path => talk(`/printer/${path}`, {}).catch(problem => tell(problem.message));
function printer() {
  const box = $('printer');
  box.className = 'printer';
  if (!state) {
    box.textContent = 'Asking…';
    return;
  }
  $('queue').disabled = state.state === 'lost';
  if (state.state === 'lost') {
    box.replaceChildren(
      el('p', { class: 'lost mb-1' }, '✗ The printer does not answer.'),
      el('p', { class: 'mb-1' }, 'What it was printing goes on there or has stopped; it is asked again by itself.'),
      el('button', { class: 'btn', type: 'button', onclick: () => deeds('faults/back') }, 'Plug it in again'),
    );
    return;
  }
  const j = state.job,
    nodes = [];
  if (j) {
    nodes.push(
      el('div', { class: 'row2' }, el('b', {}, j.state), el('span', { class: 'num' }, `${j.percent} %`)),
      el('div', {}, j.name),
      el(
        'div',
        { class: 'jobbar', role: 'progressbar', 'aria-valuenow': j.percent, 'aria-label': 'printed' },
        el('i', {}),
      ),
    );
    nodes.at(-1).firstChild.style.width = `${j.percent}%`;
    nodes.push(
      el('div', { class: 'row2' }, el('span', {}, 'layer'), el('span', { class: 'num' }, `${j.layer} of ${j.layers}`)),
      el('div', { class: 'row2' }, el('span', {}, 'left'), el('span', { class: 'num' }, hours(j.seconds_left))),
    );
    if (j.why) nodes.push(el('p', { class: 'lost mb-1' }, `▲ ${j.why}`));
    if (j.mine)
      nodes.push(
        j.state === 'paused'
          ? el('button', { class: 'btn', type: 'button', onclick: () => deeds(`resume/${j.id}`) }, 'Resume')
          : el('button', { class: 'btn', type: 'button', onclick: () => deeds(`pause/${j.id}`) }, 'Pause'),
        el('button', { class: 'btn', type: 'button', onclick: () => deeds(`cancel/${j.id}`) }, 'Cancel'),
      );
  } else nodes.push(el('p', { class: 'mb-1' }, 'It is idle.'));
  for (const w of state.waiting)
    nodes.push(
      el(
        'div',
        { class: 'row2' },
        el('span', {}, `waiting: ${w.name}`),
        ...(w.mine
          ? [el('button', { class: 'fix', type: 'button', onclick: () => deeds(`cancel/${w.id}`) }, 'cancel')]
          : []),
      ),
    );
  const last = state.ended.at(-1);
  if (last && !j) nodes.push(el('p', { class: 'mb-1' }, `Last: ${last.name}, ${last.state}.`));
  nodes.push(
    el('div', { class: 'row2' }, el('span', {}, 'spool'), el('span', { class: 'num' }, `${state.filament} m left`)),
  );
  if (state.filament < 20)
    nodes.push(el('button', { class: 'btn', type: 'button', onclick: () => deeds('spool') }, 'Put a new spool on'));
  nodes.push(
    el(
      'details',
      { class: 'shows' },
      el('summary', {}, 'practise faults'),
      el('button', { class: 'btn', type: 'button', onclick: () => deeds('faults/filament') }, 'Run out'),
      el('button', { class: 'btn', type: 'button', onclick: () => deeds('faults/lost') }, 'Pull the plug'),
    ),
  );
  const open = box.querySelector('details')?.open;
  box.replaceChildren(...nodes);
  if (open) box.querySelector('details').open = true;
}
if (facts.printer) {
  const live = new EventSource('/printer/events');
  live.onmessage = event => {
    state = JSON.parse(event.data);
    printer();
  };
  live.onerror = () => {
    if (live.readyState === EventSource.CLOSED) {
      state = { state: 'lost' };
      printer();
    }
  };
  printer();
}
$('queue').addEventListener('click', async () => {
  const bad = report?.findings.find(f => !f.well && ['watertight', 'fits', 'lying'].includes(f.kind));
  if (bad) {
    tell(`${bad.text}: put that right first.`);
    return;
  }
  $('queue').disabled = true;
  $('queue').textContent = 'Sending…';
  try {
    // beds are queued in turn
    for (let bed = 1; bed <= report.beds; bed += 1) {
      const each = report.beds > 1 ? `${report.chosen}/${bed}` : lay;
      const job = await ask('/print/queue', { part: facts.part, process, lay: each, moved, ticket: `u${me}` });
      $('says').textContent = `${job.name} is ${job.state}`;
    }
  } catch (problem) {
    tell(problem.message);
  }
  $('queue').textContent = queueSays();
  $('queue').disabled = false;
});
$('program').addEventListener('click', async () => {
  const answer = await fetch(`/api/models/${facts.model}/print/program`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', 'X-CSRFToken': csrf, Accept: 'application/json' },
    body: JSON.stringify({ part: facts.part, process, lay, moved }),
  });
  if (!answer.ok) {
    tell((await answer.json().catch(() => ({}))).message ?? 'The server did not answer.');
    return;
  }
  const link = el('a', {
    href: URL.createObjectURL(await answer.blob()),
    download: /filename="([^"]+)"/.exec(answer.headers.get('Content-Disposition'))?.[1] ?? 'part.gcode',
  });
  document.body.append(link);
  link.click();
  link.remove();
});
fit();
check();
