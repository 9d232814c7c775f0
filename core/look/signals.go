package look

import (
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Sign is how the signal word of a notice is set.
type Sign struct {
	// Panel is the colour behind the word, Letters that of the word: display values, 0 to 1.
	Panel   space.Vec3 `json:"panel"`
	Letters space.Vec3 `json:"letters"`
	// Alert says that the safety alert symbol stands before the word.
	Alert bool `json:"alert,omitempty"`
}

// Signals are the panels of signal words: white on red, black on orange and on yellow, each with the
// safety alert symbol; white on blue without it (ANSI Z535.6, from memory; the colours by the names of ANSI Z535.1,
// their values chosen for screens).
var Signals = map[reveal.Signal]Sign{
	reveal.Danger:     {hex(0xc8102e), space.Vec3{1, 1, 1}, true},
	reveal.Warning:    {hex(0xf28c28), hex(0x111111), true},
	reveal.Caution:    {hex(0xf6c32c), hex(0x111111), true},
	reveal.NoticeWord: {hex(0x1f5fae), space.Vec3{1, 1, 1}, false},
}

func hex(rgb uint32) space.Vec3 {
	return space.Vec3{float64(rgb>>16) / 255, float64(rgb>>8&255) / 255, float64(rgb&255) / 255}
}
