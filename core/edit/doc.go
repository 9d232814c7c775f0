// Package edit changes documents. Every change is a Command; applying one gives
// its inverse, which restores the document byte for byte. The page, the server
// and the tests all change documents here and nowhere else.
package edit
