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
	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
)

func (s *stand) document(id string) (*reveal.Reveal, int64) {
	s.Helper()
	now, err := s.store.Reveal(context.Background(), id)
	require.NoError(s, err)
	doc, err := reveal.Parse([]byte(now.Document))
	require.NoError(s, err)
	return doc, now.Version
}

func (s *stand) time() reveal.Micros {
	s.Helper()
	return reveal.Micros(eval[float64](s, `Number(document.querySelector('[data-time]').dataset.time)`))
}

func ctrl(key string) browser.Action {
	return chromedp.KeyEvent(key, chromedp.KeyModifiers(chromedp.ModifierCtrl))
}

// The work by keyboard: find, pick, move, turn round, undo, play.
func TestTheKeyboardReachesTheWork(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	// Time.
	s.do(chromedp.KeyEvent(kb.ArrowRight), browser.Settled())
	assert.Equal(t, reveal.Micros(33_333), s.time())
	s.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)), browser.Settled())
	assert.Equal(t, reveal.Micros(1_033_333), s.time())
	s.do(chromedp.KeyEvent(kb.End), browser.Settled())
	assert.Equal(t, 51*reveal.Second, s.time())
	s.do(chromedp.KeyEvent(kb.Home), browser.Settled())
	assert.Zero(t, s.time())
	begun := time.Now()
	s.do(chromedp.KeyEvent(" "), chromedp.WaitVisible(chromedp.CSS(`button[aria-label="Stop"]`)))
	s.do(chromedp.KeyEvent(" "), chromedp.WaitVisible(chromedp.CSS(`button[aria-label="Play"]`)))
	passed := float64(time.Since(begun)) / 1e3
	// A picture may take seconds in software; how far the film came is real time
	// to the picture before the stop.
	assert.LessOrEqual(t, float64(s.time()), passed)
	s.do(chromedp.KeyEvent(kb.Home))
	// Find a part and move it.
	s.do(
		ctrl("k"),
		chromedp.WaitVisible(`//h2[text()="Find"]`),
		chromedp.KeyEvent("dosing knob"),
		browser.Settled(),
		chromedp.KeyEvent(kb.Enter),
		chromedp.WaitVisible(`//div[@role="group" and contains(., "Dosing knob")]`),
		chromedp.KeyEvent("p"),
		chromedp.WaitVisible(`//h2[contains(., "Pull")]`),
		browser.Saved(),
	)
	doc, version := s.document(r.ID)
	pulled := doc.Steps[0].Cues[len(doc.Steps[0].Cues)-1]
	assert.Equal(t, reveal.KindPull, pulled.Kind)
	assert.Equal(t, "housing/dosing-knob", string(pulled.Targets[0]))
	assert.Zero(t, pulled.Offset, "it starts where the playhead stands")
	s.do(chromedp.KeyEvent("r"), browser.Settled(), browser.Saved())
	s.until(r.ID, version+1, func(doc *reveal.Reveal) bool {
		return doc.Steps[0].Cues[len(doc.Steps[0].Cues)-1].Pull.Distance == -pulled.Pull.Distance
	})
	s.do(chromedp.KeyEvent("o"), browser.Saved(), ctrl("d"), browser.Saved())
	s.until(r.ID, version+3, func(doc *reveal.Reveal) bool {
		n := len(doc.Steps[0].Cues)
		return doc.Steps[0].Cues[n-1].Muted && doc.Steps[0].Cues[n-1].Offset == pulled.Duration
	})
	s.do(chromedp.KeyEvent(kb.Delete), browser.Saved(), ctrl("z"), browser.Saved())
	s.until(r.ID, version+5, func(doc *reveal.Reveal) bool { return len(doc.Steps[0].Cues) == 4 })
	// Steps.
	s.do(
		chromedp.KeyEvent(kb.Escape),
		chromedp.KeyEvent(kb.Enter, chromedp.KeyModifiers(chromedp.ModifierShift)),
		browser.Saved(),
	)
	s.until(r.ID, version+6, func(doc *reveal.Reveal) bool { return len(doc.Steps) == 10 })
}

// until waits for a version and checks what it holds.
func (s *stand) until(id string, version int64, holds func(*reveal.Reveal) bool) {
	s.Helper()
	require.Eventually(
		s,
		func() bool { _, v := s.document(id); return v >= version },
		15*time.Second,
		50*time.Millisecond,
	)
	doc, v := s.document(id)
	require.Equal(s, version, v)
	require.True(s, holds(doc))
}

// Somebody else edits all the time while the page does: no edit of either is
// lost, whoever comes too late takes the other's in and tries again.
func TestEditsFromTwoSidesAtOnceAreAllKept(t *testing.T) {
	atLength(t)
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
			if n >= 400 { // a reveal has room for a thousand steps
				continue
			}
			now, err := s.store.Reveal(context.Background(), r.ID)
			if err != nil {
				continue
			}
			step := reveal.Step{
				ID:       reveal.StepID(fmt.Sprint("other-", n)),
				Title:    fmt.Sprint("Other ", n),
				Duration: reveal.Second,
			}
			if _, err := s.authoring.Do(context.Background(), r.ID, authoring.On{Base: now.Version}, authoring.Edit{Command: edit.Command{Op: edit.InsertStep, Step: &step, Index: 8}}); err == nil {
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
	}, 6*6*time.Minute, 100*time.Millisecond)
	doc, version := s.document(r.ID)
	assert.Len(t, doc.Steps, 9+others)
	log, err := s.authoring.Since(context.Background(), r.ID, authoring.On{})
	require.NoError(t, err)
	require.Nil(t, log.Whole)
	assert.Len(t, log.Since, int(version))
	assert.Equal(t, others+5, len(log.Since))
	// The page has taken everything in.
	s.do(browser.Script(fmt.Sprintf(`new Promise(done => {
		const look = () => document.querySelectorAll('article').length === %d ? done(true) : setTimeout(look, 50)
		look()
	})`, 9+others)))
}
