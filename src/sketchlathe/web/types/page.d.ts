// What the scripts of the page share, and the page's elements as they meet them.
import type { BuiltTold, CurveShown, DimensionShown, SketchShown, State, ToolKind } from './told';

// The open sketch: as told, with what the screen adds to it.
export type OpenSketch = Omit<SketchShown, 'curves'> & {
  curves: (CurveShown & { samples?: any; outline?: any })[];
  offers?: any[];
  offersHot?: number | null;
  around?: any[];
};

// A place that the pointer means, and what it binds to there.
export interface Spot {
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
  // what the tool draws when this is drawn
  after?: any;
}

// What is being drawn: places set so far, where the pointer is, what was typed.
export interface Drawing {
  tool: ToolKind | null;
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
export interface Draft {
  nodes: SVGElement[];
  dimension: any;
}

// What can be picked in the sketches for the blank at hand.
export interface Candidates {
  list: { id: string; frame: any; region: any; text: string }[];
  lines: { frame: any; path: string; on: boolean; pick(): void }[];
  points: { frame: any; at: number[]; on: boolean; pick(): void; says?: string }[];
  chosen: Set<string>;
  pick: ((candidate: any) => void) | null;
}

// What a click in the view means for the blank at hand.
export interface Picking {
  takes: any;
  pick: ((hit: any) => any) | null;
  marked: (() => any) | null;
  walks: { walk(by: number): any; take(thing: any): any } | null;
  hot: any;
  walked: any;
}

// What the page knows of the model, and how a person looks at it.
export interface Shared {
  model: State;
  partId: string;
  build: BuiltTold | null;
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

declare global {
  const htmx: any;

  // Whoever asks for an element by its id or by a selector knows what it is: it has what controls, dialogs and forms
  // have. So a misspelled name is found, not a button that is asked for its value.
  interface EventTarget {
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
  interface Element {
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
  interface Node {
    contains(other: any): boolean;
  }
  interface Array<T> {
    indexOf(searchElement: any, fromIndex?: number): number;
  }
  interface Event {
    detail: any;
    key: string;
  }
}
