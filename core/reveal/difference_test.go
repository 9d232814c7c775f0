package reveal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/reveal"
	"slowreveal/demo"
)

func TestDifferencesAreSaidInWords(t *testing.T) {
	a := demo.Pump().Assembly
	before := demo.Teardown(a)
	assert.Empty(t, reveal.Differences(before, demo.Teardown(a)))
	for want, change := range map[string]func(r *reveal.Reveal){
		`the title: "Other" instead of "Service teardown"`:                             func(r *reveal.Reveal) { r.Title = "Other" },
		`the frame: 1280 × 1080 at 30 instead of 1920 × 1080 at 30`:                    func(r *reveal.Reveal) { r.Frame.Width = 1280 },
		`the opening is changed`:                                                       func(r *reveal.Reveal) { r.Opening.Suppressed = append(r.Opening.Suppressed, "drive") },
		`step 2 "Undo the four cover screws" lasts 7.00 s instead of 6.20 s`:           func(r *reveal.Reveal) { r.Steps[1].Duration = 7_000_000 },
		`step 1 "Door" was called "Open the door"`:                                     func(r *reveal.Reveal) { r.Steps[0].Title = "Door" },
		`step 1 "Open the door": its words or settings are changed`:                    func(r *reveal.Reveal) { r.Steps[0].Instruction = "x" },
		`step 1 "Open the door": a turn is changed: it starts 0.50 s later`:            func(r *reveal.Reveal) { r.Steps[0].Cues[1].Offset += 500_000 },
		`step 1 "Open the door": a turn is changed: it lasts 1.00 s instead of 2.20 s`: func(r *reveal.Reveal) { r.Steps[0].Cues[1].Duration = 1_000_000 },
		`step 1 "Open the door": a turn is changed: it is switched off`:                func(r *reveal.Reveal) { r.Steps[0].Cues[1].Muted = true },
		`step 1 "Open the door": a turn is changed`:                                    func(r *reveal.Reveal) { r.Steps[0].Cues[1].Turn.Degrees = 3 },
		`step 1 "Open the door": a turn is gone`:                                       func(r *reveal.Reveal) { r.Steps[0].Cues = r.Steps[0].Cues[:1] },
		`step 9 "Ready again" is gone`:                                                 func(r *reveal.Reveal) { r.Steps = r.Steps[:8] },
		`step 10 "More" is new`:                                                        func(r *reveal.Reveal) { r.Steps = append(r.Steps, reveal.Step{ID: "x", Title: "More", Duration: s}) },
		`step 3 "Undo the four cover screws" stands in another place`:                  func(r *reveal.Reveal) { r.Steps[1], r.Steps[2] = r.Steps[2], r.Steps[1] },
	} {
		after := demo.Teardown(a)
		change(after)
		assert.Contains(t, reveal.Differences(before, after), want)
	}
	// Looked at from the other side, what is new is gone.
	after := demo.Teardown(a)
	after.Steps[0].Cues = after.Steps[0].Cues[:1]
	assert.Equal(t, []string{`step 1 "Open the door": a turn is new`}, reveal.Differences(after, before))
}

const s = reveal.Second
