package server_test

import (
	"bytes"
	"context"
	"image"
	"image/png"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/server"
	"slowreveal/store"
)

func TestANamedVersionCanBeComparedAndGoneBackTo(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	before, err := s.store.Reveal(context.Background(), r)
	require.NoError(t, err)
	code, text, _ := s.ask(
		"POST",
		"/api/reveals/"+r+"/versions",
		map[string]any{"name": "Sent to the client"},
		"X-Author",
		"J%C3%BCrgen",
	)
	require.Equal(t, http.StatusCreated, code, string(text))
	v := read[store.Version](t, text)
	assert.Equal(t, "Jürgen", v.Author)
	code, _, _ = s.ask(
		"POST",
		"/api/reveals/"+r+"/commands",
		change(0, `{"op":"setTitle","title":"Other"}`),
		"X-Author",
		"Mara",
	)
	require.Equal(t, 200, code)
	_, text, _ = s.ask("GET", "/api/versions/"+v.ID+"/differences", nil)
	assert.Equal(
		t,
		[]string{`the title: "Other" instead of "Service teardown"`},
		read[server.Differences](t, text).Lines,
	)
	_, text, _ = s.ask("GET", "/api/versions/"+v.ID+"/differences?to="+v.ID, nil)
	assert.Empty(t, read[server.Differences](t, text).Lines)
	// Back, byte for byte, and the going back undone.
	code, text, _ = s.ask("POST", "/api/versions/"+v.ID+"/restore", map[string]any{"version": 1})
	require.Equal(t, 200, code, string(text))
	after, err := s.store.Reveal(context.Background(), r)
	require.NoError(t, err)
	assert.Equal(t, before.Document, after.Document)
	code, _, _ = s.ask("POST", "/api/reveals/"+r+"/undo", map[string]any{"version": 2})
	require.Equal(t, 200, code)
	after, err = s.store.Reveal(context.Background(), r)
	require.NoError(t, err)
	assert.Equal(t, "Other", after.Title)
	// Whose edits they were.
	log, err := s.authoring.Since(context.Background(), r, authoring.On{})
	require.NoError(t, err)
	assert.Equal(t, "Mara", log.Since[0].Author)
	assert.Equal(t, "go back to “Sent to the client”", log.Since[1].Label)
	_, text, _ = s.ask("GET", "/api/reveals/"+r+"/versions", nil)
	assert.Len(t, read[[]store.Version](t, text), 1)
	for _, name := range []string{"", "   ", strings.Repeat("x", 201)} {
		code, _, _ = s.ask("POST", "/api/reveals/"+r+"/versions", map[string]any{"name": name})
		assert.Equal(t, http.StatusUnprocessableEntity, code)
	}
	code, _, _ = s.ask("GET", "/api/versions/"+v.ID+"/differences?to=nonsense", nil)
	assert.Equal(t, http.StatusBadRequest, code)
	code, _, _ = s.ask("POST", "/api/versions/"+r+"/restore", map[string]any{"version": 3})
	assert.Equal(t, http.StatusNotFound, code)
}

func TestADeletedRevealComesBackWithItsHistory(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	code, _, _ := s.ask("POST", "/api/reveals/"+r+"/commands", change(0, `{"op":"setTitle","title":"Other"}`))
	require.Equal(t, 200, code)
	stored, err := s.store.Reveal(context.Background(), r)
	require.NoError(t, err)
	code, _, _ = s.ask("DELETE", "/api/reveals/"+r, nil)
	require.Equal(t, 204, code)
	code, _, _ = s.ask("GET", "/api/reveals/"+r, nil)
	assert.Equal(t, 404, code)
	code, _, _ = s.ask("POST", "/api/reveals/"+r+"/commands", change(1, `{"op":"setTitle","title":"x"}`))
	assert.Equal(t, 404, code)
	list, err := s.store.Reveals(context.Background(), stored.ProjectID)
	require.NoError(t, err)
	assert.Len(t, list, 1)
	code, _, _ = s.ask("POST", "/api/reveals/"+r+"/restore", nil)
	require.Equal(t, 204, code)
	code, _, _ = s.ask("POST", "/api/reveals/"+r+"/undo", map[string]any{"version": 1})
	assert.Equal(t, 200, code)
}

func TestAReversedRevealIsAnotherReveal(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	code, text, _ := s.ask("POST", "/api/reveals/"+r+"/reverse", nil)
	require.Equal(t, http.StatusCreated, code, string(text))
	back := read[store.StoredReveal](t, text)
	assert.Equal(t, "Service teardown, backwards", back.Title)
	assert.NotEqual(t, r, back.ID)
	assert.Contains(t, string(back.Document), `"poses"`)
}

// Where somebody is reaches the other pages of the project, and nothing keeps it.
func TestPresenceIsPassedOn(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	stored, err := s.store.Reveal(context.Background(), r)
	require.NoError(t, err)
	heard := make(chan store.Event, 8)
	listening, stop := context.WithCancel(context.Background())
	defer stop()
	go s.store.Listen(listening, func(e store.Event) { heard <- e })
	// The line to the database may not stand yet: it is said until it is heard.
	require.Eventually(t, func() bool {
		code, _, _ := s.ask(
			"POST",
			"/api/reveals/"+r+"/presence",
			store.Presence{Page: "p1", Name: "Mara", Time: 1_500_000, Selected: "Pull"},
		)
		require.Equal(t, 204, code)
		select {
		case e := <-heard:
			return e.Kind == "presence" && e.ID == r && e.Project == stored.ProjectID && e.Presence.Name == "Mara" &&
				e.Presence.Time == 1_500_000
		case <-time.After(300 * time.Millisecond):
			return false
		}
	}, 6*6*time.Minute, 10*time.Millisecond)
	code, _, _ := s.ask("POST", "/api/reveals/"+r+"/presence", store.Presence{Page: strings.Repeat("x", 65)})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
}

func TestAStepHasAPictureOfItsEnd(t *testing.T) {
	s := newStand(t)
	r := s.teardown()
	picture := func(step string) (int, []byte) {
		code, text, _ := s.ask("GET", "/api/reveals/"+r+"/steps/"+step+"/picture", nil)
		return code, text
	}
	code, first := picture("step-1")
	require.Equal(t, 200, code)
	img, err := png.Decode(bytes.NewReader(first))
	require.NoError(t, err)
	assert.Equal(t, image.Pt(192, 108), img.Bounds().Size())
	_, second := picture("step-2")
	assert.NotEqual(t, first, second)
	// It follows a change: the door that does not open is closed at the end.
	code, _, _ = s.ask("POST", "/api/reveals/"+r+"/commands", change(0, `{"op":"removeCue","cueId":"cue-2"}`))
	require.Equal(t, 200, code)
	_, after := picture("step-1")
	assert.NotEqual(t, first, after)
	code, _ = picture("nobody")
	assert.Equal(t, 404, code)
}
