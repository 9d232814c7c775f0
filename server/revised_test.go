package server_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	core "slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/difference"
	"slowreveal/formats/gltf"
	"slowreveal/store"
)

// A moment of a film is seen on the revision before and on that of now: a cue whose parts are gone since is switched off
// in the reveal, and acts in the picture of before all the same.
func TestTheFilmOfTheRevisionBeforeIsSeenBesideThatOfNow(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	key := s.teardown()
	r, err := s.store.Reveal(ctx, key)
	require.NoError(t, err)
	code, _, _ := s.ask("GET", "/api/reveals/"+key+"/revised/before", nil)
	assert.Equal(t, http.StatusNotFound, code, "there is no revision before")

	m := demo.Pump() // without its door
	var kept []assembly.Node
	place := map[int]int{}
	for i, n := range m.Assembly.Nodes {
		parent, there := place[n.Parent]
		if n.ID == "pump-head/door" || i > 0 && !there {
			continue
		}
		if i > 0 {
			n.Parent = parent
		}
		place[i] = len(kept)
		kept = append(kept, n)
	}
	m.Assembly.Nodes, m.Assembly.Joints, m.Assembly.Couplings = kept, nil, nil
	file, err := gltf.Write(m)
	require.NoError(t, err)
	s.working()
	code, text := s.upload([]string{"dp-40-c.glb", string(file)}, "project="+r.ProjectID)
	require.Equal(t, http.StatusCreated, code, string(text))
	require.Equal(t, store.Done, s.ended(text).State)

	r, err = s.store.Reveal(ctx, key)
	require.NoError(t, err)
	doc, err := core.Parse([]byte(r.Document))
	require.NoError(t, err)
	step, k := doc.FindCue("cue-2")
	require.GreaterOrEqual(t, step, 0, "nothing is dropped")
	assert.Equal(t, core.LostOn, doc.Steps[step].Cues[k].Lost)
	assert.True(t, doc.Steps[step].Cues[k].Muted)

	seen := func(shows string, at core.Micros) image.Image {
		code, data, _ := s.ask("GET", fmt.Sprintf("/api/reveals/%s/revised/%s?time=%d", key, shows, at), nil)
		require.Equal(t, http.StatusOK, code, string(data))
		img, err := png.Decode(bytes.NewReader(data))
		require.NoError(t, err)
		return img
	}
	at := 4 * core.Second // the door is open
	before, now, marked := seen("before", at), seen("now", at), seen("difference", at)
	found, ok := difference.Of(before, now)
	require.True(t, ok)
	assert.Greater(t, found.Changed, 0.02, "the door")
	same, ok := difference.Of(found.Marked, marked)
	require.True(t, ok)
	assert.Zero(t, same.Changed)
	closed, ok := difference.Of(before, seen("before", 0))
	require.True(t, ok)
	assert.Greater(t, closed.Changed, 0.02, "it opens before")
	seen("now", 1000*core.Second) // behind the end it is the end
	for _, wrong := range []string{"later", "before?time=x"} {
		code, _, _ := s.ask("GET", "/api/reveals/"+key+"/revised/"+wrong, nil)
		assert.Equal(t, http.StatusNotFound, code)
	}

	// Back to the revision before: the door is there again, and what was directed for it goes on.
	back := "/api/projects/" + r.ProjectID + "/imports/before"
	code, text, _ = s.ask("POST", back, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, string(text), "were not kept", "the first one came from no file")
	whole, err := gltf.Write(demo.Pump())
	require.NoError(t, err)
	for _, next := range []string{string(whole), string(file)} {
		code, text = s.upload([]string{"dp-40.glb", next}, "project="+r.ProjectID)
		require.Equal(t, http.StatusCreated, code, string(text))
		require.Equal(t, store.Done, s.ended(text).State)
	}
	code, text, _ = s.ask("POST", back, nil)
	require.Equal(t, http.StatusCreated, code, string(text))
	ended := s.ended(text)
	require.Equal(t, store.Done, ended.State, ended.Message)
	r, err = s.store.Reveal(ctx, key)
	require.NoError(t, err)
	doc, err = core.Parse([]byte(r.Document))
	require.NoError(t, err)
	step, k = doc.FindCue("cue-2")
	assert.Empty(t, doc.Steps[step].Cues[k].Lost)
	assert.False(t, doc.Steps[step].Cues[k].Muted)
	found, ok = difference.Of(before, seen("now", at))
	require.True(t, ok)
	assert.Zero(t, found.Changed, "the film is what it was")
}
