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

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/e2e/browser"
)

const planStatus = `(document.querySelector('[aria-label="Teardown plan"] [role=status]')?.textContent ?? '')`

// thought waits until a plan has been computed.
func thought() browser.Action {
	return browser.Until(`/^(\d+ moves of|Nothing can)/.test(` + planStatus + `)`)
}

// A teardown is planned from nothing, looked at, changed and accepted with one press; one undo takes it away. The stage
// shows each move before it is in the reveal.
func TestATeardownIsPlannedChangedAndAccepted(t *testing.T) {
	s := newStand(t)
	_, m := pumpFile(t)
	p, err := s.authoring.CreateProject(context.Background(), "Pump", "dp-40.glb", m)
	require.NoError(t, err)
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, reveal.New("Planned", film.FirstLook(m.Assembly)))
	require.NoError(t, err)
	s.do(
		chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+r.ID),
		browser.StageReady(),
		browser.Settled(),
		browser.Click(button("Plan a teardown")),
		thought(),
		browser.Settled(),
	)
	moves := eval[int](s, `document.querySelectorAll('[data-move]').length`)
	assert.Greater(t, moves, 40)
	empty, _ := s.document(r.ID)
	assert.Empty(t, empty.Steps, "nothing of it is in the reveal")

	// A move is looked at: its parts are picked, and stand where it takes them.
	at := func(title string) int {
		return eval[int](
			s,
			fmt.Sprintf(
				`Number([...document.querySelectorAll('[data-move]')].find((e) => e.textContent.includes(%q)).dataset.move)`,
				title,
			),
		)
	}
	row := func(k int) string { return fmt.Sprintf(`//li[@data-move="%d"]//button`, k) }
	hood := at("Lift off the hood")
	// Without flow lines: in a picture so small their dashes make more of it than the parts do.
	s.do(browser.Click(`//label[contains(., "Flow lines")]/input`), browser.Settled())
	s.do(
		browser.Click(row(hood)),
		browser.Settled(),
		browser.Click(button("Why now, and why this way?")),
		browser.Settled(),
	)
	assert.Contains(
		t,
		eval[string](s, `document.querySelector('[data-move="`+fmt.Sprint(hood)+`"]').textContent`),
		"only way out",
	)
	s.do(chromedp.KeyEvent(" "), chromedp.KeyEvent(" "), browser.Settled())

	// All at once, a share of the way, and back to steps.
	s.do(
		browser.Click(button("All at once")),
		browser.Settled(),
		chromedp.Focus(chromedp.CSS(`input[aria-label="How far apart"]`)),
		chromedp.KeyEvent(kb.End),
		browser.Settled(),
		chromedp.KeyEvent(kb.Home),
		browser.Settled(),
		browser.Click(button("Steps")),
		browser.Settled(),
	)
	for _, size := range [][2]int64{{1920, 1080}, {1024, 768}, {1280, 800}} {
		s.do(browser.Size(size[0], size[1]), browser.Settled())
	}

	// The hood before its screws: it is done, and said what it goes into; later again it is free.
	s.do(
		browser.Click(row(hood)),
		browser.Settled(),
		browser.Click(`//button[@aria-label="Earlier"]`),
		thought(),
		browser.Settled(),
	)
	assert.Contains(t, eval[string](s, planStatus), "go into something")
	assert.Contains(
		t,
		eval[string](s, `document.querySelector('[data-move="`+fmt.Sprint(hood-1)+`"]').textContent`),
		"Goes into Hood screw",
	)
	s.do(
		browser.Click(row(hood-1)),
		browser.Settled(),
		browser.Click(`//button[@aria-label="Later"]`),
		thought(),
		browser.Settled(),
	)
	assert.Contains(t, eval[string](s, planStatus), "nothing goes into anything")

	// What is left out stays.
	display := eval[int](
		s,
		`Number([...document.querySelectorAll('[data-move]')].find((e) => /the display\d/.test(e.textContent)).dataset.move)`,
	)
	s.do(
		browser.Click(row(display)),
		browser.Settled(),
		browser.Click(button("Leave out")),
		thought(),
		browser.Settled(),
	)
	assert.Equal(
		t,
		0,
		eval[int](
			s,
			`[...document.querySelectorAll('[data-move]')].filter((e) => /the display\d/.test(e.textContent)).length`,
		),
	)

	s.do(browser.Click(button("Accept all")), browser.Saved(), browser.StageReady(), browser.Settled())
	doc, _ := s.document(r.ID)
	assert.Greater(t, len(doc.Steps), 20)
	found, err := proof.Interference(context.Background(), film.Compile(m.Assembly, doc), m.Shapes, proof.Settings{})
	require.NoError(t, err)
	assert.Empty(t, found.List, "a plan that is accepted as it is has no interference")
	s.do(ctrl("z"), browser.Saved(), browser.Settled())
	doc, _ = s.document(r.ID)
	assert.Empty(t, doc.Steps)

	// What has to leave before the drive can, from the menu of the part; up to there it is accepted.
	s.do(
		find("Motor end cap"),
		browser.Settled(),
		browser.Script(
			`(() => { const e = [...document.querySelectorAll('[role=treeitem]')].find((e) => e.textContent.includes('Motor end cap')), b = e.getBoundingClientRect(); e.click(); e.dispatchEvent(new MouseEvent('contextmenu', { bubbles: true, clientX: b.x + 50, clientY: b.y + 5 })); return true })()`,
		),
		chromedp.WaitVisible(`//*[@role="menuitem"][contains(., "Get at this")]`),
		browser.Settled(),
		browser.Click(`//*[@role="menuitem"][contains(., "Get at this")]`),
		thought(),
		browser.Settled(),
	)
	assert.Less(t, eval[int](s, `document.querySelectorAll('[data-move]').length`), 6)
	s.do(browser.Click(button("Accept all")), browser.Saved(), browser.Settled())
	doc, _ = s.document(r.ID)
	last := doc.Steps[len(doc.Steps)-1]
	assert.Contains(t, last.Title, "motor end cap")
}

// What others do while a plan is shown comes in below it; leaving it leaves nothing behind.
func TestAPlanIsLeftAsIfItHadNotBeen(t *testing.T) {
	atLength(t)
	s := newStand(t)
	_, m := pumpFile(t)
	p, err := s.authoring.CreateProject(context.Background(), "Pump", "dp-40.glb", m)
	require.NoError(t, err)
	given := reveal.New("Given", film.FirstLook(m.Assembly))
	given.Steps = []reveal.Step{
		{
			ID:       "knob",
			Title:    "Pull the knob",
			Duration: 2 * reveal.Second,
			Cues: []reveal.Cue{
				{
					ID:       "knob-pull",
					Kind:     reveal.KindPull,
					Targets:  []assembly.NodeID{"housing/dosing-knob"},
					Duration: reveal.Second,
					Easing:   reveal.Smooth,
					Pull:     &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 0, 1}, Distance: 60},
				},
			},
		},
	}
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, given)
	require.NoError(t, err)
	s.do(
		chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+r.ID),
		browser.StageReady(),
		browser.Settled(),
		chromedp.KeyEvent(kb.End),
		browser.Settled(),
		chromedp.KeyEvent("P", chromedp.KeyModifiers(chromedp.ModifierShift)),
		thought(),
		browser.Settled(),
	)
	assert.Equal(
		t,
		0,
		eval[int](
			s,
			`[...document.querySelectorAll('[data-move]')].filter((e) => e.textContent.includes('dosing knob')).length`,
		),
		"the knob has left already",
	)
	assert.Equal(t, "Pull the knob", eval[string](s, `document.querySelector('#script article textarea').value`))
	// Another phase has nothing of it, nor has this one when one comes back.
	s.do(
		browser.Press("Prepare"),
		browser.StageReady(),
		browser.Settled(),
		browser.Press("Direct"),
		browser.StageReady(),
		browser.Settled(),
	)
	assert.Equal(t, 1, eval[int](s, `document.querySelectorAll('#script article').length`))
	s.do(chromedp.KeyEvent("P", chromedp.KeyModifiers(chromedp.ModifierShift)), thought(), browser.Settled())
	s.do(browser.Click(`//button[@aria-label="Leave the plan"]`), browser.StageReady(), browser.Settled())
	assert.Equal(t, 1, eval[int](s, `document.querySelectorAll('#script article').length`))
	doc, _ := s.document(r.ID)
	assert.Equal(t, given.Steps, doc.Steps)
}

// From what has just arrived to a film in one press.
func TestAFirstFilmIsMadeOfWhatArrived(t *testing.T) {
	s := newStand(t)
	_, m := pumpFile(t)
	p, err := s.authoring.CreateProject(context.Background(), "Pump", "dp-40.glb", m)
	require.NoError(t, err)
	s.within(
		6*time.Minute, // it plans, writes, proves and mends: a minute on a machine that is idle
		chromedp.Navigate(s.url+"/p/"+p.ID+"/prepare"),
		browser.StageReady(),
		browser.Settled(),
		browser.Click(button("Make a first film")),
		browser.Until(`location.pathname.includes('/direct/')`),
		browser.StageReady(),
		browser.Settled(),
	)
	project, err := s.store.Reveals(context.Background(), p.ID)
	require.NoError(t, err)
	require.Len(t, project, 2)
	doc, _ := s.document(project[1].ID)
	assert.Equal(t, "First film", doc.Title)
	assert.NotNil(t, doc.Steps[len(doc.Steps)-2].Retrace)
	assert.Equal(t, reveal.KindOrbit, doc.Steps[len(doc.Steps)-1].Cues[1].Kind)
}
