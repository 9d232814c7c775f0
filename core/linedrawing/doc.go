// Package linedrawing turns a moment into lines: edges, contours and intersections of parts as a camera sees them,
// with what is hidden removed exactly, joined into long lines and fitted with curves.
//
// Visibility is decided by geometry, not by pixels: a straight line in front of an eye is hidden by a triangle where it
// is inside the pyramid from the eye through the triangle (for parallel lines of sight: the prism) and behind its
// plane. Each of these four conditions is linear along the line, so that the hidden part is one interval in closed form
// (the quantitative invisibility of Appel, “The Notion of Quantitative Invisibility and the Machine Rendering of
// Solids”, 1967, taken triangle by triangle). What no triangle hides is seen.
package linedrawing
