// Package lettering sets words into pictures: the captions and cards of a film, its notes, safety notices and tools, in
// any script that a font has; and a logo beside them. Letters are outlines that are filled at the size of the picture.
package lettering
