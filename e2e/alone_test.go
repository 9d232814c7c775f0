package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
)

// focused is what has the focus: its name, or what it says.
func (s *stand) focused() string {
	s.Helper()
	return eval[string](
		s,
		`(() => { const e = document.activeElement; return (e.getAttribute('aria-label') || e.textContent || e.tagName).trim() })()`,
	)
}

// tabTo presses Tab until something that begins so has the focus, and says how often.
func (s *stand) tabTo(name string) (presses int) {
	s.Helper()
	for ; presses <= 40; presses++ {
		if strings.HasPrefix(s.focused(), name) {
			return presses
		}
		s.do(chromedp.KeyEvent(kb.Tab))
	}
	s.Fatalf("Tab does not come to “%s” within 40 presses; the focus is on “%s”", name, s.focused())
	return 0
}

// From the list of projects to a film that can be taken along, by the keyboard alone: three cues, a shot from an eye
// that was turned and brought nearer, two steps put into another order. Tab never changes what is selected.
func TestAFilmByKeyboardAlone(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.empty()
	key := func(k string, mods ...chromedp.Modifier) {
		t.Helper()
		var options []chromedp.KeyOption
		for _, m := range mods {
			options = append(options, chromedp.KeyModifiers(m))
		}
		s.do(chromedp.KeyEvent(k, options...), browser.Settled(), browser.Saved())
	}
	top := func() { // where Tab comes to first
		t.Helper()
		s.do(
			browser.Script(
				`(() => { document.querySelector('nav[aria-label="Skip to"] button').focus(); return true })()`,
			),
		)
	}
	s.do(chromedp.Navigate(s.url), browser.Settled())
	s.tabTo("Pump " + t.Name())
	s.do(chromedp.KeyEvent(kb.Enter), browser.StageReady(), browser.Settled())
	assert.Equal(t, "main", eval[string](s, `document.activeElement.id`), "the focus goes into what was opened")
	top()
	s.tabTo("Direct")
	s.do(chromedp.KeyEvent(kb.Enter), browser.StageReady(), browser.Settled())

	// To the parts over a skip link, and three cues: two parts pulled, one of them faded.
	top()
	s.tabTo("To the parts")
	key(kb.Enter)
	s.tabTo("DP-40 dosing pump")
	assert.Contains(t, s.focused(), "80 parts")
	assert.Contains(t, s.focused(), "expanded")
	key(kb.ArrowDown)
	assert.True(t, strings.HasPrefix(s.focused(), "Pump head, 26 parts"), s.focused())
	key(kb.ArrowRight)
	key("D", chromedp.ModifierShift)
	require.True(t, strings.HasPrefix(s.focused(), "Door"), s.focused())
	selected := func() string {
		return eval[string](
			s,
			`document.querySelector('[role=tree] [aria-selected=true]')?.getAttribute('aria-label') ?? ''`,
		)
	}
	assert.Empty(t, selected(), "nothing is selected by going there")
	key(kb.Enter)
	assert.True(t, strings.HasPrefix(selected(), "Door"), selected())
	key("p")
	key("f")
	doc, _ := s.document(r.ID)
	require.Len(t, doc.Steps, 1)
	require.Len(t, doc.Steps[0].Cues, 2)
	top()
	s.tabTo("To the script")
	key(kb.Enter)
	s.tabTo("Step")
	key(kb.Enter)

	// The eye, turned and nearer, is a shot.
	top()
	s.tabTo("To the stage")
	key(kb.Enter)
	require.True(t, strings.HasPrefix(s.focused(), "Stage"), s.focused())
	eye := func() []float64 {
		return eval[[]float64](
			s,
			`slowReveal.report(64, true).then((r) => r.Camera ? [] : [r.camera.distance, ...r.camera.orientation])`,
		)
	}
	before := eye()
	key(kb.ArrowLeft)
	key(kb.ArrowUp)
	turned := eye()
	assert.NotEqual(t, before[1:], turned[1:])
	assert.InDelta(t, before[0], turned[0], before[0]*1e-6)
	key("+")
	assert.InDelta(t, turned[0]/1.15, eye()[0], 0.01*turned[0])
	assert.Contains(t, eval[string](s, `document.getElementById('stage-says').textContent`), "Your eye is")
	key(kb.End)
	key("s")
	doc, _ = s.document(r.ID)
	shots := 0
	for _, step := range doc.Steps {
		for _, c := range step.Cues {
			if c.Kind == reveal.KindShot {
				shots++
			}
		}
	}
	assert.Equal(t, 1, shots)

	// The steps change places, and two bars are selected.
	require.Len(t, doc.Steps, 2)
	first, second := doc.Steps[0].ID, doc.Steps[1].ID
	top()
	s.tabTo("To the script")
	key(kb.Enter)
	s.tabTo("Go to step")
	was := eval[string](
		s,
		`document.querySelector('#script article .bg-signal') ? document.querySelector('#script article .bg-signal').closest('article').dataset.step : ''`,
	)
	key(kb.Home)
	key(kb.ArrowDown)
	assert.True(t, strings.HasPrefix(s.focused(), "Go to step 1"), s.focused())
	assert.Equal(
		t,
		was,
		eval[string](
			s,
			`document.querySelector('#script article .bg-signal') ? document.querySelector('#script article .bg-signal').closest('article').dataset.step : ''`,
		),
		"going there selects nothing",
	)
	key(kb.ArrowDown, chromedp.ModifierAlt)
	doc, _ = s.document(r.ID)
	assert.Equal(t, []reveal.StepID{second, first}, []reveal.StepID{doc.Steps[0].ID, doc.Steps[1].ID})
	top()
	s.tabTo("To the timeline")
	key(kb.Enter)
	// one tab stop of all bars
	s.do(browser.Script(`(() => { document.querySelector('[data-cue][tabindex="0"]').focus(); return true })()`))
	assert.Equal(t, 1, eval[int](s, `document.querySelectorAll('[data-cue][tabindex="0"]').length`))
	key(kb.Enter)
	key(kb.ArrowDown)
	key(" ")
	assert.Equal(t, 2, eval[int](s, `document.querySelectorAll('[data-cue][aria-pressed=true]').length`))
	assert.Contains(t, s.focused(), "selected")

	// A draft, and the file.
	top()
	s.tabTo("Release")
	s.do(chromedp.KeyEvent(kb.Enter), browser.Settled())
	key("E", chromedp.ModifierShift)
	s.do(chromedp.WaitVisible(chromedp.CSS(`li[data-output=done]`)))
	s.tabTo("Download")
	size := eval[int](s, `fetch(document.activeElement.href).then((r) => r.arrayBuffer()).then((b) => b.byteLength)`)
	assert.Greater(t, size, 20_000, "a film")
	require.Eventually(t, func() bool {
		return strings.Contains(
			eval[string](s, `[...document.querySelectorAll('[role=status]')].map((e) => e.textContent).join(' ')`),
			"is finished",
		)
	}, 6*6*time.Minute, 100*time.Millisecond, "the end of the output is said")
	t.Log(fmt.Sprint("the film has ", size, " bytes"))
}
