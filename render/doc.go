// Package render turns frames of a film into pixels, in pure Go: no GPU, no
// browser. The picture is cut into tiles; each tile decides what is visible at
// four samples a pixel (a visibility buffer of triangle numbers) and then
// shades each visible triangle once a pixel. Ties in depth go to the higher
// number, so that the bytes do not depend on the number of threads.
//
// docs/look.md says what a picture looks like; numbers come from core/look.
package render
