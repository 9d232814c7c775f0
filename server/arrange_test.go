package server_test

import (
	"bytes"
	"context"
	"math"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/clearance"
	"slowreveal/core/survey"
	"slowreveal/server"
)

func (s *stand) arrange(project string, version int64, edit map[string]any) (int, []byte) {
	s.Helper()
	code, text, _ := s.ask(
		"POST",
		"/api/projects/"+project+"/arrange",
		map[string]any{"version": version, "edit": edit},
	)
	return code, text
}

func TestAnArrangementIsEditedAndUndone(t *testing.T) {
	s := newStand(t)
	p, _ := s.pump()
	code, text := s.arrange(
		p.ID,
		0,
		map[string]any{
			"do":    "group",
			"nodes": []string{"housing/dosing-knob", "housing/start-button"},
			"name":  "Controls",
		},
	)
	require.Equal(t, 200, code, string(text))
	a := read[server.Arranged](t, text)
	assert.Equal(t, int64(1), a.Arrangement.Version)
	assert.Contains(t, a.Arrangement.Undo, "Controls")
	assert.Contains(t, string(text), `"group/controls"`)
	// A second author who does not know of it is told so.
	code, text = s.arrange(p.ID, 0, map[string]any{"do": "rename", "node": "housing", "name": "Case"})
	assert.Equal(t, http.StatusConflict, code)
	assert.Equal(t, "stale", read[server.Problem](t, text).Code)
	code, text, _ = s.ask("POST", "/api/projects/"+p.ID+"/arrange/undo", map[string]any{"version": 1})
	require.Equal(t, 200, code, string(text))
	assert.NotContains(t, string(text), `"group/controls"`)
	code, text, _ = s.ask("POST", "/api/projects/"+p.ID+"/arrange/redo", map[string]any{"version": 2})
	require.Equal(t, 200, code, string(text))
	assert.Contains(t, string(text), `"group/controls"`)
	for _, edit := range []map[string]any{{"do": "dance"}, {"do": "rename", "node": "nobody", "name": "x"}, {"do": "wear", "nodes": []string{"housing"}, "finish": map[string]any{"name": "x", "colour": []float64{9, 0, 0}, "opacity": 1, "metalness": 0, "roughness": 0}}} {
		code, text = s.arrange(p.ID, 3, edit)
		assert.Equal(t, http.StatusUnprocessableEntity, code, string(text))
	}
}

// A part of several bodies is split, and its pieces are served and drawn; the
// group that a reveal moves cannot be dissolved under it.
func TestASplitServesItsPiecesAndReveals(t *testing.T) {
	s := newStand(t)
	p, reveal := s.pump()
	_, text, _ := s.ask("GET", "/api/projects/"+p.ID, nil)
	before := read[server.ProjectPage](t, text).Arranged
	_, text = s.arrange(p.ID, 0, map[string]any{"do": "split", "node": "planet-stage/bearing-608"})
	a := read[server.Arranged](t, text)
	require.Greater(t, len(a.Assembly.Shapes), len(before.Assembly.Shapes), string(text[:200]))
	assert.NotEqual(t, before.Geometry, a.Geometry, "the shapes are elsewhere now")
	code, data, _ := s.ask("GET", a.Geometry, nil)
	assert.Equal(t, 200, code)
	_, old, _ := s.ask("GET", before.Geometry, nil)
	assert.NotEmpty(t, data)
	assert.GreaterOrEqual(t, len(data), len(old))
	code, text, _ = s.ask(
		"POST",
		"/api/reveals/"+reveal+"/commands",
		change(
			0,
			`{"op":"insertStep","step":{"id":"a","title":"Open","duration":2000000,"cues":[{"id":"c","kind":"pull","targets":["pump-head/door"],"offset":0,"duration":1000000,"easing":"smooth","pull":{"axes":"own","along":[0,0,1],"distance":10}}]}}`,
		),
	)
	require.Equal(t, 200, code, string(text))
	code, text = s.arrange(p.ID, 1, map[string]any{"do": "flatten", "node": "pump-head/door"})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, string(text), "would not fit any more")
}

func TestTheSurveyIsComputedOnceAndColoursTellNeighboursApart(t *testing.T) {
	s := newStand(t)
	p, _ := s.pump()
	code, text, _ := s.ask("GET", "/api/projects/"+p.ID+"/survey", nil)
	require.Equal(t, 200, code)
	known := read[survey.Survey](t, text)
	assert.NotEmpty(t, known.Ready)
	assert.NotEmpty(t, known.Contacts)
	_, again, _ := s.ask("GET", "/api/projects/"+p.ID+"/survey", nil)
	assert.Equal(t, string(text), string(again))
	code, text = s.arrange(p.ID, 0, map[string]any{"do": "tellApart"})
	require.Equal(t, 200, code, string(text[:min(len(text), 300)]))
	a := read[server.Arranged](t, text)
	finish := map[assembly.NodeID]int{}
	for _, n := range a.Assembly.Nodes {
		if n.IsPart() {
			finish[n.ID] = n.Finishes[0]
		}
	}
	for _, c := range known.Contacts {
		assert.NotEqual(t, finish[c.A], finish[c.B], "%s and %s touch", c.A, c.B)
	}
}

func TestFeaturesOfAShape(t *testing.T) {
	s := newStand(t)
	p, _ := s.pump()
	_, text, _ := s.ask("GET", "/api/projects/"+p.ID, nil)
	shape := read[server.ProjectPage](t, text).Arranged.Assembly.Shapes[0]
	code, text, header := s.ask("GET", "/api/shapes/"+shape.Hash+"/features", nil)
	require.Equal(t, 200, code)
	assert.Contains(t, header.Get("Cache-Control"), "immutable")
	f := read[server.ShapeFeatures](t, text)
	assert.NotEmpty(t, f.Features)
	assert.Len(t, f.Of, shape.Triangles)
	for _, bad := range []string{"xyz", "../../etc/passwd", shape.Hash[:63] + "0"} {
		code, _, _ := s.ask("GET", "/api/shapes/"+bad+"/features", nil)
		assert.NotEqual(t, 200, code, bad)
	}
}

func TestClearanceFollowsTheReveal(t *testing.T) {
	s := newStand(t)
	reveal := s.teardown()
	ways := func(at int64, node string) []clearance.Way {
		code, text, _ := s.ask(
			"POST",
			"/api/reveals/"+reveal+"/clearance",
			map[string]any{"time": at, "nodes": []string{node}, "directions": [][3]float64{{0, 0, 1}, {0, 0, -1}}},
		)
		require.Equal(t, 200, code, string(text))
		return read[[]clearance.Way](t, text)
	}
	// The door stands before the screws; when it is open they are free.
	closed, open := ways(0, "pump-head/cover-screw-m3-12"), ways(4_600_000, "pump-head/cover-screw-m3-12")
	assert.False(t, closed[0].Free)
	assert.True(t, open[0].Free || open[0].Distance > closed[0].Distance+20)
	assert.Less(t, closed[1].Distance, 0.2)
	// A line for each as it is found says the same.
	code, text, header := s.ask(
		"POST",
		"/api/reveals/"+reveal+"/clearance",
		map[string]any{
			"time":       0,
			"nodes":      []string{"pump-head/cover-screw-m3-12"},
			"directions": [][3]float64{{0, 0, 1}, {0, 0, -1}},
		},
		"Accept",
		"application/x-ndjson",
	)
	require.Equal(t, 200, code)
	assert.Equal(t, "application/x-ndjson", header.Get("Content-Type"))
	lines := bytes.Split(bytes.TrimSpace(text), []byte("\n"))
	require.Len(t, lines, 2)
	for _, line := range lines {
		f := read[server.Found](t, line)
		assert.Equal(t, closed[f.Direction], f.Way)
	}
	code, _, _ = s.ask(
		"POST",
		"/api/reveals/"+reveal+"/clearance",
		map[string]any{"nodes": []string{"x"}, "directions": make([][3]float64, 30)},
	)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	code, text, _ = s.ask(
		"POST",
		"/api/reveals/"+reveal+"/clearance",
		map[string]any{"nodes": []string{"nobody"}, "directions": [][3]float64{{0, 0, 1}}},
	)
	require.Equal(t, 200, code)
	assert.True(t, read[[]clearance.Way](t, text)[0].Free, "nobody is in nobody's way")
	assert.False(t, math.IsNaN(closed[0].Distance))
	_, err := s.store.Reveal(context.Background(), reveal)
	require.NoError(t, err)
}
