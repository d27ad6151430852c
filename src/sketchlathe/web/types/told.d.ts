// What the page is told, made of Python by `python scripts/make_types.py`; a test holds it to that.

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
  revision?: number;
  defaults?: Record<string, any>;
  panels?: Record<string, string>;
}

// The answer to an edit, an undo, a redo: the model as it then is. ``panels``: pieces of the page by their id.
export interface Changed {
  state: State;
  notice: string;
  panels: Record<string, string>;
  sketch?: SketchShown;
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

// A kept measurement as it is now, or why it cannot be taken.
export interface MeasurementFacts {
  id: string;
  rows: any[];
  lines: any[];
  problem?: string;
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
  worked_on: string[];
  tools: BodyFacts[];
  before: BodyFacts[];
  gave_up?: boolean;
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

// Something to look at: its sort, what it is about, where, in words, and what putting it right is called.
export interface RepairShown {
  what: string;
  refs: string[];
  at: [number, number];
  text: string;
  fix: string;
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

// The model as the scripts keep it. ``handy``: lengths that stand in untouched blanks, in the model's units;
// ``limits``: from and to, by number; ``own``: materials of the model's own.
export interface State {
  id: string;
  revision: number;
  name: string;
  units: string;
  fractions: boolean;
  handy: Record<string, string>;
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

// What came of a step. ``status``: ok, failed, skipped, after. ``blame``: places to look at. ``free``: what a
// placed body may still do. ``moved``: curves that followed the solid.
export interface StepFacts {
  id: string;
  status: string;
  message: string;
  where: string;
  free: string;
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
  usual_there: Record<string, any>;
  sentence: [string, string, number][];
  blanks: Record<string, BlankKind>;
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

// A table of sizes.
export interface TableKind {
  title: string;
  of: string;
  source: string;
  usual: Record<string, any>;
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
}

// The bodies together.
export interface Totals {
  volume: number;
  area: number;
  mass: number;
  centre: number[];
  box: number[][];
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

// A variant by its name.
export interface VariantTold {
  id: string;
  name: string;
}
