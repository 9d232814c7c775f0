package e2e

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
	"slowreveal/store"
)

// hand counts what a hand does: clicks, drags and typings.
type hand struct {
	*stand
	moves int
}

func (h *hand) click(selector string, mods ...chromedp.Modifier) {
	h.moves++
	if len(mods) > 0 {
		h.do(clickWith(selector, mods[0]), browser.Settled(), browser.Saved())
		return
	}
	h.do(browser.Click(selector), browser.Settled(), browser.Saved())
}

func (h *hand) key(key string, mods ...chromedp.Modifier) {
	h.moves++
	var options []chromedp.KeyOption
	for _, m := range mods {
		options = append(options, chromedp.KeyModifiers(m))
	}
	h.do(chromedp.KeyEvent(key, options...), browser.Settled(), browser.Saved())
}

// empty stores the example with the empty reveal that it begins with, and opens it.
func (s *stand) empty() store.StoredReveal {
	s.Helper()
	_, m := pumpFile(s.T)
	p, err := s.authoring.CreateProject(context.Background(), "Pump "+s.Name(), "dp-40.glb", m)
	require.NoError(s, err)
	list, err := s.store.Reveals(context.Background(), p.ID)
	require.NoError(s, err)
	s.do(chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+list[0].ID), browser.StageReady())
	// What a screw is must be known before its thread can be used.
	s.do(browser.Script(fmt.Sprintf(`fetch('/api/projects/%s/survey').then(r => r.ok)`, p.ID)), browser.Settled())
	return list[0]
}

// From an opened project to "four screws unscrewed and pulled, cover off and faded,
// close shot, one after another" in at most twelve moves of the hand; the screws
// staggered and the whole retraced in at most four more.
func TestTheSpeedOfTheHand(t *testing.T) {
	atLength(t)
	h := &hand{stand: newStand(t)}
	r := h.empty()
	pumpHead := `//div[@role="treeitem"][span[normalize-space(.)="Pump head"]]/button`
	h.click(pumpHead)                      // 1
	h.click(row("Cover screw M3 × 12", 1)) // 2
	h.key("a")                             // 3 all like this
	h.key("u")                             // 4
	h.click(button("then straight out"))   // 5
	h.key(".")                             // 6 the playhead to its end
	h.click(row("Rotor cover", 1))         // 7
	h.key("p")                             // 8
	h.key("f")                             // 9 next, the same part
	h.key(".")                             // 10
	h.key("z")                             // 11 come close
	h.key("s")                             // 12
	assert.LessOrEqual(t, h.moves, 12)
	doc, _ := h.document(r.ID)
	require.Len(t, doc.Steps, 1)
	kinds := []reveal.Kind{}
	end := reveal.Micros(0)
	for _, c := range doc.Steps[0].Cues {
		kinds = append(kinds, c.Kind)
		assert.GreaterOrEqual(t, c.Offset, end, "the %s comes after what is before it", c.Kind)
		end = c.End()
	}
	assert.Equal(
		t,
		[]reveal.Kind{reveal.KindUnscrew, reveal.KindPull, reveal.KindPull, reveal.KindFade, reveal.KindShot},
		kinds,
	)
	screws, cover := doc.Steps[0].Cues[:2], doc.Steps[0].Cues[2:4]
	assert.Len(t, screws[0].Targets, 4)
	assert.Equal(t, 0.5, screws[0].Unscrew.Lead)
	assert.Len(t, screws[1].Targets, 4)
	for _, c := range cover {
		assert.Equal(t, "pump-head/rotor-cover", string(c.Targets[0]))
	}
	assert.Less(t, doc.Steps[0].Cues[4].Shot.Camera.Distance, doc.Opening.Camera.Distance, "a close shot")

	h.moves = 0
	h.click(fmt.Sprintf(`//div[@data-cue=%q]`, screws[0].ID))                        // 1
	h.click(fmt.Sprintf(`//div[@data-cue=%q]`, screws[1].ID), chromedp.ModifierCtrl) // 2
	h.key("g", chromedp.ModifierShift)                                               // 3
	h.key("b", chromedp.ModifierCtrl)                                                // 4
	assert.LessOrEqual(t, h.moves, 4)
	doc, _ = h.document(r.ID)
	assert.Positive(t, doc.Steps[0].Cues[0].Stagger)
	assert.Positive(t, doc.Steps[0].Cues[1].Stagger)
	require.Len(t, doc.Steps, 3)
	_, m := pumpFile(t)
	f := film.Compile(m.Assembly, doc)
	first, last := f.NewFrame(), f.NewFrame()
	f.At(0, first)
	f.At(f.Duration(), last)
	assert.Equal(t, first.World, last.World, "home again, to the bit")
	assert.Equal(t, first.Camera, last.Camera)
}

// The main views, dialogs and a picked part, step and cue, for axe (accessible), which looks at every state.
func TestNothingSeriousStandsInTheWayOfAnybody(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	at := "/p/" + r.ProjectID
	s.do(chromedp.Navigate(s.url), chromedp.WaitVisible(button("Choose a file")), browser.Settled())
	s.do(chromedp.Navigate(s.url+at+"/prepare/"+r.ID), browser.StageReady())
	s.do(chromedp.Navigate(s.url+at+"/direct/"+r.ID), browser.StageReady())
	s.do(find("rotor cover"), browser.Click(row("Rotor cover", 1)), browser.Settled())
	s.do(browser.Click(`//button[starts-with(@aria-label, "Go to step 2")]`), browser.Settled())
	s.do(clickWith(`//div[@data-cue="cue-12"]`, 0), browser.Settled())
	s.do(
		chromedp.KeyEvent(kb.Escape),
		chromedp.KeyEvent("?"),
		chromedp.WaitVisible(`//h2[text()="Shortcuts"]`),
		browser.Settled(),
	)
	s.do(chromedp.KeyEvent(kb.Escape), ctrl("k"), chromedp.WaitVisible(`//h2[text()="Find"]`), browser.Settled())
	s.do(chromedp.Navigate(s.url+at+"/release/"+r.ID), chromedp.WaitVisible(button("Make the film")), browser.Settled())
	assert.Greater(t, len(audited.kinds), 200, "kinds of things that axe has looked at")
}

// Two people in one reveal: each sees within a second what the other does, whose it
// is, and where the other is.
func TestTwoPeopleSeeEachOther(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	time.Sleep(500 * time.Millisecond) // the line for events
	require.NoError(
		t,
		s.store.Announce(
			context.Background(),
			r.ID,
			store.Presence{Page: "other", Name: "Mara Lind", Time: 7_500_000, Selected: "Pull"},
		),
	)
	s.do(chromedp.WaitVisible(`//button[starts-with(@aria-label, "Mara Lind is at 7.5 s")]`))
	s.do(browser.Click(`//button[starts-with(@aria-label, "Mara Lind is at")]`), browser.Settled())
	assert.Equal(t, 7_500_000, int(s.time()), "one click goes where the other is")
	now, err := s.store.Reveal(context.Background(), r.ID)
	require.NoError(t, err)
	begun := time.Now()
	_, err = s.authoring.Do(
		context.Background(),
		r.ID,
		authoring.On{Base: now.Version, Author: "Mara Lind"},
		titled("Mara was here"),
	)
	require.NoError(t, err)
	s.do(
		chromedp.WaitVisible(`//span[@role="status" and contains(., "Mara Lind: rename the reveal")]`),
		written("Mara was here"),
	)
	t.Logf("the other's edit was seen after %v", time.Since(begun).Round(10*time.Millisecond))
	require.NoError(
		t,
		s.store.Announce(context.Background(), r.ID, store.Presence{Page: "other", Name: "Mara Lind", Gone: true}),
	)
	s.do(chromedp.WaitNotPresent(`//button[starts-with(@aria-label, "Mara Lind is at")]`))
	// What this page does carries its own name.
	s.do(
		browser.Click(chromedp.CSS(`button[aria-label="Say who you are"]`)),
		chromedp.SendKeys(chromedp.CSS("#my-name"), "Jürgen"),
		browser.Press("Done"),
		browser.Click(
			`//button[starts-with(@aria-label, "Go to step 1")]`,
		),
		chromedp.KeyEvent(kb.Enter, chromedp.KeyModifiers(chromedp.ModifierShift)),
		browser.Settled(),
		browser.Saved(),
	)
	log, err := s.authoring.Since(context.Background(), r.ID, authoring.On{Base: now.Version + 1})
	require.NoError(t, err)
	require.Len(t, log.Since, 1)
	assert.Equal(t, "Jürgen", log.Since[0].Author)
}

// Versions, a reveal backwards, one deleted and brought back, by hand.
func TestRevealsAndTheirHistoryByHand(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	menu := func(entry string) browser.Action {
		return chromedp.Steps(
			browser.Click(`//header//button[.//*[name()="svg"] and not(@aria-label)]`),
			browser.Click(fmt.Sprintf(`//div[@role="menuitem"][normalize-space(.)=%q]`, entry)),
		)
	}
	s.do(
		chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID),
		browser.StageReady(),
		menu("Versions…"),
		chromedp.WaitVisible(`//h2[text()="Versions"]`),
		browser.Settled(),
		chromedp.SendKeys(chromedp.CSS(`input[aria-label="Name of this version"]`), "First cut"+kb.Enter),
		chromedp.WaitVisible(`//b[text()="First cut"]`),
		chromedp.KeyEvent(kb.Escape),
		browser.Click(
			`//button[starts-with(@aria-label, "Go to step 3")]`,
		),
		chromedp.KeyEvent(kb.Delete),
		browser.Settled(),
		browser.Saved(),
	)
	doc, _ := s.document(r.ID)
	require.Len(t, doc.Steps, 8)
	s.do(
		menu("Versions…"),
		browser.Press("What has changed"),
		chromedp.WaitVisible(`//li[contains(., "Take off the rotor cover") and contains(., "is gone")]`),
		browser.Press("Go back to it"),
		browser.Settled(),
		browser.Saved(),
	)
	doc, _ = s.document(r.ID)
	assert.Len(t, doc.Steps, 9)
	s.do(chromedp.KeyEvent(kb.Escape), ctrl("z"), browser.Settled(), browser.Saved())
	doc, _ = s.document(r.ID)
	assert.Len(t, doc.Steps, 8, "going back can be undone")
	s.do(menu("Show it backwards, as another one"), browser.StageReady(), written("Service teardown, backwards"))
	s.do(menu("Delete this one"), chromedp.WaitVisible(`//div[@role="status" and contains(., "is deleted")]`))
	list, err := s.store.Reveals(context.Background(), r.ProjectID)
	require.NoError(t, err)
	assert.Len(t, list, 2)
	s.do(browser.Press("Bring it back"), browser.Settled())
	require.Eventually(t, func() bool {
		list, err = s.store.Reveals(context.Background(), r.ProjectID)
		return err == nil && len(list) == 3
	}, 6*time.Minute, 50*time.Millisecond)
}

func titled(text string) authoring.Edit {
	return authoring.Edit{Command: edit.Command{Op: edit.SetTitle, Title: &text}}
}

// The timeline's own tools, by mouse, key and menu.
func TestTheTimelineByHand(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	shift := chromedp.KeyModifiers(chromedp.ModifierShift)
	timeline := func(entry string) browser.Action {
		return chromedp.Steps(
			browser.Click(chromedp.CSS(`button[aria-label="More for the timeline"]`)),
			browser.Click(fmt.Sprintf(`//div[@role="menuitem"][contains(., %q)]`, entry)),
			browser.Settled(),
		)
	}
	context := func(selector, entry string) browser.Action {
		return chromedp.Steps(
			browser.Script(
				fmt.Sprintf(
					`(() => { const e = document.querySelector(%q), b = e.getBoundingClientRect(); e.dispatchEvent(new MouseEvent('contextmenu', { bubbles: true, clientX: b.x + 5, clientY: b.y + 5 })); return true })()`,
					selector,
				),
			),
			browser.Click(
				fmt.Sprintf(`//div[@role="menuitem"][contains(., %q)]`, entry),
			),
			browser.Settled(),
			browser.Saved(),
		)
	}
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	// A marker, named as it is set.
	s.do(
		seek(6_000_000),
		chromedp.KeyEvent("j"),
		chromedp.WaitVisible(chromedp.CSS(`input[aria-label="Name of the marker"]`)),
		browser.Settled(),
		chromedp.SendKeys(chromedp.CSS(`input[aria-label="Name of the marker"]`), " here"+kb.Enter),
		browser.Settled(),
		browser.Saved(),
	)
	doc, _ := s.document(r.ID)
	require.Len(t, doc.Steps[1].Markers, 1)
	assert.Contains(t, doc.Steps[1].Markers[0].Text, "here")
	assert.InDelta(t, 1_400_000, float64(doc.Steps[1].Markers[0].Offset), 40_000)
	// Lanes in the order of the tree, a group folded, and all by time again.
	count := func() int { return int(eval[float64](s, `document.querySelectorAll('[data-cue]').length`)) }
	s.do(timeline("Lanes as in the tree"), chromedp.WaitVisible(chromedp.CSS(`button[aria-label="Fold Pump head"]`)))
	s.do(
		browser.Click(chromedp.CSS(`button[aria-label="Fold Pump head"]`)),
		chromedp.WaitVisible(chromedp.CSS(`button[aria-label="Unfold Pump head"]`)),
		timeline("Unfold all"),
		timeline("Lanes by time"),
	)
	assert.Positive(t, count())
	// Zoom to a cue, and loop it.
	width := func() float64 {
		return eval[float64](s, `document.querySelector('[data-cue="cue-2"]').getBoundingClientRect().width`)
	}
	before := width()
	s.do(context(`[data-cue="cue-2"]`, "Zoom to it"), browser.Settled())
	assert.Greater(t, width(), 3*before)
	s.do(
		chromedp.KeyEvent("q"),
		browser.Settled(),
		chromedp.KeyEvent("l", shift),
		chromedp.WaitVisible(chromedp.CSS(`button[aria-label="Loops a span; stop looping"]`)),
	)
	// Dragged near another bar's start it snaps to it: the door's turn to its shot's.
	box := eval[[]float64](
		s,
		`(() => { const b = document.querySelector('[data-cue="cue-2"]').getBoundingClientRect(), a = document.querySelector('[data-cue="cue-1"]').getBoundingClientRect(); return [b.left + b.width / 2, b.top + b.height / 2, a.left - b.left] })()`,
	)
	s.do(chromedp.DragAndDropXY(box[0], box[1], box[0]+box[2]+3, box[1], 6), browser.Settled(), browser.Saved())
	doc, _ = s.document(r.ID)
	assert.Equal(t, doc.Steps[0].Cues[0].Offset, doc.Steps[0].Cues[1].Offset)
	// The end of a step is dragged.
	length := doc.Steps[0].Duration
	grip := eval[[]float64](
		s,
		`(() => { const g = document.querySelector('[data-ruler] .cursor-col-resize').getBoundingClientRect(); return [g.left + 3, g.top + 8] })()`,
	)
	s.do(chromedp.DragAndDropXY(grip[0], grip[1], grip[0]+40, grip[1], 6), browser.Settled(), browser.Saved())
	doc, _ = s.document(r.ID)
	assert.Greater(t, doc.Steps[0].Duration, length)
	// A pause before a step; a copy that takes back what the door did.
	s.do(context(`[data-ruler] > div:nth-child(1)`, "Pause of 1 s before"))
	doc, _ = s.document(r.ID)
	assert.GreaterOrEqual(t, doc.Steps[0].Cues[0].Offset, reveal.Second)
	s.do(
		context(`[data-cue="cue-2"]`, "Copy"),
		chromedp.KeyEvent(kb.End),
		chromedp.KeyEvent("v", chromedp.KeyModifiers(chromedp.ModifierAlt)),
		browser.Settled(),
		browser.Saved(),
	)
	doc, _ = s.document(r.ID)
	last := doc.Steps[len(doc.Steps)-1].Cues
	require.Equal(t, reveal.KindTurn, last[len(last)-1].Kind)
	assert.Equal(t, 112.0, last[len(last)-1].Turn.Degrees)
	// Several cues: one change for each of them.
	s.do(
		clickWith(`//div[@data-cue="cue-4"]`, 0),
		clickWith(`//div[@data-cue="cue-5"]`, chromedp.ModifierCtrl),
		browser.Settled(),
	)
	was := []reveal.Micros{doc.Steps[1].Cues[1].Duration, doc.Steps[1].Cues[2].Duration}
	s.do(enter("Lasts", "*2"))
	doc, _ = s.document(r.ID)
	assert.Equal(t, 2*was[0], doc.Steps[1].Cues[1].Duration)
	assert.Equal(t, 2*was[1], doc.Steps[1].Cues[2].Duration)
}
