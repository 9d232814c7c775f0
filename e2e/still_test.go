package e2e

import (
	"context"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
)

// The stage draws when the picture is another one, and only then: not for a moment that looks the
// same.
func TestTheStageDrawsOnlyWhatIsNew(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(), browser.Settled())
	pictures := func(do ...browser.Action) int {
		s.do(browser.Script(`performance.clearMarks('stage'), true`))
		for _, a := range do {
			s.do(a, browser.Settled())
		}
		return int(eval[float64](s, `performance.getEntriesByName('stage').filter((m) => !m.detail.deep).length`))
	}
	assert.Equal(t, 1, pictures(seek(int(9*reveal.Second))), "other poses")
	assert.Zero(t, pictures(seek(int(9*reveal.Second))), "the same moment")
	assert.Equal(t, 1, pictures(seek(int(20*reveal.Second))))
	assert.Equal(t, 1, pictures(seek(int(9*reveal.Second))), "back again")
	assert.Equal(t, 1, pictures(seek(50_000_000), seek(50_500_000)), "nothing moves while the reveal ends")
}

// Where a picture takes long, seeking draws coarse ones at once and a fine one when it rests; what is seen then is
// what the core says (looks).
func TestWhatTakesLongIsSketchedFirst(t *testing.T) {
	atLength(t)
	s := newStand(t)
	model := assemblyOf(t, "thousand")
	p, err := s.authoring.CreateProject(context.Background(), "Large", "large.glb", model)
	require.NoError(t, err)
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, begun(model))
	require.NoError(t, err)
	s.do(chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+r.ID), browser.StageReady(), chromedp.Sleep(time.Second))
	order := eval[[]float64](
		s,
		`['first picture', 'near edges', 'fine'].map((name) => performance.getEntriesByName(name)[0]?.startTime ?? NaN).filter((t) => t === t)`,
	)
	require.GreaterOrEqual(t, len(order), 2)
	assert.IsIncreasing(t, order, "all surfaces, the edges that are near where surfaces took long, all edges")
	took := eval[[]float64](s, `(async () => {
		const ruler = document.querySelector('[data-ruler]'), r = ruler.getBoundingClientRect(), canvas = document.querySelector('canvas')
		ruler.setPointerCapture = () => {}
		const marks = (name) => performance.getEntriesByName(name).map((m) => m.detail)
		for (let i = 0; i < 3; i++) {
			const before = marks('sketch').length
			ruler.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, pointerId: 1, clientX: r.left + 40 + 20 * i, clientY: r.top + 30, button: 0, buttons: 1 }))
			while (marks('sketch').length === before) await new Promise((done) => setTimeout(done, 5))
		}
		const coarse = canvas.dataset.drawn === 'false'
		while (canvas.dataset.drawn !== 'true') await new Promise((done) => setTimeout(done, 10))
		await new Promise((done) => setTimeout(done, 3000))
		const median = (list) => list.sort((a, b) => a - b)[list.length >> 1]
		return [Number(coarse), median(marks('sketch')), median(marks('fine'))]
	})()`)
	t.Logf("a sketch is on the screen after %.0f ms, a fine picture after %.0f ms (medians)", took[1], took[2])
	assert.Equal(t, 1.0, took[0], "the fine picture waits until seeking rests")
	assert.Less(t, took[1], took[2], "ms")
	s.do(browser.Settled())
}
