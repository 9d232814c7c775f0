// Package demo builds Slow Reveal's own example: the DP-40, an invented
// bench-top peristaltic dosing pump, with real screw, bearing and gear
// dimensions, and the reveals that present it. It also builds the stress
// assembly that measurements use. Everything is computed, nothing is loaded.
package demo
