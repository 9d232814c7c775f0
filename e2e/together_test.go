package e2e

import (
	"context"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/e2e/browser"
)

// ines changes a reveal from elsewhere, on its newest version.
func (s *stand) ines(id string, c edit.Command) {
	s.Helper()
	_, version := s.document(id)
	_, err := s.authoring.Do(
		context.Background(),
		id,
		authoring.On{Base: version, Author: "Ines", Person: inesCode},
		authoring.Edit{Command: c},
	)
	require.NoError(s, err)
}

var inesCode = uuid.NewString()

// retitled is the command that gives a step another title.
func retitled(step reveal.Step, title string) edit.Command {
	step.Cues, step.Title, step.Duration = nil, title, 0
	return edit.Command{Op: edit.SetStep, Step: &step}
}

func news(text string) browser.Action {
	return chromedp.WaitVisible(`//span[@role="status" and contains(., "` + text + `")]`)
}

func message(text string) browser.Action {
	return chromedp.WaitVisible(`//*[@data-message and contains(., "` + text + `")]`)
}

const typed = `document.activeElement.value`

// What is being written is never replaced by what others do: their text is told when it ends, and where the step has
// been deleted, the text is kept and offered.
func TestWhatIsBeingWrittenStays(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	title := `(//textarea[@aria-label="Title of the step"])[1]`
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	doc, _ := s.document(r.ID)
	time.Sleep(500 * time.Millisecond) // the line for events

	// The same title: mine stands, theirs is one press away.
	s.do(chromedp.SendKeys(title, kb.End+", slowly"))
	s.ines(r.ID, retitled(doc.Steps[0], "Theirs"))
	s.do(news("Ines: change a step"))
	assert.Equal(t, doc.Steps[0].Title+", slowly", eval[string](s, typed))
	s.do(chromedp.KeyEvent(kb.Enter), message("was changed while you were writing"), browser.Saved())
	after, _ := s.document(r.ID)
	assert.Equal(t, doc.Steps[0].Title+", slowly", after.Steps[0].Title)
	s.do(browser.Press("Take the other one"), browser.Saved(), written("Theirs"))

	// Nothing was written: theirs is not overwritten by leaving the field.
	s.do(chromedp.Focus(title))
	s.ines(r.ID, retitled(doc.Steps[0], "Theirs, later"))
	s.do(written("Theirs, later"), chromedp.KeyEvent(kb.Tab), browser.Settled(), browser.Saved())
	after, _ = s.document(r.ID)
	assert.Equal(t, "Theirs, later", after.Steps[0].Title)

	// The step goes: what was written in it is kept.
	s.ines(
		r.ID,
		edit.Command{
			Op:    edit.InsertStep,
			Index: 0,
			Step:  &reveal.Step{ID: "short-lived", Title: "For a moment", Duration: reveal.Second},
		},
	)
	s.do(written("For a moment"), chromedp.SendKeys(title, kb.End+", and longer"))
	s.ines(r.ID, edit.Command{Op: edit.RemoveStep, StepID: "short-lived"})
	s.do(
		message("What you wrote is not lost: “For a moment, and longer”"),
		chromedp.WaitVisible(button("Copy it")),
		browser.Settled(),
	)
	after, _ = s.document(r.ID)
	assert.Equal(t, "Theirs, later", after.Steps[0].Title)

	// A number that is not being typed follows theirs, and is not sent back.
	pull := after.Steps[after.FindStep("step-2")].Cues
	at := -1
	for i := range pull {
		if pull[i].Pull != nil {
			at = i
		}
	}
	require.GreaterOrEqual(t, at, 0)
	cue := pull[at]
	s.do(
		browser.Press("Close"),
		clickWith(`//div[@data-cue="`+string(cue.ID)+`"]`, 0),
		chromedp.WaitVisible(chromedp.CSS(`input[aria-label="Distance"]`)),
		chromedp.Focus(chromedp.CSS(`input[aria-label="Distance"]`)),
	)
	farther := *cue.Pull
	farther.Distance += 11
	cue.Pull = &farther
	s.ines(r.ID, edit.Command{Op: edit.SetCue, Cue: &cue})
	s.do(news("Ines: change a pull"), chromedp.KeyEvent(kb.Tab), browser.Settled(), browser.Saved())
	after, _ = s.document(r.ID)
	i, k := after.FindCue(cue.ID)
	assert.Equal(t, farther.Distance, after.Steps[i].Cues[k].Pull.Distance)
}

// Undo takes back what one has done oneself, says what others have built on, and the header is true meanwhile.
func TestUndoLeavesWhatOthersDo(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(), browser.Script(faulty))
	time.Sleep(500 * time.Millisecond) // the line for events
	first, _ := s.document(r.ID)
	s.do(s.typedTitle(3, " A"), s.typedTitle(4, " B"), browser.Saved())
	s.ines(r.ID, titled("Ines was here").Command)
	s.do(
		written("Ines was here"),
		browser.Click(chromedp.CSS(`button[aria-label="Undo"]`)),
		message("Taken back: change a step"),
		browser.Saved(),
	)
	doc, _ := s.document(r.ID)
	assert.Equal(t, "Ines was here", doc.Title)
	assert.Equal(
		t,
		[]string{first.Steps[2].Title + " A", first.Steps[3].Title},
		[]string{doc.Steps[2].Title, doc.Steps[3].Title},
	)
	s.do(browser.Click(chromedp.CSS(`button[aria-label="Redo"]`)), written(first.Steps[3].Title+" B"), browser.Saved())

	// Others have changed the same: that is said, and the change before it is one press away.
	s.ines(r.ID, retitled(doc.Steps[3], "Hers"))
	s.do(
		written("Hers"),
		browser.Click(chromedp.CSS(`button[aria-label="Undo"]`)),
		message("Ines has changed the same since"),
		browser.Press("Take back what I did before it"),
		browser.Saved(),
		message("Taken back"),
	)
	doc, _ = s.document(r.ID)
	assert.Equal(t, []string{first.Steps[2].Title, "Hers"}, []string{doc.Steps[2].Title, doc.Steps[3].Title})

	// On a line that is down the header says that it waits, and the undo is done when it is back.
	s.do(
		s.typedTitle(5, " C"),
		browser.Saved(),
		line(`{down: true}`),
		browser.Click(chromedp.CSS(`button[aria-label="Undo"]`)),
		chromedp.WaitVisible(chromedp.CSS(`[data-saving="waiting"]`)),
		line(`{down: false}`),
		message("Taken back"),
		browser.Saved(),
	)
	doc, _ = s.document(r.ID)
	assert.Equal(t, first.Steps[4].Title, doc.Steps[4].Title)
}

// While a bar is held, what others do to it is there as soon as it is let go, and said.
func TestABarThatIsHeldTakesInWhatOthersDo(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady())
	time.Sleep(500 * time.Millisecond) // the line for events
	before, _ := s.document(r.ID)
	i, k := before.FindCue("cue-2")
	cue := before.Steps[i].Cues[k]
	s.do(browser.Script(`new Promise(done => {
		const bar = document.querySelector('[data-cue="cue-2"]'), at = bar.getBoundingClientRect()
		window.holding = (to, type, x) => to.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, button: 0, buttons: 1, altKey: true, clientX: at.x + at.width / 2 + x, clientY: at.y + 8 }))
		holding(bar, 'pointerdown', 0)
		holding(window, 'pointermove', 10)
		requestAnimationFrame(() => { holding(window, 'pointermove', 20); done(true) })
	})`))
	theirs, wider := cue, *cue.Turn
	wider.Degrees += 12
	theirs.Turn = &wider
	s.ines(r.ID, edit.Command{Op: edit.SetCue, Cue: &theirs})
	s.do(
		news("Ines: change"),
		browser.Script(`holding(window, 'pointermove', 30), holding(window, 'pointerup', 30), true`),
		message("While you held it: Ines: change"),
		browser.Settled(),
		browser.Saved(),
	)
	after, _ := s.document(r.ID)
	i, k = after.FindCue("cue-2")
	now := after.Steps[i].Cues[k]
	assert.Equal(t, wider.Degrees, now.Turn.Degrees)
	assert.NotEqual(t, cue.Offset, now.Offset)
}
