package e2e

import (
	"fmt"
	"math"
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

// choose takes an entry of one of the inspector's lists.
func choose(label, entry string) browser.Action {
	return chromedp.Steps(
		browser.Click(chromedp.CSS(fmt.Sprintf("button[role=combobox][aria-label=%q]", label))),
		browser.Click(
			fmt.Sprintf(`//div[@role="option"][normalize-space(.)=%q]`, entry),
		),
		browser.Settled(),
		browser.Saved(),
	)
}

// The stage says how far a part can go; a screw is unscrewed by its own lead;
// parts are spread; a note, a tint, an orbit and a shot that follows are made and
// changed by hand and by key.
func TestMovementsLooksAndShotsByHand(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(),
		find("cover screw"), browser.Click(row("Cover screw M3 × 12", 1)),
		chromedp.WaitVisible(`//*[@role="status" and contains(., "Door panel")]`), // what the way out runs into
		chromedp.WaitVisible(`//button[@role="radio" and contains(@aria-label, "Stands against")]`),
		browser.Press("Unscrew"), browser.Saved())
	doc, _ := s.document(r.ID)
	screw := last(t, doc, reveal.KindUnscrew)
	assert.Equal(t, 0.5, screw.Unscrew.Lead, "the lead of M3")
	assert.Equal(t, 24.0, screw.Unscrew.Turns, "as long as its thread")
	// Four screws, spread.
	s.do(
		browser.Click(row("Cover screw M3 × 12", 1)),
		shiftClick(row("Cover screw M3 × 12", 4)),
		enter("Distance of the move", "80"),
		browser.Click(tool("Spread")),
		browser.Saved(),
	)
	doc, _ = s.document(r.ID)
	cues := doc.Steps[0].Cues
	require.GreaterOrEqual(t, len(cues), 5)
	for i, want := range []float64{20, 40, 60, 80} {
		assert.InDelta(t, want, cues[len(cues)-4+i].Pull.Distance, 1e-9)
	}
	// A note and a tint by key; the note's text by hand.
	s.do(
		find("rotor cover"),
		browser.Click(row("Rotor cover", 1)),
		chromedp.KeyEvent("n"),
		chromedp.WaitVisible(chromedp.CSS(`textarea[aria-label="Text of the note"]`)),
		browser.Saved(),
		browser.Click(
			chromedp.CSS(`textarea[aria-label="Text of the note"]`),
		),
		chromedp.SendKeys(chromedp.CSS(`textarea[aria-label="Text of the note"]`), kb.End+", aluminium"),
		browser.Click(chromedp.CSS(`input[aria-label="Find a part"]`)),
		browser.Saved(),
		browser.Click(row("Rotor cover", 1)),
		chromedp.KeyEvent("d"),
		chromedp.WaitVisible(`//h2[contains(., "Tint")]`),
		browser.Saved(),
		enter("Strength", "40"),
	)
	doc, _ = s.document(r.ID)
	assert.Equal(t, "Rotor cover, aluminium", last(t, doc, reveal.KindNote).Note.Text)
	assert.InDelta(t, 0.4, last(t, doc, reveal.KindTint).Tint.Amount, 1e-9)
	// A pull with its flow line.
	s.do(
		browser.Click(row("Rotor cover", 1)),
		chromedp.KeyEvent("p"),
		chromedp.WaitVisible(`//h2[contains(., "Pull")]`),
		browser.Saved(),
		choose("Flow line", "one for each part"),
		browser.Saved(),
	)
	doc, _ = s.document(r.ID)
	assert.Equal(t, &reveal.FlowLine{Of: reveal.FlowPart}, last(t, doc, reveal.KindPull).Flow)
	// It goes until it is clear, and by hand so much farther; a distance that is typed counts as it is.
	s.do(browser.Press("until clear"), browser.Saved())
	doc, _ = s.document(r.ID)
	clear := last(t, doc, reveal.KindPull).Pull
	require.True(t, clear.IsClear())
	s.do(enter("How much farther than clear", "25"), browser.Saved())
	doc, _ = s.document(r.ID)
	farther := last(t, doc, reveal.KindPull).Pull
	assert.InDelta(t, math.Abs(clear.Distance)-clear.Clear.Margin+25, math.Abs(farther.Distance), 1e-6)
	s.do(enter("Distance", "70"), browser.Saved(), chromedp.WaitVisible(tool("until clear")))
	doc, _ = s.document(r.ID)
	assert.False(t, last(t, doc, reveal.KindPull).Pull.IsClear())
	// The camera circles; a shot follows what was picked.
	s.do(
		browser.Click(tool("Orbit")),
		chromedp.WaitVisible(`//h2[contains(., "Orbit")]`),
		browser.Saved(),
		enter("Angle", "2 turns"),
		browser.Click(row("Rotor cover", 1)),
		chromedp.KeyEvent("s"),
		chromedp.WaitVisible(`//h2[contains(., "Shot")]`),
		browser.Saved(),
		browser.Click(`//button[text()="Parts"]`),
		browser.Saved(),
	)
	doc, _ = s.document(r.ID)
	assert.Equal(t, 720.0, last(t, doc, reveal.KindOrbit).Orbit.Degrees)
	keep := last(t, doc, reveal.KindShot).Shot.Follow
	require.NotNil(t, keep)
	require.Len(t, keep.Nodes, 1)
	assert.Equal(t, "pump-head/rotor-cover", string(keep.Nodes[0]))
	// The stage shows the note where the film will have it.
	s.do(
		chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)),
		browser.Press("Through the shot"),
		browser.Settled(),
		chromedp.WaitVisible(`//div[@aria-label="Notes"]//span[contains(., "aluminium")]`),
	)
}

// drag takes a grip of the stage's arrows by the given pixels.
func drag(grip string, dx, dy float64) browser.Action {
	return browser.Script(fmt.Sprintf(`(() => {
		const g = document.querySelector('[data-grip=%q]'), r = g.getBoundingClientRect()
		const at = (x, y) => ({ bubbles: true, pointerId: 1, button: 0, buttons: 1, clientX: r.x + r.width / 2 + x, clientY: r.y + r.height / 2 + y })
		g.setPointerCapture = () => undefined
		g.dispatchEvent(new PointerEvent('pointerdown', at(0, 0)))
		return new Promise(done => requestAnimationFrame(() => {
			g.dispatchEvent(new PointerEvent('pointermove', at(%g, %g)))
			requestAnimationFrame(() => { g.dispatchEvent(new PointerEvent('pointerup', at(%[2]g, %[3]g))); done(true) })
		}))
	})()`, grip, dx, dy))
}

// What part one of Direct has beside the usual moves: a route, a pull in a plane,
// distances dragged on the stage, twins, ways of being drawn, cards, parallel sight,
// views on a shot's way, the opening from a moment, captions, a lane switched off.
func TestTheRarerToolsByHand(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	shift := chromedp.KeyModifiers(chromedp.ModifierShift)
	newest := func() *reveal.Cue {
		doc, _ := s.document(r.ID)
		return &doc.Steps[0].Cues[len(doc.Steps[0].Cues)-1]
	}
	pick := browser.Click(row("Dosing knob", 1))
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(), find("dosing knob"), pick)

	// A pull in a plane, its first direction turned round by R, its distance dragged.
	s.do(
		chromedp.KeyEvent("r"),
		chromedp.WaitVisible(`//button[@role="radio" and @aria-checked="true" and starts-with(@aria-label, "−Z")]`),
		chromedp.KeyEvent("r"),
		browser.Script(
			`(() => { [...document.querySelectorAll('[role=radio]')].find(b => b.textContent.startsWith('+Y')).dispatchEvent(new MouseEvent('click', { bubbles: true, shiftKey: true })); return true })()`,
		),
		enter("Distance along the second direction", "12"),
		drag("move", -20, 12),
		browser.Settled(),
		chromedp.KeyEvent("p"),
		chromedp.WaitVisible(`//h2[contains(., "Pull")]`),
		browser.Saved(),
	)
	plane := newest().Pull
	require.NotNil(t, plane.Secondary)
	assert.Equal(t, 12.0, plane.Secondary.Distance)
	assert.NotEqual(t, 30.0, plane.Distance, "dragged")
	s.do(
		browser.Click(chromedp.CSS(`button[aria-label="Not aside"]`)),
		browser.Saved(),
		drag("cue", -30, 18),
		browser.Settled(),
		browser.Saved(),
	)
	assert.Nil(t, newest().Pull.Secondary)
	assert.Greater(t, newest().Pull.Distance, plane.Distance, "the arrow's tip leads out to the left and down")
	// It goes on: a route, with a leg more and rounded corners.
	s.do(
		browser.Press("then on"),
		browser.Saved(),
		browser.Press("Leg"),
		browser.Saved(),
		enter("Leg 3 distance", "25"),
		enter("Leg 1 share of the time", "3"),
		enter("Corners", "6"),
	)
	route := newest()
	require.Equal(t, reveal.KindRoute, route.Kind)
	require.Len(t, route.Route.Legs, 3)
	assert.Equal(t, 25.0, route.Route.Legs[2].Distance)
	assert.Equal(t, 3.0, route.Route.Legs[0].Share)
	assert.Equal(t, 6.0, route.Route.Radius)

	// A twin on other parts follows a change of the first; parted it does not.
	s.do(
		ctrl("c"),
		find("start button"),
		browser.Click(row("Start button", 1)),
		seek(2_000_000),
		chromedp.KeyEvent("v", chromedp.KeyModifiers(chromedp.ModifierCtrl|chromedp.ModifierShift)),
		chromedp.WaitVisible(`//span[contains(., "Twin: shares the settings of Dosing knob")]`),
		browser.Saved(),
		enter("Corners", "9"),
	)
	twin := newest()
	assert.Equal(t, route.ID, twin.Twin)
	assert.Equal(t, "housing/start-button", string(twin.Targets[0]))
	doc, _ := s.document(r.ID)
	_, k := doc.FindCue(route.ID)
	assert.Equal(t, 9.0, doc.Steps[0].Cues[k].Route.Radius, "typed at the twin, changed for both")
	s.do(browser.Press("Part"), browser.Saved(), enter("Corners", "2"))
	assert.Equal(t, 2.0, newest().Route.Radius)
	// Another target, and out with it again.
	s.do(
		pickOf("dosing knob", "Dosing knob"),
		browser.Click(bar("Route 3 legs", 2)),
		browser.Click(`//button[starts-with(@aria-label, "+ pick")]`),
		browser.Saved(),
	)
	assert.Len(t, newest().Targets, 2)

	// Looks: another way of being drawn, away at once, a card.
	s.do(
		pickOf("display", "Display"),
		chromedp.KeyEvent("y"),
		chromedp.WaitVisible(`//h2[contains(., "Display style")]`),
		browser.Saved(),
		choose("Drawn", "edges only"),
		browser.Press("at once"),
		browser.Saved(),
	)
	assert.Equal(t, reveal.EdgesOnly, newest().Surface.Style)
	assert.Equal(t, reveal.Micros(1), newest().Duration)
	s.do(browser.Click(row("Display", 1)), chromedp.KeyEvent("f", shift), browser.Settled(), browser.Saved())
	assert.Equal(t, reveal.KindFade, newest().Kind)
	assert.Zero(t, newest().Fade.To)
	s.do(
		browser.Click(tool("Title card")),
		chromedp.WaitVisible(`//h2[contains(., "Title card")]`),
		browser.Saved(),
		chromedp.SendKeys(chromedp.CSS(`input[aria-label="Title of the card"]`), kb.End+" II"+kb.Enter),
		browser.Saved(),
	)
	assert.Equal(t, "Service teardown II", newest().Card.Title)

	// The camera: parallel sight, past another view at an even speed.
	s.do(
		chromedp.KeyEvent("v"),
		browser.Settled(),
		chromedp.KeyEvent("s"),
		chromedp.WaitVisible(`//h2[contains(., "Shot")]`),
		browser.Saved(),
	)
	assert.True(t, newest().Shot.Camera.Orthographic)
	s.do(browser.Press("Top"), browser.Press("past my eye"), browser.Saved(), choose("Comes", "past 1, even speed"))
	shot := newest().Shot
	require.Len(t, shot.Via, 1)
	assert.True(t, shot.ConstantSpeed)
	s.do(
		browser.Click(chromedp.CSS(`button[aria-label="Remove view 1"]`)),
		browser.Saved(),
		choose("Comes", "straight"),
	)
	assert.True(t, newest().Shot.Straight)

	// A lane is switched off, the captions change, this moment becomes the opening.
	s.do(browser.Click(`(//button[@aria-label="Mute this lane"])[2]`), browser.Saved())
	s.do(
		browser.Click(`//button[contains(., "Opening")]`),
		choose("Place", "upper left"),
		enter("Size of the captions", "120"),
	)
	doc, _ = s.document(r.ID)
	assert.Equal(t, reveal.UpperLeft, doc.CaptionStyle().Place)
	assert.InDelta(t, 1.2, doc.CaptionStyle().Size, 1e-9)
	s.do(
		seek(4_000_000),
		chromedp.KeyEvent(kb.Home, shift),
		chromedp.WaitVisible(`//div[@role="alert" and contains(., "switched off")]`),
		browser.Saved(),
	)
	doc, _ = s.document(r.ID)
	assert.NotEmpty(t, doc.Opening.Poses)
	assert.True(t, doc.Steps[0].Cues[1].Muted)
}

func pickOf(search, name string) browser.Action {
	return chromedp.Steps(find(search), browser.Click(row(name, 1)))
}

// bar is a bar of the timeline by what it says, in the order of the page.
func bar(says string, n int) string {
	return fmt.Sprintf(`(//div[@data-cue and starts-with(@aria-label, %q)])[%d]`, says, n)
}
