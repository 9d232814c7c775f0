package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"

	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
)

// The stage draws when the picture is another one, and only then: not for a moment that looks the
// same.
func TestTheStageDrawsOnlyWhatIsNew(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(), browser.Settled())
	pictures := func(do ...browser.Action) int {
		s.do(browser.Script(`performance.clearMarks('stage'), true`))
		for _, a := range do {
			s.do(a, browser.Settled())
		}
		return int(eval[float64](s, `performance.getEntriesByName('stage').length`))
	}
	assert.Equal(t, 1, pictures(seek(int(9*reveal.Second))), "other poses")
	assert.Zero(t, pictures(seek(int(9*reveal.Second))), "the same moment")
	assert.Equal(t, 1, pictures(seek(int(20*reveal.Second))))
	assert.Equal(t, 1, pictures(seek(int(9*reveal.Second))), "back again")
	assert.Equal(t, 1, pictures(seek(50_000_000), seek(50_500_000)), "nothing moves while the reveal ends")
}
