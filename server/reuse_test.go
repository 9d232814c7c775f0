package server_test

import (
	"context"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	core "slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/release"
	"slowreveal/store"
)

// A film that is made again after a late edit takes the pieces in which the same is seen from the one before, and has the
// bytes of one that was made from nothing. A piece that was damaged meanwhile is made anew.
func TestPiecesOfFilmsAreUsedAgain(t *testing.T) {
	s := newStand(t)
	id := s.teardown()
	settings := release.Settings{Width: 96, Height: 54, Rate: 6, Purpose: encode.Draft, Captions: true}
	s.work()
	film := func() []byte {
		o := s.order(id, settings)[0]
		s.finished(o.ID)
		code, data, _ := s.ask("GET", "/api/outputs/"+o.ID+"/file", nil)
		require.Equal(t, http.StatusOK, code)
		return data
	}
	folder := filepath.Join(filepath.Dir(filepath.Dir(s.store.OutputPath(store.Output{File: "x"}))), "segments")
	kept := func() map[string]os.FileInfo {
		found, err := os.ReadDir(folder)
		require.NoError(t, err)
		list := map[string]os.FileInfo{}
		for _, f := range found {
			list[f.Name()], err = f.Info()
			require.NoError(t, err)
		}
		return list
	}
	first := film()
	before := kept()
	require.Len(t, before, 13)
	long := time.Now().Add(-time.Hour)
	for name := range before {
		require.NoError(t, os.Chtimes(filepath.Join(folder, name), long, long))
	}
	assert.Equal(t, first, film())
	for name, f := range kept() {
		assert.True(t, f.ModTime().After(long), "%s was taken", name)
	}
	assert.Len(t, kept(), 13)

	// The last card says something else: one piece is new.
	r, err := s.store.Reveal(context.Background(), id)
	require.NoError(t, err)
	doc, err := core.Parse([]byte(r.Document))
	require.NoError(t, err)
	cues := doc.Steps[len(doc.Steps)-1].Cues
	card := cues[len(cues)-1].Clone()
	card.Card.Text = "Every 400 hours"
	_, err = s.authoring.Do(
		context.Background(),
		id,
		authoring.On{Base: r.Version},
		authoring.Edit{Command: edit.Command{Op: edit.SetCue, Cue: &card}},
	)
	require.NoError(t, err)
	second := film()
	assert.NotEqual(t, first, second)
	assert.Len(t, kept(), 14)
	// From nothing: the same bytes.
	for name := range kept() {
		require.NoError(t, os.Remove(filepath.Join(folder, name)))
	}
	assert.Equal(t, second, film())
	// Damaged: noticed, and made anew.
	for name := range kept() {
		require.NoError(t, os.Truncate(filepath.Join(folder, name), 10))
		break
	}
	assert.Equal(t, second, film())
	// Old ones are swept away.
	_, err = s.store.Sweep(context.Background(), time.Now().Add(61*24*time.Hour))
	require.NoError(t, err)
	assert.Empty(t, kept())
}
