package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
)

// last returns the newest cue of a kind in the first step.
func last(t *testing.T, doc *reveal.Reveal, kind reveal.Kind) *reveal.Cue {
	t.Helper()
	cues := doc.Steps[0].Cues
	for i := len(cues) - 1; i >= 0; i-- {
		if cues[i].Kind == kind {
			return &cues[i]
		}
	}
	t.Fatalf("there is no %s", kind)
	return nil
}

// The stage says how far a part can go; a screw is unscrewed by its own lead;
// parts are spread; a note, a tint, an orbit and a shot that follows are made and
// changed by hand and by key.
func TestMovementsLooksAndShotsByHand(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(),
		find("cover screw"), chromedp.Click(row("Cover screw M3 × 12", 1)),
		chromedp.WaitVisible(`//p[@role="status" and contains(., "Door panel")]`), // what the way out runs into
		chromedp.WaitVisible(`//button[@role="radio" and contains(@aria-label, "Stands against")]`),
		browser.Press("Unscrew"), browser.Saved())
	doc, _ := s.document(r.ID)
	screw := last(t, doc, reveal.KindUnscrew)
	assert.Equal(t, 0.5, screw.Unscrew.Lead, "the lead of M3")
	assert.Equal(t, 24.0, screw.Unscrew.Turns, "as long as its thread")
	// Four screws, spread.
	s.do(chromedp.Click(row("Cover screw M3 × 12", 1)), shiftClick(row("Cover screw M3 × 12", 4)), enter("Distance of the move", "80"), chromedp.Click(tool("Spread")), browser.Saved())
	doc, _ = s.document(r.ID)
	cues := doc.Steps[0].Cues
	require.GreaterOrEqual(t, len(cues), 5)
	for i, want := range []float64{20, 40, 60, 80} {
		assert.InDelta(t, want, cues[len(cues)-4+i].Pull.Distance, 1e-9)
	}
	// A note and a tint by key; the note's text by hand.
	s.do(find("rotor cover"), chromedp.Click(row("Rotor cover", 1)), chromedp.KeyEvent("n"), chromedp.WaitVisible(chromedp.CSS(`textarea[aria-label="Text of the note"]`)), browser.Saved(),
		chromedp.Click(chromedp.CSS(`textarea[aria-label="Text of the note"]`)), chromedp.SendKeys(chromedp.CSS(`textarea[aria-label="Text of the note"]`), kb.End+", aluminium"), chromedp.Click(chromedp.CSS(`input[aria-label="Find a part"]`)), browser.Saved(),
		chromedp.Click(row("Rotor cover", 1)), chromedp.KeyEvent("d"), chromedp.WaitVisible(`//h2[contains(., "Tint")]`), browser.Saved(), enter("Strength", "40"))
	doc, _ = s.document(r.ID)
	assert.Equal(t, "Rotor cover, aluminium", last(t, doc, reveal.KindNote).Note.Text)
	assert.InDelta(t, 0.4, last(t, doc, reveal.KindTint).Tint.Amount, 1e-9)
	// A pull with its flow line.
	s.do(chromedp.Click(row("Rotor cover", 1)), chromedp.KeyEvent("p"), chromedp.WaitVisible(`//h2[contains(., "Pull")]`), browser.Saved(), chromedp.Click(`//button[text()="From the seat"]`), browser.Saved())
	doc, _ = s.document(r.ID)
	assert.NotNil(t, last(t, doc, reveal.KindPull).Flow)
	// The camera circles; a shot follows what was picked.
	s.do(chromedp.Click(tool("Orbit")), chromedp.WaitVisible(`//h2[contains(., "Orbit")]`), browser.Saved(), enter("Angle", "2 turns"),
		chromedp.Click(row("Rotor cover", 1)), chromedp.KeyEvent("s"), chromedp.WaitVisible(`//h2[contains(., "Shot")]`), browser.Saved(), chromedp.Click(`//button[text()="Parts"]`), browser.Saved())
	doc, _ = s.document(r.ID)
	assert.Equal(t, 720.0, last(t, doc, reveal.KindOrbit).Orbit.Degrees)
	keep := last(t, doc, reveal.KindShot).Shot.Keep
	require.NotNil(t, keep)
	require.Len(t, keep.Nodes, 1)
	assert.Equal(t, "pump-head/rotor-cover", string(keep.Nodes[0]))
	// The stage shows the note where the film will have it.
	s.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)), browser.Press("Through the shot"), browser.Settled(), chromedp.WaitVisible(`//div[@aria-label="Notes"]//span[contains(., "aluminium")]`))
}
