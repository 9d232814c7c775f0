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

	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
	"slowreveal/store"
)

// faulty makes the page's line bad: of what is sent to change something, the next `lost` reach the server
// and their answers do not come back; while `down` is true nothing reaches it; `late` delays, in ms.
const faulty = `(() => {
	const real = window.fetch.bind(window)
	window.line = { lost: 0, down: false, late: 0, sent: 0 }
	window.fetch = async (q, o) => {
		const method = q.method ?? o?.method ?? 'GET'
		if (method === 'GET') return real(q, o)
		if (line.down) throw new TypeError('the line is down')
		if (line.late) await new Promise(done => setTimeout(done, line.late))
		if ((q.url ?? q).endsWith('/commands')) line.sent++
		const reply = await real(q, o)
		if (line.lost > 0) { line.lost--; throw new TypeError('the answer was lost') }
		return reply
	}
	return true
})()`

func line(state string) browser.Action {
	return browser.Script(`(() => { Object.assign(line, ` + state + `); return true })()`)
}

func (s *stand) typedTitle(step int, text string) browser.Action {
	return chromedp.SendKeys(
		fmt.Sprintf(`(//textarea[@aria-label="Title of the step"])[%d]`, step),
		kb.End+text+kb.Enter,
	)
}

// Whatever happens to the line: what is done in the page is stored, once, and the page never hangs.
func TestEditsThatHaveNoAnswerAreKeptAndDoneOnce(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	address := s.url + "/p/" + r.ProjectID + "/direct/" + r.ID
	s.do(chromedp.Navigate(address), browser.StageReady(), browser.Script(faulty))
	first, _ := s.document(r.ID)

	// Answers that are lost: the edit is there once, and is not said to be somebody else's.
	s.do(line(`{lost: 2}`), s.typedTitle(3, " A"), browser.Settled(), browser.Saved())
	doc, version := s.document(r.ID)
	assert.EqualValues(t, 1, version)
	assert.Equal(t, first.Steps[2].Title+" A", doc.Steps[2].Title)
	assert.Equal(t, 0, eval[int](s, `document.querySelectorAll('[role=alert]').length`))

	// A slow line: edits go together.
	s.do(
		line(`{late: 700, sent: 0}`),
		s.typedTitle(3, " B"),
		s.typedTitle(3, " C"),
		s.typedTitle(3, " D"),
		s.typedTitle(4, " E"),
		s.typedTitle(4, " F"),
		browser.Settled(),
		browser.Saved(),
		line(`{late: 0}`),
	)
	_, version = s.document(r.ID)
	assert.EqualValues(t, 6, version)
	assert.LessOrEqual(t, eval[int](s, `line.sent`), 4, "five edits are not five requests")

	// The project is left with edits unsent: the page goes on at once, and so do they.
	s.do(
		line(`{down: true}`),
		s.typedTitle(5, " G"),
		s.typedTitle(6, " H"),
		browser.Settled(),
		chromedp.WaitVisible(chromedp.CSS(`[data-saving="waiting"]`)),
		browser.Click(
			chromedp.CSS(`a[aria-label="All projects"]`),
		),
		chromedp.WaitVisible(`//h1|//h2`),
		browser.Settled(),
	)
	_, version = s.document(r.ID)
	assert.EqualValues(t, 6, version)
	s.do(line(`{down: false}`))
	require.Eventually(t, func() bool { _, v := s.document(r.ID); return v == 8 }, 6*time.Minute, 50*time.Millisecond)
	s.do(browser.Click(`//a[contains(., "Pump `+t.Name()+`")]`), browser.StageReady(), browser.Saved())
	doc, _ = s.document(r.ID)
	assert.Equal(t, first.Steps[4].Title+" G", doc.Steps[4].Title)
	assert.Equal(t, first.Steps[5].Title+" H", doc.Steps[5].Title)

	// A window is closed with edits unsent: the next one sends them, and says so.
	second, closeTab := chromedp.NewContext(s.ctx)
	in := func(actions ...browser.Action) {
		t.Helper()
		require.NoError(t, browser.Within(second, 2*time.Minute, actions...))
	}
	in(
		browser.Size(1280, 800),
		chromedp.Navigate(address),
		browser.StageReady(),
		browser.Script(faulty),
		line(`{down: true}`),
		s.typedTitle(7, " I"),
		s.typedTitle(8, " J"),
		chromedp.WaitVisible(chromedp.CSS(`[data-saving="waiting"]`)),
		browser.Settled(),
	)
	time.Sleep(300 * time.Millisecond) // the browser's database has it
	closeTab()
	_, version = s.document(r.ID)
	assert.EqualValues(t, 8, version)
	s.do(
		chromedp.Navigate(address),
		browser.StageReady(),
		chromedp.WaitVisible(
			`//*[@data-message and contains(., "2 changes that had not been stored when the window was closed")]`,
		),
	)
	doc, version = s.document(r.ID)
	assert.EqualValues(t, 10, version)
	assert.Equal(t, first.Steps[6].Title+" I", doc.Steps[6].Title)
	s.do(written(first.Steps[7].Title+" J"), browser.Saved())
}

// counting counts what the page holds on the graphics card, by context; what belongs to a context that
// has been given up is gone with it.
const counting = `(() => {
	const contexts = new Map()
	const gl = WebGL2RenderingContext.prototype
	for (const kind of ['Buffer', 'Texture', 'Program', 'Shader', 'Framebuffer', 'Renderbuffer', 'VertexArray']) {
		const count = (context, by) => {
			const counts = contexts.get(context) ?? {}
			contexts.set(context, { ...counts, [kind]: (counts[kind] ?? 0) + by })
		}
		const make = gl['create' + kind], drop = gl['delete' + kind]
		gl['create' + kind] = function (...a) { count(this, 1); return make.apply(this, a) }
		gl['delete' + kind] = function (x) { if (x) count(this, -1); return drop.call(this, x) }
	}
	window.held = () => [...contexts].filter(([c]) => !c.isContextLost()).map(([, counts]) => counts)
	return true
})()`

// Opening one thing after the other leaves nothing on the graphics card, nor in the core's memory.
func TestOpeningAgainAndAgainHoldsNothing(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	other, err := s.authoring.CreateReveal(context.Background(), r.ProjectID, mustParse(t, r.Document))
	require.NoError(t, err)
	s.do(chromedp.Navigate(s.url), browser.Settled(), browser.Script(counting))
	visit := func(path string) {
		s.do(
			browser.Script(
				fmt.Sprintf(
					`(() => { history.pushState(null, '', %q); dispatchEvent(new PopStateEvent('popstate')); return true })()`,
					path,
				),
			),
			browser.StageReady(),
		)
	}
	for range 3 {
		visit("/p/" + r.ProjectID + "/direct/" + r.ID)
		s.do(browser.Click(`//button[starts-with(@aria-label, "Go to step 4")]`), browser.Settled())
		visit("/p/" + r.ProjectID + "/prepare/" + other.ID)
		assert.Equal(t, 1, eval[int](s, `held().length`), "one stage, one context")
		s.do(browser.Click(chromedp.CSS(`a[aria-label="All projects"]`)), browser.Settled())
		require.Eventually(
			t,
			func() bool { return eval[int](s, `held().length`) == 0 },
			10*time.Second,
			100*time.Millisecond,
			"the stage's context is given up",
		)
	}
	// Within one context: what is laid out anew takes the room of what was there.
	visit("/p/" + r.ProjectID + "/prepare/" + other.ID)
	var held []string
	for k := range 4 {
		_, a, err := s.authoring.Arranged(context.Background(), r.RevisionID)
		require.NoError(t, err)
		if k%2 == 0 {
			split, err := s.authoring.Split(context.Background(), r.ProjectID, "planet-stage/bearing-608")
			require.NoError(t, err)
			require.NoError(t, s.authoring.Arrange(context.Background(), r.ProjectID, a.Version, split))
			s.do(chromedp.WaitVisible(chromedp.CSS(`button[aria-label^="Undo: "]`)))
		} else {
			require.NoError(t, s.authoring.UndoArrange(context.Background(), r.ProjectID, a.Version))
			s.do(chromedp.WaitVisible(chromedp.CSS(`button[aria-label^="Redo: "]`)))
		}
		// How parts darken each other needs buffers of its own, and comes later where pictures take long.
		s.do(
			browser.StageReady(),
			chromedp.WaitVisible(chromedp.CSS(`canvas[data-occluded=true][data-drawn=true]`)),
			browser.Settled(),
		)
		held = append(held, eval[string](s, `JSON.stringify(held())`))
	}
	t.Log(held)
	assert.Equal(t, held[1], held[3], "what is held on the graphics card grows")
}

func mustParse(t *testing.T, text store.RawText) *reveal.Reveal {
	t.Helper()
	doc, err := reveal.Parse([]byte(text))
	require.NoError(t, err)
	return doc
}
