// Package sequence makes a film: it evaluates a reveal frame by frame, renders the
// frames and hands them to the encoder, rendering and encoding at the same
// time. The command line and the workers both call it.
package sequence
