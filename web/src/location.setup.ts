// The tests run under Node, where a page has no address of its own.
globalThis.location = { origin: 'http://pump.test' } as Location
