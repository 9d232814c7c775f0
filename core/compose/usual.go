package compose

import (
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// How things are made until the author says otherwise. No source but common practice: a move that can be followed takes
// one to two and a half seconds.
const (
	moveTime   = 1500 * reveal.Second / 1000
	changeTime = reveal.Second // of how parts look, and of a shot that follows
	outTime    = reveal.Second // in which a screw goes on where its thread ends
	noteTime   = 4 * reveal.Second
	cardTime   = 3 * reveal.Second
	orbitTime  = 8 * reveal.Second
	firstStep  = 3 * reveal.Second
	newStep    = 4 * reveal.Second
	pauseTime  = reveal.Second // between the way apart and the way back
	// atOnce is a change without a transition: the shortest that a cue may be.
	atOnce reveal.Micros = 1

	backSpeed     = 3.0  // times as fast as it came apart
	slowest       = 0.01 // times as fast
	quarterTurn   = 90.0 // °
	seenThrough   = 0.15 // opacity
	tintAmount    = 0.8
	followMargin  = 0.45 // of the frame, around what a shot follows
	screwsApart   = 300 * reveal.Second / 1000
	leastPull     = 20.0 // mm, of a screw that is out
	sidewaysFirst = 20.0 // mm
	legFirst      = 30.0 // mm
	cornerShare   = 4    // a corner's radius is a quarter of the leg before it
)

// UnknownTurns and UnknownLead (mm) are how a thread is unscrewed that no shape tells of: a guess.
const (
	UnknownTurns = 8.0
	UnknownLead  = 0.5
)

// pointedOut is the colour of a tint (linear RGB).
var pointedOut = space.Vec3{0.62, 0.07, 0.03}
