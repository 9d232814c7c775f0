package e2e

import (
	"os"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
)

// TestFigures prints the figures of docs/performance.md that need a browser or
// Node. It checks nothing and runs only when asked: make figures.
func TestFigures(t *testing.T) {
	if os.Getenv("SLOWREVEAL_FIGURES") == "" {
		t.Skip("set SLOWREVEAL_FIGURES=1")
	}
	a := demo.Stress(1000, 12).Assembly
	r := demo.StressReveal(a, 300)
	require.NoError(t, reveal.Validate(r, a))
	answer := inNode(t, coreJob{Assembly: a, Reveals: []*reveal.Reveal{r}, Times: []reveal.Micros{0}, Bench: true})
	t.Logf("At of 1,000 parts with 300 cues in WebAssembly (Node): median %.3f ms", answer.MedianAt)
	s := newStand(t)
	doc := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+doc.ProjectID+"/direct/"+doc.ID), browser.StageReady())
	t.Logf("first picture of the demo: %.2f s after the navigation began", eval[float64](s, `performance.getEntriesByName('stage')[0].startTime / 1000`))
	s.do(chromedp.KeyEvent(" "), chromedp.Sleep(10*time.Second), chromedp.KeyEvent(" "))
	t.Logf("script time of the stage while playing (two views): median %.2f ms", eval[float64](s, `(() => { const d = performance.getEntriesByName('stage').map(m => m.detail).sort((a, b) => a - b); return d[d.length >> 1] })()`))
}
