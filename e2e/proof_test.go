package e2e

import (
	"context"
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/e2e/browser"
)

// proven waits until all has been looked at and mended that can be.
func (s *stand) proven() browser.Action {
	return browser.Until(
		`/ checks$/.test(document.querySelector('[aria-label=Findings] [role=status]')?.textContent ?? '')`,
	)
}

// Proof and Release say where parts go into one another before anything is made, leads there, and says what was looked
// at when nothing is found.
func TestProofSaysWhatIsWrongAndWhatHelps(t *testing.T) {
	s := newStand(t)
	_, m := pumpFile(t)
	p, err := s.authoring.CreateProject(context.Background(), "Pump", "dp-40.glb", m)
	require.NoError(t, err)
	doc := reveal.New("Aside", film.FirstLook(m.Assembly))
	doc.Steps = []reveal.Step{
		{
			ID:       "aside",
			Title:    "Aside",
			Duration: 2 * reveal.Second,
			Cues: []reveal.Cue{{ID: "knob", Kind: reveal.KindPull,
				Targets: []assembly.NodeID{
					"housing/dosing-knob",
				}, Duration: reveal.Second, Easing: reveal.Smooth, Pull: &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 0, -1}, Distance: 12}}},
		},
	}
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, doc)
	require.NoError(t, err)
	// Proof tells of it first, with a picture, what helps, and room to say that it is meant so.
	proof := s.url + "/p/" + r.ProjectID + "/proof/" + r.ID
	fault := `//button[@data-finding="interference" or @data-finding="held"]`
	s.do(
		chromedp.Navigate(proof),
		chromedp.WaitVisible(fault),
		s.proven(),
		browser.Click(`(`+fault+`)[1]`),
		browser.Settled(),
	)
	assert.Contains(t, eval[string](s, `document.querySelector('article').textContent`), "Dosing knob")
	shown := `document.querySelector('article img')`
	s.do(browser.Until(shown + `.complete && ` + shown + `.naturalHeight === 360`))
	assert.Greater(t, eval[int](s, `(() => { // pixels in the colours of the two parts
		const i = `+shown+`, c = document.createElement('canvas'), x = c.getContext('2d')
		c.width = i.naturalWidth; c.height = i.naturalHeight; x.drawImage(i, 0, 0)
		const d = x.getImageData(0, 0, c.width, c.height).data
		let red = 0, blue = 0
		for (let k = 0; k < d.length; k += 4) { if (d[k] > 1.5 * d[k + 2] && d[k] > 90) red++; if (d[k + 2] > 1.25 * d[k] && d[k + 2] > 70) blue++ }
		return Math.min(red, blue)
	})()`), 20)
	count := `document.querySelector('[data-count]')?.dataset.count ?? ''`
	assert.Equal(t, "fault", eval[string](s, count))

	// A mend that is pointed at is seen before it is taken.
	s.do(
		browser.Script(`(() => { document.querySelector('article li button').focus(); return true })()`),
		browser.Until(shown+`.src.endsWith('&mend=0') && `+shown+`.complete && `+shown+`.naturalHeight === 360`),
		browser.Settled(),
	)

	// A mend that is taken is one edit, after which the finding is gone; undo brings it back.
	before, _ := s.document(r.ID)
	faults := `document.querySelectorAll('[data-finding=interference], [data-finding=held]').length`
	n := eval[int](s, faults)
	s.do(
		chromedp.KeyEvent("m"),
		browser.Saved(),
		s.proven(),
		browser.Until(fmt.Sprintf(`%s < %d`, faults, n)),
		browser.Settled(),
	)
	mended, _ := s.document(r.ID)
	assert.NotEqual(t, before.Steps[0].Cues[0], mended.Steps[0].Cues[0])
	s.do(ctrl("z"), browser.Saved(), s.proven(), browser.Until(fmt.Sprintf(`%s === %d`, faults, n)), browser.Settled())
	undone, _ := s.document(r.ID)
	assert.Equal(t, before, undone)

	// What is accepted no longer counts, is said so after a reload, and can be opened again.
	s.do(
		browser.Click(`(`+fault+`)[1]`),
		chromedp.KeyEvent("a"),
		browser.Until(`document.activeElement.id === "reason"`),
		ctrl("a"),
		chromedp.KeyEvent("It is rubber"+kb.Enter),
		browser.Saved(),
		s.proven(),
		browser.Until(fmt.Sprintf(`%s === %d`, faults, n-1)),
		browser.Settled(),
	)
	accepted, _ := s.document(r.ID)
	require.NotNil(t, accepted.Proof)
	assert.Equal(t, "It is rubber", accepted.Proof.Accepted[0].Reason)
	s.do(
		chromedp.Navigate(proof),
		chromedp.WaitVisible(`//button[text()="Accepted"]`),
		s.proven(),
		browser.Click(`//button[text()="Accepted"]`),
		chromedp.WaitVisible(`//p[contains(., "It is rubber")]`),
		browser.Settled(),
		browser.Click(`//button[contains(., "Open it again")]`),
		browser.Saved(),
		s.proven(),
		browser.Settled(),
	)
	undone, _ = s.document(r.ID)
	assert.Equal(t, before, undone)

	// With a coarser limit less is wrong.
	s.do(
		browser.Click(`//button[starts-with(., "All")]`),
		browser.Click(`//button[starts-with(., "What is looked for")]`),
		browser.Settled(),
		browser.Click(
			`//input[@aria-label="How much deeper than at rest parts may lie in one another, mm"]`,
		),
		ctrl("a"),
		chromedp.KeyEvent("10"+kb.Enter),
		browser.Saved(),
		s.proven(),
		browser.Until(faults+` === 0`),
		browser.Settled(),
		ctrl("z"),
		browser.Saved(),
		s.proven(),
	)

	first := `(//p[starts-with(., "Parts go into one another:")]//button)[1]`
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/release/"+r.ID), chromedp.WaitVisible(first), browser.Settled())
	title := eval[string](s, `document.querySelector('aside p button[title*="deeper in each other"]').title`)
	assert.Contains(t, title, "Dosing knob")
	assert.Contains(t, title, "“12 mm” of step 1.")
	// both are picked
	s.do(
		browser.Click(first),
		browser.StageReady(),
		chromedp.WaitVisible(`//section[@aria-label="Inspector"]//*[contains(text(), "and 1 more")]`),
	)
	assert.Positive(t, s.time())
	assert.LessOrEqual(t, s.time(), reveal.Second)

	// Pulled off along its axis, a knob is free; what was looked at is said all the same.
	now, err := s.store.Reveal(context.Background(), r.ID)
	require.NoError(t, err)
	off := doc.Steps[0].Cues[0]
	off.Pull = &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 0, 1}, Distance: 40}
	_, err = s.authoring.Do(
		context.Background(),
		r.ID,
		authoring.On{Base: now.Version},
		authoring.Edit{Command: edit.Command{Op: edit.SetCue, Cue: &off}},
	)
	require.NoError(t, err)
	s.do(
		browser.Click(`//nav[@aria-label="Phases"]//a[text()="Release"]`),
		chromedp.WaitVisible(`//p[starts-with(., "No part goes into another one:")]`),
		browser.Settled(),
	)
}
