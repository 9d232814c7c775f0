package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
)

// A step grows with its cues and says so; one that is held does not, and says by how much they outrun it. A
// bar goes over a step's border into the step that runs there, by the keyboard and by its field.
func TestStepsGrowAndBarsLeaveThem(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	before, _ := s.document(r.ID)
	cue := before.Steps[1].Cues[1] // the screws come loose
	startOf := func() (reveal.Micros, int) {
		doc, _ := s.document(r.ID)
		for _, b := range film.Compile(demo.Pump().Assembly, doc).Schedule.Bars {
			if b.Cue == cue.ID && !b.Retraced {
				i, _ := doc.FindCue(cue.ID)
				return b.Start, i
			}
		}
		return -1, -1
	}
	bar := chromedp.CSS(`[data-cue="` + string(cue.ID) + `"]`)
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID),
		browser.StageReady(),
		browser.Click(bar),
		chromedp.WaitVisible(chromedp.CSS(`input[aria-label="Lasts"]`)),
		enter("Lasts", "12"),
		chromedp.WaitVisible(`//div[@role="status" and contains(., "lasts") and contains(., "its cues end in it")]`),
	)
	doc, _ := s.document(r.ID)
	assert.Equal(t, reveal.Resolved(doc).Steps[1].Done(), doc.Steps[1].Duration)
	s.do(
		chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		chromedp.WaitVisible(`//div[@role="status" and contains(., "Taken back: change an unscrew")]`),
		browser.Saved(),
	)
	doc, _ = s.document(r.ID)
	assert.Equal(t, string(reveal.Write(before)), string(reveal.Write(doc)), "the growth goes back with the edit")

	// Held.
	s.do(
		browser.Click(`//button[starts-with(@aria-label, "Go to step 2")]`),
		browser.Click(`//label[contains(., "Hold this length")]`),
		browser.Saved(),
		browser.Click(bar),
		enter("Lasts", "12"),
	)
	doc, _ = s.document(r.ID)
	assert.Equal(t, before.Steps[1].Duration, doc.Steps[1].Duration)
	s.do(
		chromedp.WaitVisible(chromedp.CSS(`article[aria-label^="Step 2"] [aria-label*="go on for"]`)),
		browser.Click(`//button[starts-with(@aria-label, "Go to step 2")]`),
		chromedp.WaitVisible(`//p[contains(., "Its cues go on for")]`),
		browser.Click(
			`//label[contains(., "Hold this length")]`,
		),
		browser.Saved(),
		browser.Click(bar),
		enter("Lasts", "1"),
	)

	// Into the step before by the keyboard, and into the one behind by the field.
	start, step := startOf()
	require.Equal(t, 1, step)
	s.do(chromedp.Focus(bar))
	for range 2 {
		s.do(
			chromedp.KeyEvent(kb.ArrowLeft, chromedp.KeyModifiers(chromedp.ModifierAlt|chromedp.ModifierCtrl)),
			browser.Saved(),
		)
	}
	now, step := startOf()
	assert.Equal(t, start-2*reveal.Second, now)
	assert.Zero(t, step)
	s.do(enter("Starts", "14"))
	now, step = startOf()
	doc, _ = s.document(r.ID)
	assert.Greater(t, step, 0)
	assert.Equal(t, step, film.Compile(demo.Pump().Assembly, doc).Schedule.StepAt(now))
	assert.InDelta(t, 14e6, float64(now), 1)
	assert.Equal(t, "14.00 s", eval[string](s, `document.querySelector('input[aria-label="Starts"]').value`))
}

// Steps are put into another order from the keyboard; the focus goes along, and steps that are called by their
// number keep to it.
func TestStepsAreMovedFromTheKeyboard(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	alt := chromedp.KeyModifiers(chromedp.ModifierAlt)
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID),
		browser.StageReady(),
		browser.Click(`//button[starts-with(@aria-label, "Go to step 2")]`),
		browser.Press("Step"),
		browser.Saved(),
		chromedp.Focus(`//button[starts-with(@aria-label, "Go to step 3")]`),
		chromedp.KeyEvent(kb.ArrowUp, alt),
		browser.Saved(),
		browser.Settled(),
		chromedp.KeyEvent(kb.ArrowUp, alt),
		browser.Saved(),
	)
	doc, _ := s.document(r.ID)
	assert.Equal(
		t,
		[]string{"Step 1", "Open the door", "Undo the four cover screws"},
		[]string{doc.Steps[0].Title, doc.Steps[1].Title, doc.Steps[2].Title},
	)
	assert.Contains(t, eval[string](s, `document.activeElement.getAttribute('aria-label')`), "Go to step 1")
	// From the first place it goes no further.
	s.do(chromedp.KeyEvent(kb.ArrowUp, alt), browser.Settled())
	again, _ := s.document(r.ID)
	assert.Equal(t, doc.Steps[0].ID, again.Steps[0].ID)
}

// A reload comes back to where the author was: playhead, selection, eye.
func TestAReloadKeepsThePlace(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID),
		browser.StageReady(),
		seek(12_000_000),
		browser.Press("Top"),
		browser.Click(chromedp.CSS(`[data-cue="cue-9"]`)),
		browser.Settled(),
	)
	eye, time := s.camera(), eval[string](s, `document.querySelector('[data-time]').dataset.time`)
	s.do(chromedp.Reload(), browser.StageReady(), browser.Settled())
	assert.Equal(t, time, eval[string](s, `document.querySelector('[data-time]').dataset.time`))
	assert.Equal(
		t,
		[]string{"cue-9"},
		eval[[]string](s, `[...document.querySelectorAll('[data-cue][aria-pressed=true]')].map((e) => e.dataset.cue)`),
	)
	back := s.camera()
	assert.InDeltaSlice(t, eye.Target[:], back.Target[:], 1e-6)
	assert.InDelta(t, eye.Distance, back.Distance, 1e-6)
	// A visit from elsewhere begins at the beginning.
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	assert.Equal(t, "0", eval[string](s, `document.querySelector('[data-time]').dataset.time`))
}
