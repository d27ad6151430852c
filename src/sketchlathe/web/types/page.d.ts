// What the scripts of the page share, and the page's elements as they meet them.
import type { BuiltTold, CurveShown, SketchShown, State } from './told';

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
  also?: string[];
  take?: any;
  typed?: any;
}

// What the page knows of the model, and how a person looks at it.
export interface Shared {
  model: State;
  partId: string | null;
  build: BuiltTold | null;
  sketch: OpenSketch | null;
  selection: string[];
  mode: string;
  frame?: any;
  hot?: string | null;
  picked?: any;
  viewWidth?: number;
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
