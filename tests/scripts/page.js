// The little of a page that modules read when they are loaded.
export function page(model = {}) {
  const data = {
    state: { id: 'm1', units: 'mm', fractions: false, parts: [{ id: 'p1', steps: [] }], handy: {}, ...model },
    kinds: { steps: [], tools: [] },
  };
  globalThis.document = {
    getElementById: id => (id in data ? { textContent: JSON.stringify(data[id]) } : null),
    addEventListener() {},
    querySelector: () => ({ content: 'token' }),
    querySelectorAll: () => [],
    body: { dataset: {}, addEventListener() {} },
  };
  globalThis.window = { addEventListener() {} };
  globalThis.matchMedia = () => ({ matches: true, addEventListener() {} });
  globalThis.location = { protocol: 'http:', host: 'localhost' };
  globalThis.requestAnimationFrame = f => setTimeout(f, 0);
  globalThis.cancelAnimationFrame = clearTimeout;
}
