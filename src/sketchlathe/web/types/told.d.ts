// What the page is told, made of Python by `python scripts/make_types.py`; a test holds it to that.

declare namespace Told {
  // One blank of an act (``core.model.acts.Ask``).
  export interface ActAsk {
    field: string;
    sort: string;
    say: string;
    start: string;
    may_be_empty: boolean;
  }

  // One way to change a sketch (``core.model.acts.Act``).
  export interface ActKind {
    edit: string;
    name: string;
    chord: string;
    icon: string;
    hint: string;
    asks: ActAsk[];
    preset: Record<string, any>;
    main: boolean;
    again: boolean;
  }

  // Advice as the screen is told of it.
  export interface AdviceTold {
    text: string;
    fix: string;
    fields: Record<string, any>;
    edits: Record<string, any>[];
    settled: Record<string, any>;
  }

  // What a formula comes to (mm, rad or plain), and that as text; ``problem``: why it comes to nothing yet.
  export interface Amount {
    value: number;
    text: string;
    problem: string;
  }

  // Somebody who has a model open, and what they are at there. ``who``: *you* in another window, else empty.
  export interface AtIt {
    name: string;
    at: string;
    who: string;
  }

  // One place in a step's sentence (``core.blanks.Blank``).
  export interface BlankKind {
    type: string;
    label: string;
    hint: string;
    words: Record<string, string>;
    when: [string, string[]] | null;
    main: boolean;
    optional: boolean;
    also: string[];
    nears: [string, string][];
    most: number;
    only: string;
    after: string;
    must: boolean;
    nothing: string;
    instead: [string, string, string][];
    table: [string, string];
    default: any;
  }

  // A body for the screen: the key of its mesh, what it amounts to (mm, mm², mm³; moments at density 1).
  export interface BodyFacts {
    id: string;
    key: string;
    volume: number;
    area: number;
    centre: [number, number, number];
    box: [number[], number[]];
    moments: number[];
    material?: string;
    density?: number;
    title?: string;
    brought?: string;
    bought?: string;
  }

  // Where a body lies on its bed (degrees), and which triangles of the mesh are its (first, count).
  export interface BodyLying {
    id: string;
    title: string;
    bed: number;
    x: number;
    y: number;
    turn: number;
    triangles: number[];
  }

  // What a file gave: curves or parameters as data, to be placed by the person; else the model as it then is.
  export interface BroughtTold {
    gives: string;
    notes: string[];
    data?: Record<string, any>;
    state?: State;
    notice?: string;
    panels?: Record<string, string>;
    sketch?: SketchShown;
  }

  // The answer to a build, with the panels that it changes.
  export interface BuiltTold {
    part: string;
    key: string;
    steps: StepFacts[];
    bodies: BodyFacts[];
    references: ReferenceFacts[];
    paints: PaintFacts[];
    measurements: MeasurementFacts[];
    totals: Totals;
    hands: Record<string, Record<string, any>>;
    pulls: Record<string, Record<string, any>>;
    cold?: boolean;
    preview?: PreviewFacts;
    morphs?: Record<string, string>;
    page?: PageFacts;
    revision?: number;
    defaults?: Record<string, any>;
    panels?: Record<string, string>;
  }

  // See ``Cause``.
  export interface CauseTold {
    text: string;
    slip: string;
    edits: Record<string, any>[];
    fix: string;
    steps: string[];
  }

  // A change made on a copy; ``conflict``: what was changed in the original too, in words.
  export interface ChangeTold {
    key: string;
    text: string;
    number: number;
    detail: string;
    edits: Record<string, any>[];
    fix: string;
    sketches?: DrawnTold[][];
    conflict: string;
  }

  // The answer to an edit, an undo, a redo: the model as it then is. ``panels``: pieces of the page by their id.
  export interface Changed {
    state: State;
    notice: string;
    panels: Record<string, string>;
    sketch?: SketchShown;
  }

  // Curves and the constraints among them, as they stand in a document.
  export interface Clip {
    curves: Record<string, any>[];
    constraints: Record<string, any>[];
  }

  // What was said about a model, as a piece of the page; how much of it is open, by the step it stands at, or the
  // part.
  export interface Comments {
    html: string;
    open: Record<string, number>;
  }

  // Two states side by side. ``figures``: what, then as text on each side; ``volumes``: gone and come, as text;
  // ``now``: the newer one is the model as it is.
  export interface ComparedTold {
    gone: (BodyFacts | ReferenceFacts)[];
    come: (BodyFacts | ReferenceFacts)[];
    exact: boolean;
    sides: SideShown[];
    differences: DifferenceTold[];
    unchanged: number;
    figures: string[][];
    volumes: string[];
    revision: number;
    now: boolean;
  }

  // A kind of constraint that is no dimension.
  export interface ConstraintKind {
    kind: string;
    word: string;
    symbol: string;
    chord: string;
    hint: string;
    most: number;
  }

  // What came of it.
  export interface CornerTold {
    numbers: string[];
    values: number[];
    edits: Record<string, any>[];
    says: string;
    holds: boolean;
    step: string;
    where: string;
    why: string;
  }

  // A curve. ``word`` is what a person calls it, ``path`` SVG path data.
  export interface CurveShown {
    id: string;
    word: string;
    path: string;
    construction: boolean;
    taken: boolean;
    ends: string[];
    points: PointShown[];
    tags: string[];
    sizes: Record<string, number>;
  }

  // Where a plane meets a body: area and outline, places (x, y, z one after the other), triangles of them, lines.
  export interface Cut {
    id: string;
    area: number;
    outline: number;
    positions: number[];
    triangles: number[];
    lines: number[][];
  }

  // See ``Difference``.
  export interface DifferenceTold {
    key: string;
    text: string;
    number: number;
    detail: string;
    edits: Record<string, any>[];
    fix: string;
    sketches?: DrawnTold[][];
  }

  // A dimension as it is drawn (ISO 129). ``form`` says what ``points`` are (``constraints.base.Figure``).
  export interface DimensionShown {
    count?: number;
    counted?: string;
    members?: string[];
    id: string;
    word: string;
    on: string[];
    form: string;
    points: [number, number][];
    label: [number, number];
    value: string;
    name: string;
    rim: string;
    driving: boolean;
    formula: boolean;
    laid: boolean;
    round: string;
    text: string;
    means: string[];
  }

  // A drag in one go: everything that changed, and the scalars to keep, by curve.
  export interface Dragged {
    view: Moved;
    coordinates: Record<string, Record<string, any>>;
  }

  // What a drawing tool would draw, and its sizes in their order (mm, rad; None where one cannot be read).
  export interface DrawnShown {
    paths: StrokeShown[];
    sizes: (number | null)[];
  }

  // See ``Drawn``.
  export interface DrawnTold {
    path: string;
    mark: string;
    construction: boolean;
  }

  // The person's other models, and what of them is linked here.
  export interface Elsewhere {
    models: ModelNamed[];
    linked: LinkedPart[];
  }

  // What a print takes.
  export interface Estimate {
    seconds: number;
    grams: number;
    metres: number;
    cost: number;
    layers: number;
    material: string;
  }

  // The exercise that a model is for, as its panel; ``looking``: a reason is still being looked for.
  export interface ExerciseTold {
    html: string;
    looking: boolean;
  }

  // What a part can be made to come to.
  export interface FigureKind {
    id: string;
    word: string;
    usual: string;
  }

  // A file to compare with, by the key it is found by.
  export interface FileKept {
    file: string;
    name: string;
  }

  // A film of revisions: pictures done, of how many; where it can be had.
  export interface FilmTold {
    state: string;
    revision?: number;
    asked?: Record<string, any>;
    seconds?: number;
    problem?: string;
    done?: number;
    of?: number;
    bytes?: number;
    url?: string;
  }

  // A finding with what both bodies share.
  export interface FitFound {
    verdict: string;
    one: string;
    other: string;
    title: string;
    figure: string;
    text: string;
    ends: [[number, number, number], [number, number, number]] | null;
    fix: string;
    edits: Record<string, any>[];
    overlap: (BodyFacts | ReferenceFacts)[];
  }

  // How bodies go together at a revision, and the play that was asked for, as text.
  export interface FitShown {
    lacks: string;
    findings: FitFound[];
    unseen: number;
    play: string;
    revision: number;
  }

  // The flex test: numbers in their order, what is known of them by id, pairs of ends.
  export interface FlexTold {
    state: string;
    revision?: number;
    asked?: Record<string, any>;
    seconds?: number;
    problem?: string;
    numbers?: Record<string, NumberTold>;
    order?: string[];
    titles?: Record<string, string>;
    builds?: number;
    warning?: string;
    pairs?: CornerTold[];
  }

  // A format that can be taken out.
  export interface FormatKind {
    kind: string;
    word: string;
    ending: string;
    hint: string;
    of: string;
    meshed: boolean;
    solid: boolean;
  }

  // A finding, the titles of its steps, what puts it right.
  export interface FoundForPrint {
    kind: string;
    well: boolean;
    text: string;
    detail: string;
    steps: string[];
    triangles: number[][];
    need: number;
    lay: boolean;
    titles: string[];
    remedy: Remedy | null;
  }

  // The model and the panels of a part, for a script that has fallen behind.
  export interface Fresh {
    id: string;
    revision: number;
    name: string;
    units: string;
    fractions: boolean;
    handy: Record<string, string>;
    may: string[];
    canUndo: boolean;
    canRedo: boolean;
    parameters: string[];
    limits: Record<string, string[]>;
    variants: VariantTold[];
    sizes: Record<string, any>;
    own: Record<string, Record<string, any>>;
    parts: PartTold[];
    at?: string;
    panels: Record<string, string>;
  }

  // How what is typed as a goal is read, with its unit; or why it cannot be.
  export interface GoalRead {
    text: string;
    problem: string;
  }

  // Who else has a model open; what was done since the revision that is seen, newest first, and the model as it
  // then is; a word that changes when more was said about it.
  export interface Here {
    fresh: Fresh | null;
    since: string[];
    said: string;
    others: AtIt[];
  }

  // A job in the printer's queue.
  export interface JobTold {
    id: string;
    name: string;
    state: string;
    layer: number;
    layers: number;
    seconds_left: number;
    seconds: number;
    why: string;
    owner: string;
    percent: number;
  }

  // All kinds of things there are, told once with the page.
  export interface Kinds {
    steps: StepKind[];
    tools: ToolKind[];
    constraints: ConstraintKind[];
    acts: ActKind[];
    materials: Record<string, Record<string, any>>;
    roles: Record<string, string>;
    tables: Record<string, TableKind>;
    formats: FormatKind[];
    readers: ReaderKind[];
  }

  // The formulas at which a part is lightest. ``held``: what holds it back, in words.
  export interface Lightest {
    formulas: Record<string, string>;
    builds: number;
    says: string;
    held: string;
  }

  // A part (``part``) that comes from another model: from which part there (``at``) and which revision, the newest
  // revision there (None: that model is gone), and what has changed there since, newest first.
  export interface LinkedPart {
    model: string;
    name: string;
    part: string;
    at: string;
    revision: number;
    newest: number | null;
    since: string[];
  }

  // A part as it was at a revision.
  export interface LookedAt {
    bodies: BodyFacts[];
    steps: StepThen[];
    parameters: string[];
    facts: [string, string][];
  }

  // A constraint's tag beside the geometry: the place it belongs to and the side it stands on.
  export interface MarkShown {
    count?: number;
    counted?: string;
    members?: string[];
    id: string;
    symbol: string;
    text: string;
    on: string[];
    at: [number, number];
    normal: [number, number];
  }

  // What was measured: rows (what, value, dimension), and lines that show it (from, to, which row).
  export interface Measured {
    rows: [string, number, string][];
    lines: [[number, number, number], [number, number, number], number][];
  }

  // A kept measurement as it is now, or why it cannot be taken.
  export interface MeasurementFacts {
    id: string;
    rows: [string, number, string][];
    lines: [[number, number, number], [number, number, number], number][];
    problem?: string;
  }

  // A model of the person's, and the project it is in.
  export interface ModelNamed {
    id: string;
    name: string;
    project: string;
  }

  // A free motion (``moving.Motion``): paths of the curves that move, by id, frame by frame there and back.
  export interface MotionShown {
    text: string;
    curves: string[];
    frames: Record<string, string>[];
  }

  // Only what moved: curves by id (path, places of points in their order, sizes), marks by their number (number,
  // place, side), dimensions by id (points, place of the text, the text or None where it says the same).
  export interface Moved {
    curves: Record<string, [string, [number, number][], number[]]>;
    marks: [number, [number, number], [number, number]][];
    dimensions: Record<string, [[number, number][], [number, number], string | null]>;
  }

  // It was done.
  export interface Nothing {
  }

  // What is known of one number. ``same``: it makes no difference, and has no ends then.
  export interface NumberTold {
    id: string;
    title: string;
    step: string;
    value: number;
    said: string;
    same: boolean;
    pull: Pulled;
    low?: ReachTold;
    high?: ReachTold;
  }

  // A constraint that a selection can take; ``why``: the reason where it would add nothing.
  export interface Offer {
    kind: string;
    word: string;
    symbol: string;
    chord: string;
    why: string;
  }

  // What a model is a copy of, and where it is.
  export interface OriginTold {
    model: string;
    revision: number;
    name: string;
    newest: number;
    url: string;
  }

  // A sheet: its page as SVG, its size, by their lines the boxes of its views and how far they were moved (mm, y
  // upwards).
  export interface PageFacts {
    svg: string;
    wide: number;
    high: number;
    scale: number;
    views: Record<string, number[]>;
    moved: Record<string, number[]>;
  }

  // A colour and where it belongs now: a body, or one of its faces (0-based).
  export interface PaintFacts {
    body: string;
    face: number | null;
    colour: string;
  }

  // A part. ``gone``: deleted, but others follow it. ``now``: how many of its steps count (None: all).
  export interface PartTold {
    id: string;
    name: string;
    sort: string;
    gone: boolean;
    linked: Record<string, any> | null;
    now: number | null;
    material: string;
    madeOf: Record<string, string>;
    bodyNames: Record<string, string>;
    steps: StepTold[];
  }

  // Curves by formulas in t (``plots.Plot``).
  export interface PlotShown {
    x: string;
    y: string;
    start: string;
    end: string;
    curves: string[];
  }

  // A point of a curve that is shown, by the reference that picks it.
  export interface PointShown {
    ref: string;
    at: [number, number];
  }

  // A draft step by itself: its shape (``tools``), the bodies before it, how much it adds (mm³).
  export interface PreviewFacts {
    status: string;
    message: string;
    where: string;
    handle: Record<string, any> | null;
    spots: any[];
    change: number;
    took: string[];
    along: number;
    worked_on: string[];
    tools: BodyFacts[];
    before: BodyFacts[];
    gave_up?: boolean;
  }

  // Whether a part prints, of a revision.
  export interface PrintShown {
    mesh: string;
    layers: string;
    heights: number[];
    chosen: string;
    bed: number;
    beds: number;
    bodies: BodyLying[];
    layings: WayToLie[];
    findings: FoundForPrint[];
    estimate: Estimate;
    process: Record<string, any>;
    box: [number[], number[]];
    revision: number;
  }

  // Where work is; nothing where none is under way.
  export interface Progress {
    title?: string;
    number?: number;
    count?: number;
    step?: string;
    key?: string;
  }

  // What would hold something (``suggesting.Proposal``). ``value``: of a dimension, as it is now.
  export interface ProposalShown {
    text: string;
    refs: string[];
    edit: Record<string, any>;
    value?: string;
  }

  // What a hand that drags a number needs (see ``Knob.pulled``).
  export interface Pulled {
    edit: Record<string, any>;
    unit: string;
    per: number;
    whole: boolean;
  }

  // How far a number goes one way (``Reach``): the value that holds, as text, the edit that sets it; where it
  // breaks beyond, that value, the step it breaks in and why.
  export interface ReachTold {
    at: number;
    said: string;
    edit_at: Record<string, any>;
    breaks?: number;
    breaks_said?: string;
    step?: string;
    where?: string;
    why?: string;
    edit?: Record<string, any>;
  }

  // A format that can be brought in.
  export interface ReaderKind {
    kind: string;
    word: string;
    spoken: string;
    endings: string[];
    gives: string;
  }

  // A surface of triangles beside the part.
  export interface ReferenceFacts {
    id: string;
    key: string;
    volume: number;
    area: number;
    box: any;
    triangles: number;
    closed: boolean;
    reference: boolean;
  }

  // A region by its key. ``letters``: how the ink or the islands of a text are called.
  export interface RegionShown {
    key: string[];
    path: string;
    area: number;
    letters: string;
  }

  // What puts a finding right: in words, and the edits.
  export interface Remedy {
    text: string;
    edits: Record<string, any>[];
  }

  // Something to look at: its sort, what it is about, where, in words, and what putting it right is called.
  export interface RepairShown {
    what: string;
    refs: string[];
    at: [number, number];
    text: string;
    fix: string;
  }

  // A revision: what was done, by whom, when (ISO 8601).
  export interface RevisionNamed {
    number: number;
    summary: string;
    who: string;
    at: string;
  }

  // A part cut by a plane, and that plane.
  export interface SectionShown {
    bodies: Cut[];
    frame: Record<string, number[]>;
  }

  // What a selection is called, measures (what, and how much in words) and can take. ``rims``: a dimension of it
  // may be measured to rims.
  export interface SelectionShown {
    names: string[];
    facts: [string, string][];
    offers: Offer[];
    rims: boolean;
    text: TextSet | null;
  }

  // To whom a model is shown, as a piece of the page; to how many.
  export interface Showings {
    html: string;
    count: number;
  }

  // One of two states that are compared, as built.
  export interface SideShown {
    part: string;
    key: string;
    steps: StepFacts[];
    bodies: BodyFacts[];
    references: ReferenceFacts[];
    paints: PaintFacts[];
    measurements: MeasurementFacts[];
    totals: Totals;
    hands: Record<string, Record<string, any>>;
    pulls: Record<string, Record<string, any>>;
    cold?: boolean;
    preview?: PreviewFacts;
    morphs?: Record<string, string>;
    page?: PageFacts;
    revision?: number;
    defaults?: Record<string, any>;
    title: string;
  }

  // An open sketch, at a revision of its model.
  export interface SketchShown {
    curves: CurveShown[];
    marks: MarkShown[];
    dimensions: DimensionShown[];
    free: string[];
    freedom: number;
    snaps: SnapShown[];
    regions: RegionShown[];
    repairs: RepairShown[];
    crossings: SnapShown[];
    known: string[];
    chains: string[][];
    open_ends: [number, number][];
    size: number;
    unmet: string;
    id: string;
    revision: number;
    underlay: UnderlayShown | null;
    plots: PlotShown[];
  }

  // A place to snap to, what it is called, and what it binds to.
  export interface SnapShown {
    at: [number, number];
    word: string;
    ref: string;
  }

  // A place on a curve that is not in the sketch yet; ``ref`` says "take" for the curve, which is taken along by
  // whoever snaps to it.
  export interface SnapThere {
    at: [number, number];
    snap: string;
    word: string;
    ref: string;
  }

  // The formula of the parameter at which it comes to ``goal``. ``tried``: value as text, value, what it came to;
  // ``others``: other formulas that come to the same.
  export interface Sought {
    formulas: Record<string, string>;
    builds: number;
    goal: number;
    tried: [string, number, number][];
    says: string;
    others: string[];
  }

  // The model as the scripts keep it. ``handy``: lengths that stand in untouched blanks, in the model's units;
  // ``may``: what whoever asks may do with it; ``limits``: from and to, by number; ``own``: materials of the
  // model's own.
  export interface State {
    id: string;
    revision: number;
    name: string;
    units: string;
    fractions: boolean;
    handy: Record<string, string>;
    may: string[];
    canUndo: boolean;
    canRedo: boolean;
    parameters: string[];
    limits: Record<string, string[]>;
    variants: VariantTold[];
    sizes: Record<string, any>;
    own: Record<string, Record<string, any>>;
    parts: PartTold[];
    at?: string;
  }

  // What a part can be compared with.
  export interface States {
    revisions: RevisionNamed[];
    variants: VariantTold[];
    models: ModelNamed[];
  }

  // What came of a step. ``status``: ok, failed, skipped, after. ``blame``: places to look at. ``free``: what a
  // placed body may still do. ``took``: sizes from a table. ``moved``: curves that followed the solid.
  export interface StepFacts {
    id: string;
    status: string;
    message: string;
    where: string;
    free: string;
    took: string[];
    advice: AdviceTold[];
    blame: any[];
    frame?: Record<string, number[]>;
    datum?: Record<string, number[]>;
    moved?: Record<string, any>;
  }

  // A kind of step as it declares itself (``core.steps.base.Step``).
  export interface StepKind {
    kind: string;
    word: string;
    chord: string;
    synonyms: string;
    icon: string;
    group: string;
    hint: string;
    makes_solid: boolean;
    drawn: boolean;
    begins: boolean;
    brought: boolean;
    traces: string;
    in_tray: boolean;
    assembles: boolean;
    on_sheet: boolean;
    usual_there: Record<string, any>;
    sentence: [string, string, number][];
    blanks: Record<string, BlankKind>;
  }

  // A step at an older revision, in words. ``out``: it did not count.
  export interface StepThen {
    title: string;
    text: string;
    out: boolean;
  }

  // A step with what stands in its blanks. ``room``: the first and last place it could stand at. ``words``: what
  // its blanks say. ``frame``: the plane of a sketch, where it is known without building.
  export interface StepTold {
    id: string;
    kind: string;
    title: string;
    skipped: boolean;
    faces: Record<string, string>;
    brings: string;
    uses: string[];
    needs: string[];
    room: [number, number];
    frame: Record<string, number[]> | null;
    fields: Record<string, any>;
    words: Record<string, string>;
  }

  // The stretch of a curve that trimming would take away.
  export interface StretchShown {
    path: string;
  }

  // A curve that is about to be drawn.
  export interface StrokeShown {
    path: string;
    construction: boolean;
  }

  // A table of sizes.
  export interface TableKind {
    title: string;
    of: string;
    source: string;
    usual: Record<string, any>;
  }

  // A curve that may be taken, as it is drawn.
  export interface TakeableShown {
    curve: Record<string, any>;
    words: string;
    edge?: Record<string, any>;
    face?: Record<string, any>;
    path: string;
    snaps: SnapThere[];
  }

  // The original, to which something was taken back.
  export interface TakenBack {
    revision: number;
    name: string;
  }

  // What a selected text says and how it is set. ``fonts``: those there are, by name.
  export interface TextSet {
    id: string;
    fonts: Record<string, string>;
    words: string;
    font: string;
    spacing: number;
    mirrored: boolean;
    bend: string;
  }

  // A drawing tool (``core.sketch.tools.Tool``).
  export interface ToolKind {
    kind: string;
    word: string;
    family: string;
    variant: string;
    chord: string;
    icon: string;
    steps: string[];
    band: string;
    more: boolean;
    options: ToolOption[];
    sizes: ToolSize[];
    chains: boolean;
    swings: any;
    hint: string;
  }

  // A choice or a number that a drawing tool may be given.
  export interface ToolOption {
    name: string;
    label: string;
    default: string | number | boolean;
    choices: [string, string][];
    low: number | null;
    high: number | null;
  }

  // A size that a drawing tool asks for.
  export interface ToolSize {
    label: string;
    angle: boolean;
    settled: number;
  }

  // The bodies together.
  export interface Totals {
    volume: number;
    area: number;
    mass: number;
    centre: number[];
    box: number[][];
  }

  // How many triangles a mesh has; ``off``: its volume's share above the exact one; ``crowded``: edges of more
  // than two triangles; ``lacks``: what is said where the part is not whole.
  export interface Triangles {
    lacks: string;
    crowded: number;
    bodies: number;
    triangles: number;
    off: number;
    picture: string;
  }

  // What was changed on a copy; no origin where the model is none.
  export interface TriedTold {
    origin: OriginTold | null;
    changes: ChangeTold[];
  }

  // The picture under a sketch: where it lies (``underlay.Underlay``), and the key it is asked for by.
  export interface UnderlayShown {
    key: string;
    name: string;
    wide: number;
    high: number;
    x: number;
    y: number;
    scale: number;
    turn: number;
    strength: number;
  }

  // One variant built: whether it can be, or where and why not; what it amounts to; how long it prints, s.
  export interface VariantBuilt {
    holds: boolean;
    where?: string;
    why?: string;
    facts?: Record<string, string>;
    bodies?: BodyFacts[];
    seconds?: number;
  }

  // A variant: its formulas as text. ``taken``: the model stands at it.
  export interface VariantRow {
    id: string;
    name: string;
    texts: string[];
    taken: boolean;
  }

  // A variant by its name.
  export interface VariantTold {
    id: string;
    name: string;
  }

  // The table of variants, the model's own formulas in its first row.
  export interface VariantsTold {
    heads: string[];
    rows: VariantRow[];
    own: string[];
    revision: number;
  }

  // A way to lay a part: how much support it needs (mm³), how high it is, how large its footing. ``several``: its
  // bodies lie each by itself.
  export interface WayToLie {
    name: string;
    several?: boolean;
    support?: number;
    height?: number;
    footing?: number;
    fits?: boolean;
  }

  // A question to the server about the open model: what comes after its address, and what is sent.
  export interface Ask {
    (path: `/comments/${string}/delete`, body?: any, method?: string): Promise<Comments>;
    (path: `/comments/${string}/reopen`, body?: any, method?: string): Promise<Comments>;
    (path: `/comments/${string}/settle`, body?: any, method?: string): Promise<Comments>;
    (path: `/flex/${string}/stop`, body?: any, method?: string): Promise<FlexTold>;
    (path: `/replay/${string}/stop`, body?: any, method?: string): Promise<Nothing>;
    (path: `/revisions/${string}/look`, body?: any, method?: string): Promise<LookedAt>;
    (path: `/shown/${string}/take-back`, body?: any, method?: string): Promise<Showings>;
    (path: `/sketches/${string}/chain`, body?: any, method?: string): Promise<string[]>;
    (path: `/sketches/${string}/clip`, body?: any, method?: string): Promise<Clip>;
    (path: `/sketches/${string}/dimension`, body?: any, method?: string): Promise<DimensionShown>;
    (path: `/sketches/${string}/drag`, body?: any, method?: string): Promise<Dragged>;
    (path: `/sketches/${string}/motions`, body?: any, method?: string): Promise<MotionShown[]>;
    (path: `/sketches/${string}/preview`, body?: any, method?: string): Promise<DrawnShown>;
    (path: `/sketches/${string}/selection`, body?: any, method?: string): Promise<SelectionShown>;
    (path: `/sketches/${string}/stretch`, body?: any, method?: string): Promise<StretchShown>;
    (path: `/sketches/${string}/suggestions`, body?: any, method?: string): Promise<ProposalShown[]>;
    (path: `/sketches/${string}/takeable`, body?: any, method?: string): Promise<TakeableShown[]>;
    (path: `/variants/${string}/${string}`, body?: any, method?: string): Promise<VariantBuilt>;
    (path: `/compare/file`, body?: any, method?: string): Promise<FileKept>;
    (path: `/exercise/answer`, body?: any, method?: string): Promise<ExerciseTold>;
    (path: `/exercise/hand-in`, body?: any, method?: string): Promise<ExerciseTold>;
    (path: `/exercise/withdraw`, body?: any, method?: string): Promise<ExerciseTold>;
    (path: `/print/check`, body?: any, method?: string): Promise<PrintShown>;
    (path: `/print/queue`, body?: any, method?: string): Promise<JobTold>;
    (path: `/print/times`, body?: any, method?: string): Promise<number[]>;
    (path: `/tried/take-back`, body?: any, method?: string): Promise<TakenBack>;
    (path: `/figures/${string}`, body?: any, method?: string): Promise<FigureKind[]>;
    (path: `/flex/${string}`, body?: any, method?: string): Promise<FlexTold>;
    (path: `/progress/${string}`, body?: any, method?: string): Promise<Progress>;
    (path: `/replay/${string}`, body?: any, method?: string): Promise<FilmTold>;
    (path: `/restore/${string}`, body?: any, method?: string): Promise<Changed>;
    (path: `/sketches/${string}`, body?: any, method?: string): Promise<SketchShown>;
    (path: `/variants/${string}`, body?: any, method?: string): Promise<VariantsTold>;
    (path: `/bring`, body?: any, method?: string): Promise<BroughtTold>;
    (path: `/build`, body?: any, method?: string): Promise<BuiltTold>;
    (path: `/comments`, body?: any, method?: string): Promise<Comments>;
    (path: `/compare`, body?: any, method?: string): Promise<ComparedTold>;
    (path: `/edit`, body?: any, method?: string): Promise<Changed>;
    (path: `/elsewhere`, body?: any, method?: string): Promise<Elsewhere>;
    (path: `/exercise`, body?: any, method?: string): Promise<ExerciseTold>;
    (path: `/explain`, body?: any, method?: string): Promise<CauseTold[]>;
    (path: `/fit`, body?: any, method?: string): Promise<FitShown>;
    (path: `/flex`, body?: any, method?: string): Promise<FlexTold>;
    (path: `/goal`, body?: any, method?: string): Promise<GoalRead>;
    (path: `/here`, body?: any, method?: string): Promise<Here>;
    (path: `/lighten`, body?: any, method?: string): Promise<Lightest>;
    (path: `/link`, body?: any, method?: string): Promise<Changed>;
    (path: `/measure`, body?: any, method?: string): Promise<Measured>;
    (path: `/number`, body?: any, method?: string): Promise<Amount>;
    (path: `/redo`, body?: any, method?: string): Promise<Changed>;
    (path: `/replay`, body?: any, method?: string): Promise<FilmTold>;
    (path: `/section`, body?: any, method?: string): Promise<SectionShown>;
    (path: `/seek`, body?: any, method?: string): Promise<Sought>;
    (path: `/shown`, body?: any, method?: string): Promise<Showings>;
    (path: `/stands`, body?: any, method?: string): Promise<Record<string, string>>;
    (path: `/states`, body?: any, method?: string): Promise<States>;
    (path: `/stop`, body?: any, method?: string): Promise<Nothing>;
    (path: `/triangles`, body?: any, method?: string): Promise<Triangles>;
    (path: `/tried`, body?: any, method?: string): Promise<TriedTold>;
    (path: `/undo`, body?: any, method?: string): Promise<Changed>;
    (path: `?${string}`, body?: any, method?: string): Promise<Fresh>;
    (path: string, body?: any, method?: string): Promise<any>;
  }
}
