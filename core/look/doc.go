// Package look is the one look of Slow Reveal's pictures: the light, the ink of
// the edges, the background. The stage in the page and the film's rasteriser both
// take their numbers from here; docs/look.md has the formulas that both of them
// follow.
package look
