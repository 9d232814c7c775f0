package server_test

import (
	"context"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/server"
)

// A reveal in which the rotor cover is drawn through its seat, in one edit, and another way in the next: what is found
// follows the version, what has been found is kept, and who goes away ends the work.
func TestProofFollowsTheReveal(t *testing.T) {
	s := newStand(t)
	_, reveal := s.pump()
	prove := func() server.Proof {
		code, text, _ := s.ask("GET", "/api/reveals/"+reveal+"/proof", nil)
		require.Equal(t, 200, code, string(text))
		return read[server.Proof](t, text)
	}
	empty := prove()
	assert.Empty(t, empty.Findings)
	assert.NotNil(t, empty.Findings, "[] and not null")
	assert.Equal(t, 3160, empty.All)
	assert.Zero(t, empty.Pairs)
	cover := func(version int64, op, along string) int64 {
		code, text, _ := s.ask("POST", "/api/reveals/"+reveal+"/commands", change(version, `{"op":"`+op+`","step":{"id":"a","title":"Open","length":2000000,"cues":[{"id":"c","kind":"pull","targets":["pump-head/rotor-cover"],"offset":0,"length":1000000,"easing":"smooth","pull":{"axes":"assembly","along":`+along+`,"distance":30}}]}}`))
		require.Equal(t, 200, code, string(text))
		return read[server.Changed](t, text).Version
	}
	version := cover(0, "insertStep", "[1,0,0]")
	through := prove()
	assert.Equal(t, version, through.Version)
	require.NotEmpty(t, through.Findings)
	var screw *server.Fault
	for i := range through.Findings {
		if f := &through.Findings[i]; strings.HasPrefix(string(f.Finding.Still), "pump-head/cover-screw") || strings.HasPrefix(string(f.Finding.Moving), "pump-head/cover-screw") {
			screw = f
		}
	}
	require.NotNil(t, screw, "the cover goes aside through its screws: %v", through.Findings)
	assert.Contains(t, []assembly.NodeID{screw.Finding.Still, screw.Finding.Moving}, assembly.NodeID("pump-head/rotor-cover"))
	assert.Contains(t, screw.Words, "Rotor cover")
	assert.Contains(t, screw.Words, "“30 mm” of step 1.")
	begun := time.Now()
	assert.Equal(t, through, prove())
	t.Logf("the second answer took %v", time.Since(begun))

	code, _, _ := s.ask("POST", "/api/reveals/"+reveal+"/undo", map[string]any{"version": version})
	require.Equal(t, 200, code)
	assert.Empty(t, prove().Findings)

	// Who asks and goes away leaves nothing behind that the next one waits for.
	version = cover(version+1, "insertStep", "[0,1,0]")
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Millisecond)
	defer cancel()
	q, err := http.NewRequestWithContext(ctx, "GET", s.url+"/api/reveals/"+reveal+"/proof", nil)
	require.NoError(t, err)
	if reply, err := http.DefaultClient.Do(q); err == nil {
		reply.Body.Close()
	}
	assert.Equal(t, version, prove().Version)
	code, _, _ = s.ask("GET", "/api/reveals/01890000-0000-7000-8000-000000000000/proof", nil)
	assert.Equal(t, http.StatusNotFound, code)
}
