package e2e

import (
	"context"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/e2e/browser"
	"slowreveal/store"
)

// Release says where parts go into one another before anything is made, leads there, and says what was looked at when
// nothing is found.
func TestReleaseSaysWherePartsGoIntoOneAnother(t *testing.T) {
	s := newStand(t)
	_, m := pumpFile(t)
	p, err := s.store.CreateProject(context.Background(), "Pump", "dp-40.glb", m)
	require.NoError(t, err)
	doc := reveal.New("Aside", store.FirstLook(m.Assembly))
	doc.Steps = []reveal.Step{{ID: "aside", Title: "Aside", Length: 2 * reveal.Second, Cues: []reveal.Cue{{ID: "cover", Kind: reveal.KindPull,
		Targets: []assembly.NodeID{"pump-head/rotor-cover"}, Length: reveal.Second, Easing: reveal.Smooth, Pull: &reveal.Pull{Axes: reveal.Whole, Along: space.Triple{1, 0, 0}, Distance: 12}}}}}
	r, err := s.store.CreateReveal(context.Background(), p.ID, doc)
	require.NoError(t, err)
	first := `(//p[starts-with(., "Parts go into one another:")]//button)[1]`
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/release/"+r.ID), chromedp.WaitVisible(first), browser.Settled())
	title := eval[string](s, `document.querySelector('aside p button[title*="deeper in each other"]').title`)
	assert.Contains(t, title, "Rotor cover")
	assert.Contains(t, title, "“12 mm” of step 1.")
	s.do(chromedp.Click(first), browser.StageReady(), chromedp.WaitVisible(`//section[@aria-label="Inspector"]//*[contains(text(), "and 1 more")]`)) // both are picked
	assert.Positive(t, s.time())
	assert.LessOrEqual(t, s.time(), reveal.Second)

	// Pulled off along its axis, a knob is free; what was looked at is said all the same.
	now, err := s.store.Reveal(context.Background(), r.ID)
	require.NoError(t, err)
	off := doc.Steps[0].Cues[0]
	off.Targets, off.Pull = []assembly.NodeID{"housing/dosing-knob"}, &reveal.Pull{Axes: reveal.Whole, Along: space.Triple{0, 0, 1}, Distance: 40}
	_, err = s.store.Do(context.Background(), r.ID, store.On{Base: now.Version}, store.Edit{Command: edit.Command{Op: edit.SetCue, Cue: &off}})
	require.NoError(t, err)
	s.do(chromedp.Click(`//nav[@aria-label="Phases"]//a[text()="Release"]`), chromedp.WaitVisible(`//p[starts-with(., "No part goes into another one:")]`), browser.Settled())
}
