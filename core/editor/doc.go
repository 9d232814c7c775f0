// Package editor is one author's open reveal: the assembly, the document being
// edited, its compiled film and the frame at the playhead. The page talks to it
// through WebAssembly (cmd/corewasm); everything that the page must know and
// could get wrong is computed here.
package editor
