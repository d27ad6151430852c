// What the scripts of the page share, and the page's elements as they meet them.

declare namespace Page {
  // The open sketch: as told, with what the screen adds to it.
  type OpenSketch = Omit<Told.SketchShown, 'curves'> & {
    curves: (Told.CurveShown & { samples?: any; outline?: any })[];
    offers?: any[];
    offersHot?: number | null;
    around?: any[];
  };

  // A place that the pointer means, and what it binds to there.
  interface Spot {
    at: [number, number];
    snap?: string | null;
    ref?: string | null;
    word?: string;
    also?: { snap: string; ref: string | null }[];
    take?: any;
    typed?: any;
    d?: number;
    rank?: number;
    // how many places there are to choose from; lines it is in line with
    more?: number;
    guide?: [number, number];
    guides?: [number, number][];
    // where the line then begins: its start slides
    starts?: Spot;
    // what the tool draws when this is drawn
    after?: any;
  }

  // What is being drawn: places set so far, where the pointer is, what was typed.
  interface Drawing {
    tool: Told.ToolKind | null;
    places: Spot[];
    pointer: Spot | null;
    pixel: [number, number] | null;
    raw?: [number, number];
    typed: ({ text: string; ok?: boolean; value?: number; waiting?: Promise<void>; problem?: string } | undefined)[];
    chainStart: { made?: string } | null;
    alt: boolean;
    shown: any;
    live?: any[];
    arc: any;
  }

  // What a tool shows of what it would draw: SVG nodes in pixels, a dimension being placed.
  interface Draft {
    nodes: SVGElement[];
    dimension: any;
  }

  // The orthographic turntable camera (`view/camera.js`).
  interface Camera {
    room(margin: number): number[];
    target: number[];
    az: number;
    el: number;
    scale: number;
    width: number;
    height: number;
    moving: number;
    normal(): number[];
    right(): number[];
    up(): number[];
    project(p: Vec): number[];
    matrix(frame: Frame): number[];
    ray(x: number, y: number): { origin: number[]; direction: number[]; at: number[] };
    onPlane(frame: Frame, x: number, y: number): [number, number];
    changed(): void;
    turn(daz: number, del: number): void;
    pan(dx: number, dy: number): void;
    zoom(factor: number, x?: number, y?: number): void;
    stop(): void;
    go(to: { target?: number[]; az?: number; el?: number; scale?: number }): void;
    facing(frame: Frame): { az: number; el: number };
    fitting(points: Vec[], angles?: { az?: number; el?: number }, margin?: number, most?: number): Placed;
  }
  // From where the camera looks.
  interface Placed {
    target: number[];
    scale: number;
    az: number;
    el: number;
  }

  // What can be picked in the sketches for the blank at hand.
  interface Candidates {
    list: { id: string; frame: any; region: any; text: string }[];
    lines: {
      frame: any;
      path: string;
      hit?: string; // where it is taken by a click, if not all along
      on: boolean;
      of?: string; // what the bar's list calls it
      name?: { text: string; at: number }; // its text, and how far along it
      pick(): void;
    }[];
    points: { frame: any; at: number[]; on: boolean; pick(): void; of?: string; says?: string }[];
    chosen: Set<string>;
    pick: ((candidate: any) => void) | null;
  }

  // What a click in the view means for the blank at hand.
  interface Picking {
    takes: any;
    pick: ((hit: any) => any) | null;
    marked: (() => any) | null;
    walks: { walk(by: number): any; take(thing: any): any } | null;
    hot: any;
    walked: any;
  }

  // What the page knows of the model, and how a person looks at it.
  interface Shared {
    model: Told.State;
    partId: string;
    build: Told.BuiltTold | null;
    // the steps as they are with the one that is being tried
    tried?: Told.StepFacts[] | null;
    sketch: OpenSketch | null;
    selection: string[];
    mode: string;
    frame?: any;
    hot?: string | null;
    picked?: any;
    viewWidth: number;
    reading?: Record<string, string>;
    fights?: string[];
    underlayHidden?: boolean;
    underlayOpen?: boolean;
    tagsHidden?: boolean;
    filter?: string;
    shownSketches?: any;
    selectedPoints?: any;
    labels?: any;
  }
}

declare const htmx: any;

// A place or a direction: two numbers in a sketch or in the view, three in space.
declare type Vec = number[] | Float32Array;
// A plane with its own axes, in space.
declare type Frame = { origin: number[]; x: number[]; y: number[]; normal: number[] };

// What came with a mesh: faces, edges and corners with the picks that were made for them on the server.
declare interface MeshFace {
  at: [number, number];
  pick: any;
  frame: Frame | null;
  made: { by: string }[];
  [more: string]: any;
}
declare interface MeshEdge {
  at: [number, number];
  faces: number[];
  seam?: boolean;
  [more: string]: any;
}
declare interface Body {
  faces: MeshFace[];
  edges: MeshEdge[];
  vertices: number[][];
  lines: Float32Array;
  geometry: any;
  drawn: Map<string, any>;
  volume: number;
  slack: number;
  [more: string]: any;
}
// Something of a body that is pointed at or picked.
declare interface Hit {
  facts: Told.BodyFacts;
  body: Body;
  mesh: any;
  what: string;
  index: number;
  point?: any;
  d?: number;
}

// Of an element that is made: what it hears of begins with "on".
declare interface Attributes {
  [heard: `on${string}`]: ((event: any) => any) | null | undefined;
  [name: string]: any;
}
// A curve of the open sketch.
declare type Curve = Page.OpenSketch['curves'][number];

// The editor of a blank in the sentence bar, and what the bar gives it (`steps/blanks/`).
declare interface Editor {
  looking?: boolean; // it is finding out what can be picked
  node: any;
  set(value: any): void;
  activate?(): any;
  deactivate?(): void;
  empty?(): boolean;
  unchosen?(): boolean;
  told?(): void;
  value?: any;
  finishes?: boolean;
  goesOn?: boolean;
}
declare interface BlankBar {
  readonly before: number | null;
  readonly id: string | null;
  readonly single: boolean;
  marked(which: (() => any) | null): void;
  walks(walks: { walk(by: number): any; take(thing: any): any } | null): void;
  put(fields: Record<string, any>, then?: string): void;
  isActive(): boolean;
  isOpen(node: Node): boolean;
  note(text: string): void;
  list(
    items: { text: string; on: boolean; toggle(): void; radio?: boolean; id?: string; hit?(): any }[],
    more?: Node[],
  ): void;
  sheets(pick: ((key: string) => void) | null): void;
  lightSheet(key: string | null): void;
  takes(what: string[] | null, pick?: (hit: any) => any): void;
  digits(hear: ((digit: number) => void) | null): void;
  spots(): any[];
}
declare type MakeEditor = (blank: Told.BlankKind, value: any, changed: (value: any) => void, bar: BlankBar) => Editor;

// Hears what a question was answered with, or why it was not.
declare type Hearing = (answer: any, problem: any) => void;

// Whoever asks for an element by its id or by a selector knows what it is: it has what controls, dialogs and forms
// have. So a misspelled name is found, not a button that is asked for its value.
declare interface EventTarget {
  closest(selectors: string): HTMLElement;
  matches(selectors: string): boolean;
  querySelector(selectors: string): HTMLElement;
  querySelectorAll(selectors: string): NodeListOf<HTMLElement>;
  setPointerCapture(pointer: number): void;
  click(): void;
  blur(): void;
  id: string;
  name: string;
  tagName: string;
  className: string;
  classList: DOMTokenList;
  dataset: DOMStringMap;
  value: string;
  defaultValue: string;
  checked: boolean;
  elements: any;
  open: any;
  // what scripts of ours keep on an element
  born?: number;
  tried?: number;
}
declare interface Element {
  dataset: DOMStringMap;
  hidden: any;
  title: string;
  style: CSSStyleDeclaration;
  disabled: boolean;
  placeholder: string;
  content: string;
  href: string;
  src: string;
  max: string;
  accept: string;
  action: string;
  width: number;
  height: number;
  files: FileList;
  focus(options?: FocusOptions): void;
  select(): void;
  close(): void;
  showModal(): void;
  reset(): void;
  requestSubmit(button?: any): void;
}
declare interface Node {
  contains(other: any): boolean;
}
declare interface Array<T> {
  indexOf(searchElement: any, fromIndex?: number): number;
}
declare interface Event {
  detail: any;
  key: string;
}
