// Package release knows what can be made of a reveal: films, sequences of frames, stills,
// an animated GLB, captions. It checks what is asked for, splits it into segments that any
// worker can make, and puts them together. Who makes them, and where they are kept, is
// not its business: the queue and the command line use it alike.
package release
