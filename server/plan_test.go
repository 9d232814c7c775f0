package server_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/server"
)

// planDone asks until a plan is done.
func (s *stand) planDone(t *testing.T, path string) server.PlanState {
	for begun := time.Now(); ; {
		code, text, _ := s.ask("GET", path, nil)
		require.Equal(t, 200, code, string(text))
		if p := read[server.PlanState](t, text); p.Done {
			return p
		}
		require.Less(t, time.Since(begun), 2*time.Minute)
	}
}

// A plan is computed in the background: what has been found is told of on the way, a newer one ends the older, one that
// is stopped keeps what it has.
func TestAPlanIsComputedInTheBackground(t *testing.T) {
	s := newStand(t)
	_, reveal := s.pump()
	path := "/api/reveals/" + reveal + "/plan"
	code, _, _ := s.ask("GET", path, nil)
	assert.Equal(t, 404, code, "nobody has asked for one")
	code, text, _ := s.ask("POST", path, json.RawMessage(`{"time":0,"choices":{}}`))
	require.Equal(t, 200, code, string(text))
	first := read[server.PlanState](t, text)
	code, text, _ = s.ask("POST", path, json.RawMessage(`{"time":0,"choices":{"reach":"drive/motor-end-cap"}}`))
	require.Equal(t, 200, code, string(text))
	second := read[server.PlanState](t, text)
	assert.Greater(t, second.Number, first.Number)
	reached := s.planDone(t, path)
	assert.Equal(t, second.Number, reached.Number)
	require.NotNil(t, reached.Plan)
	assert.LessOrEqual(t, len(reached.Plan.Moves), 3)
	assert.Empty(t, reached.Problem)
	assert.True(t, reached.Plan.Complete)
	assert.True(t, reached.Plan.Proven)

	s.ask("POST", path, json.RawMessage(`{"time":0,"choices":{}}`))
	for {
		_, text, _ := s.ask("GET", path, nil)
		if p := read[server.PlanState](t, text); p.Plan != nil && len(p.Plan.Moves) > 2 {
			break
		}
	}
	code, text, _ = s.ask("DELETE", path, nil)
	require.Equal(t, 200, code)
	stopped := read[server.PlanState](t, text)
	assert.True(t, stopped.Done)
	assert.Empty(t, stopped.Problem, "that somebody stops it is no mistake")
	assert.NotEmpty(t, stopped.Plan.Moves)

	for _, bad := range []string{`{"time":0,"choices":{"spacing":-1}}`, `{"time":0,"choices":{"avoid":[[1e9,0,0]]}}`,
		`{"time":0,"choices":{"prefer":[` + strings.TrimSuffix(strings.Repeat("[0,1,0],", 30), ",") + `]}}`} {
		code, text, _ = s.ask("POST", path, json.RawMessage(bad))
		assert.Equal(t, 422, code, string(text))
	}
	code, _, _ = s.ask(
		"POST",
		"/api/reveals/01890000-0000-7000-8000-000000000000/plan",
		json.RawMessage(`{"time":0,"choices":{}}`),
	)
	assert.Equal(t, 404, code)
	code, text, _ = s.ask(
		"POST",
		path,
		json.RawMessage(
			`{"time":0,"choices":{"reach":"nowhere","stays":["nobody"],"given":[{"nodes":["no-part"]},{"nodes":[]}]}}`,
		),
	)
	require.Equal(t, 200, code, string(text))
	nowhere := s.planDone(t, path)
	require.Len(t, nowhere.Plan.Stuck, 1)
	assert.Equal(t, "It is not there.", nowhere.Plan.Stuck[0].Says)
}

// Many who ask for plans at the same time all get theirs.
func TestManyPlansAtOnceAllEnd(t *testing.T) {
	s := newStand(t)
	project, _ := s.pump()
	var paths []string
	for i := range 5 {
		code, text, _ := s.ask(
			"POST",
			"/api/projects/"+project.ID+"/reveals",
			json.RawMessage(fmt.Sprintf(`{"title":"%d"}`, i)),
		)
		require.Equal(t, 201, code, string(text))
		r := read[struct {
			ID string `json:"id"`
		}](t, text)
		paths = append(paths, "/api/reveals/"+r.ID+"/plan")
		code, text, _ = s.ask("POST", paths[i], json.RawMessage(`{"time":0,"choices":{"reach":"housing/dosing-knob"}}`))
		require.Equal(t, 200, code, string(text))
	}
	for _, path := range paths {
		assert.NotEmpty(t, s.planDone(t, path).Plan.Moves)
	}
}
