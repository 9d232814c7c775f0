// Package paper puts what a reveal shows on pages of a size in millimetres: words, lines, pictures and line drawings,
// written as PDF and SVG. Its pages have their origin at the upper left, y goes down. What is drawn where is decided by
// packages sheet and manual.
package paper
