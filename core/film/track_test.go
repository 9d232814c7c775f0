package film_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// A cue that begins behind the end of its step, and behind a retrace of it, is run backwards before it has run: there is
// nothing to take back, and nothing moves.
func TestWhatIsRunBackwardsBeforeItHasRunStandsStill(t *testing.T) {
	late := pull("late", 6*s, s, reveal.AssemblyAxes, space.Vec3{1, 0, 0}, 50, "cover")
	f, fr := compile(t, script(
		reveal.Step{ID: "a", Duration: 2 * s, Cues: []reveal.Cue{late}},
		reveal.Step{ID: "b", Duration: 3 * s, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"a"}}},
		reveal.Step{ID: "c", Duration: 5 * s},
	))
	index := f.Assembly.Index()["cover"]
	f.At(0, fr)
	home := fr.World[index]
	for at := reveal.Micros(0); at <= f.Duration(); at += s / 20 {
		f.At(at, fr)
		assert.Equal(t, home, fr.World[index], "at %d", at)
	}
}
