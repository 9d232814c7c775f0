package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/e2e/browser"
	"slowreveal/render"
)

// A note whose point lies inside its part, hidden by others, points at what the shot sees of the part once it is told
// to: in the film its leader ends on the part, by the depth of our own renderer. A new note does so from the beginning.
func TestNotesPointAtWhatIsSeen(t *testing.T) {
	atLength(t)
	s := newStand(t)
	r := s.teardown()
	const at = 16_600_000 // one of the rollers looks out from behind their plate
	s.do(chromedp.Navigate(s.url+"/p/"+r.ProjectID+"/direct/"+r.ID), browser.StageReady(), seek(at), browser.Settled())
	written := func() *reveal.Cue {
		doc, _ := s.document(r.ID)
		for i := range doc.Steps {
			for k := range doc.Steps[i].Cues {
				if c := &doc.Steps[i].Cues[k]; c.Kind == reveal.KindNote && strings.HasPrefix(c.Note.Text, "Roller") {
					return c
				}
			}
		}
		t.Fatal("there is no new note")
		return nil
	}
	hidden := func(cue *reveal.Cue) bool {
		_, m := pumpFile(t)
		doc, _ := s.document(r.ID)
		scene, err := render.NewScene(m.Assembly, m.Shapes)
		require.NoError(t, err)
		f := film.Compile(m.Assembly, doc)
		draw, err := render.NewRenderer(scene, 640, 360, 0)
		require.NoError(t, err)
		view, fr := scene.NewView(), f.NewFrame()
		f.At(at+100_000, fr) // it is there by then, and little has moved
		view.Take(scene, fr, 16.0/9)
		draw.Watch(fr.Notes)
		draw.Draw(view, render.NewPicture(640, 360))
		draw.MarkHidden(view, fr.Notes)
		for _, n := range fr.Notes {
			if n.Node == cue.Targets[0] && strings.HasPrefix(n.Lines[0], "Roller") {
				return n.Hidden
			}
		}
		t.Fatal("the note is not there")
		return false
	}
	s.do(find("roller"), browser.Click(row("Roller", 2)), chromedp.KeyEvent("n"), browser.Settled(), browser.Saved())
	assert.False(t, hidden(written()), "a new one")
	for _, axis := range []string{"X", "Y", "Z"} {
		s.do(enter("Points at "+axis, "0"))
	}
	require.Equal(t, space.Vec3{}, written().Note.At)
	assert.True(t, hidden(written()), "in the middle of the roller")
	s.do(browser.Press("Point at what is seen"), browser.Settled(), browser.Saved())
	assert.False(t, hidden(written()))
}
