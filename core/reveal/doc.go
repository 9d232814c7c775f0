// Package reveal holds the document that an author writes: a reveal, with its
// opening and its steps of timed cues. It reads, writes and validates it. What
// the document looks like at a moment is the business of package film.
//
// Times are whole microseconds, lengths millimetres, angles degrees (as an
// author writes them), orientations quaternions x, y, z, w.
package reveal
