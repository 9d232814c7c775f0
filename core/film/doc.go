// Package film evaluates a reveal: Compile lays an assembly and a document out
// in time, Film.At gives everything that a picture of one moment needs. What a
// frame shows depends on the document and the time alone, never on what was
// shown before; At does not allocate.
//
// Two cues on one node act in document order, each in its own axes; cues on
// nested nodes add up through the tree. A retrace takes progress away from the
// very cues that it reverses, so that parts return home to the bit.
package film
