// What pages have and the tests' do not. Under Node alone a page has no address; jsdom lays nothing out.
globalThis.location ??= { origin: 'http://pump.test' } as Location

if (typeof document !== 'undefined') {
  globalThis.ResizeObserver ??= class {
    observe() {}
    unobserve() {}
    disconnect() {}
  }
  // A pointer is a mouse here.
  globalThis.PointerEvent ??= class extends MouseEvent {} as typeof PointerEvent
  document.defaultView!.PointerEvent ??= globalThis.PointerEvent
  globalThis.CSS ??= { escape: (text: string) => text.replace(/[^\w-]/g, '\\$&') } as typeof CSS
  Element.prototype.scrollIntoView ??= () => undefined
  Element.prototype.hasPointerCapture ??= () => false
  Element.prototype.setPointerCapture ??= () => undefined
  Element.prototype.releasePointerCapture ??= () => undefined
}
