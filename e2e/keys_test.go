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

	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
	"slowreveal/store"
)

func (s *stand) document(id string) (*reveal.Reveal, int64) {
	s.Helper()
	now, err := s.store.Reveal(context.Background(), id)
	require.NoError(s, err)
	doc, err := reveal.Parse([]byte(now.Document))
	require.NoError(s, err)
	return doc, now.Version
}

// Somebody else edits all the time while the page does: no edit of either is
// lost, whoever comes too late takes the other's in and tries again.
func TestEditsFromTwoSidesAtOnceAreAllKept(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	stop := make(chan struct{})
	made := make(chan int)
	go func() {
		n := 0
		for {
			select {
			case <-stop:
				made <- n
				return
			case <-time.After(15 * time.Millisecond):
			}
			now, err := s.store.Reveal(context.Background(), r.ID)
			if err != nil {
				continue
			}
			step := reveal.Step{ID: reveal.StepID(fmt.Sprint("other-", n)), Title: fmt.Sprint("Other ", n), Length: reveal.Second}
			if _, _, err := s.store.Do(context.Background(), r.ID, now.Version, edit.Command{Op: edit.InsertStep, Step: &step, Index: 8}); err == nil {
				n++
			}
		}
	}()
	for k := range 5 {
		s.do(chromedp.SendKeys(`(//textarea[@aria-label="Title of the step"])[3]`, kb.End+fmt.Sprint(" ", k)+kb.Enter))
	}
	s.do(browser.Settled(), browser.Saved())
	close(stop)
	others := <-made
	require.Greater(t, others, 10)
	require.Eventually(t, func() bool {
		doc, _ := s.document(r.ID)
		return doc.Steps[2].Title == "Take off the rotor cover 0 1 2 3 4"
	}, 20*time.Second, 100*time.Millisecond)
	doc, version := s.document(r.ID)
	assert.Len(t, doc.Steps, 8+others)
	var entries []store.Entry
	for {
		more, err := s.store.Entries(context.Background(), r.ID, int64(len(entries)))
		require.NoError(t, err)
		if len(more) == 0 {
			break
		}
		entries = append(entries, more...)
	}
	assert.Len(t, entries, int(version))
	assert.Equal(t, others+5, len(entries))
	// The page has taken everything in.
	s.do(browser.Script(fmt.Sprintf(`new Promise(done => {
		const look = () => document.querySelectorAll('article').length === %d ? done(true) : setTimeout(look, 50)
		look()
	})`, 8+others)))
}
