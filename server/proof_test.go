package server_test

import (
	"bytes"
	"context"
	"fmt"
	"image/png"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/server"
	"slowreveal/store"
)

// A reveal in which the rotor cover is drawn through its seat, in one edit, and another way in the next: what is found
// follows the version, what has been found is kept, and who goes away ends the work.
func TestProofFollowsTheReveal(t *testing.T) {
	s := newStand(t)
	_, reveal := s.pump()
	prove := func() server.ProofState {
		for begun := time.Now(); ; {
			code, text, _ := s.ask("GET", "/api/reveals/"+reveal+"/proof?all=true", nil)
			require.Equal(t, 200, code, string(text))
			if p := read[server.ProofState](t, text); p.Done == 1 {
				require.NotNil(t, p.Report)
				return p
			}
			require.Less(t, time.Since(begun), 2*time.Minute)
		}
	}
	empty := prove().Report
	assert.Empty(t, empty.Findings)
	assert.NotNil(t, empty.Findings, "[] and not null")
	assert.Equal(t, 3160, empty.All)
	assert.Zero(t, empty.Pairs)
	cover := func(version int64, op, along string) int64 {
		code, text, _ := s.ask(
			"POST",
			"/api/reveals/"+reveal+"/commands",
			change(
				version,
				`{"op":"`+op+`","step":{"id":"a","title":"Open","duration":2000000,"cues":[{"id":"c","kind":"pull","targets":["pump-head/rotor-cover"],"offset":0,"duration":1000000,"easing":"smooth","pull":{"axes":"assembly","along":`+along+`,"distance":30}}]}}`,
			),
		)
		require.Equal(t, 200, code, string(text))
		return read[server.Changed](t, text).Version
	}
	version := cover(0, "insertStep", "[1,0,0]")
	through := prove()
	assert.Equal(t, version, through.Version)
	screw := -1
	for i, f := range through.Report.Findings {
		if f.Check == "interference" &&
			slices.ContainsFunc(
				f.Parts,
				func(id assembly.NodeID) bool { return strings.HasPrefix(string(id), "pump-head/cover-screw") },
			) {
			screw = i
		}
	}
	require.GreaterOrEqual(t, screw, 0, "the cover goes aside through its screws: %v", through.Report.Findings)
	f := through.Report.Findings[screw]
	assert.Contains(t, f.Parts, assembly.NodeID("pump-head/rotor-cover"))
	assert.Contains(t, f.Says, "Rotor cover")
	assert.Contains(t, f.Says, "“30 mm” of step 1.")

	// Its picture shows both in colours of their own; one of another version, or of a finding that is not there, is
	// missing.
	picture := func(version int64, finding string) (int, []byte) {
		code, png, _ := s.ask("GET", fmt.Sprintf("/api/reveals/%s/proof/%d/%s/picture", reveal, version, finding), nil)
		return code, png
	}
	code, drawn := picture(version, f.Key)
	require.Equal(t, 200, code)
	assert.True(
		t,
		shows(t, drawn, func(r, g, b int) bool { return r > 3*b/2 && r > 90 }) &&
			shows(t, drawn, func(r, g, b int) bool { return b > 5*r/4 && b > 70 }),
		"red and blue",
	)
	for _, missing := range []struct {
		version int64
		finding string
	}{{version + 1, f.Key}, {version, "0123456789abcdef"}, {version, "-1"}} {
		code, _ := picture(missing.version, missing.finding)
		assert.Equal(t, http.StatusNotFound, code)
	}

	begun := time.Now()
	assert.Equal(t, through, prove())
	t.Logf("the second answer took %v", time.Since(begun))

	// The same as a page: whole, without a script, with the picture in it.
	code, text, _ := s.ask("GET", "/api/reveals/"+reveal+"/proof/page", nil)
	require.Equal(t, 200, code)
	assert.Contains(t, string(text), "Rotor cover")
	assert.Contains(t, string(text), `src="data:image/png;base64,`)
	assert.NotContains(t, string(text), "<script")
	assert.Contains(t, string(text), "</html>")
	assert.NotContains(t, string(text), "ZgotmplZ", "what the template would not trust")

	// What is ordered now keeps its proof, whatever becomes of the reveal.
	code, text, _ = s.ask(
		"POST",
		"/api/reveals/"+reveal+"/outputs",
		map[string]any{"outputs": []map[string]any{{"kind": "captions"}}},
	)
	require.Equal(t, 201, code, string(text))
	output := read[[]store.Output](t, text)[0].ID

	code, _, _ = s.ask("POST", "/api/reveals/"+reveal+"/undo", map[string]any{"version": version})
	require.Equal(t, 200, code)
	for _, f := range prove().Report.Findings {
		assert.NotEqual(t, proof.Fault, f.Level, f.Says)
	}

	for range 2 { // made, then kept
		code, text, _ = s.ask("GET", "/api/outputs/"+output+"/proof", nil)
		require.Equal(t, 200, code, string(text))
		kept := read[server.OutputProof](t, text)
		assert.Equal(t, through.Version, kept.Version)
		assert.Len(t, kept.Checks, len(proof.Checks))
		assert.Equal(t, through.Report.Open(proof.Fault), kept.Outcome.Open(proof.Fault))
		code, text, _ = s.ask("GET", "/api/outputs/"+output+"/proof/page", nil)
		require.Equal(t, 200, code)
		assert.Contains(t, string(text), "Rotor cover")
	}

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

// More reveals than are kept are asked for again and again at the same time: each comes to its end, none is ended by
// another one.
func TestManyProofsAtOnceAllEnd(t *testing.T) {
	s := newStand(t)
	project, _ := s.pump()
	var reveals []string
	defer server.SetMostProofs(3)()
	for k := range 10 {
		code, text, _ := s.ask(
			"POST",
			"/api/projects/"+project.ID+"/reveals",
			map[string]any{"title": fmt.Sprint("Reveal ", k)},
		)
		require.Equal(t, 201, code, string(text))
		id := read[store.StoredReveal](t, text).ID
		code, text, _ = s.ask(
			"POST",
			"/api/reveals/"+id+"/commands",
			change(
				0,
				`{"op":"insertStep","step":{"id":"a","title":"Off","duration":1000000,"cues":[{"id":"c","kind":"pull","targets":["housing/dosing-knob"],"offset":0,"duration":1000000,"easing":"smooth","pull":{"axes":"assembly","along":[0,0,1],"distance":30}}]}}`,
			),
		)
		require.Equal(t, 200, code, string(text))
		reveals = append(reveals, id)
	}
	var all sync.WaitGroup
	for _, id := range reveals {
		all.Go(func() {
			for begun := time.Now(); ; {
				code, text, _ := s.ask("GET", "/api/reveals/"+id+"/proof", nil)
				if !assert.Equal(t, 200, code) || read[server.ProofState](t, text).Done == 1 ||
					!assert.Less(t, time.Since(begun), 3*time.Minute, "it never ends") {
					return
				}
			}
		})
	}
	all.Wait()
}

// What was found in a reveal is known to another server, and for another project in which the same is: what is kept is
// told as it is, with its mends. What is found after the next edit is found anew.
func TestWhatWasProvenBeforeIsKnown(t *testing.T) {
	s := newStand(t)
	through := func() string {
		_, id := s.pump()
		code, text, _ := s.ask("POST", "/api/reveals/"+id+"/commands", change(0, throughItsScrews))
		require.Equal(t, 200, code, string(text))
		return id
	}
	proven := func(url, id string) server.ProofState {
		for begun := time.Now(); ; {
			code, text, _ := (&stand{T: t, url: url}).ask("GET", "/api/reveals/"+id+"/proof?all=true", nil)
			require.Equal(t, 200, code, string(text))
			if p := read[server.ProofState](t, text); p.Done == 1 {
				return p
			}
			require.Less(t, time.Since(begun), 2*time.Minute)
		}
	}
	first := proven(s.url, through())
	require.NotEmpty(t, first.Report.Findings)
	require.True(t, first.Report.Mended)

	second := through()
	now, err := s.store.Reveal(t.Context(), second)
	require.NoError(t, err)
	doc, err := reveal.Parse([]byte(now.Document))
	require.NoError(t, err)
	m, err := s.authoring.Model(t.Context(), now.RevisionID, false)
	require.NoError(t, err)
	kept, known, err := s.queue.Outcome(t.Context(), m.Assembly, doc)
	require.NoError(t, err)
	require.True(t, known)
	assert.Equal(t, *first.Report, kept)
	kept.Findings[0].Says = "as it was found before"
	require.NoError(t, s.queue.KeepOutcome(t.Context(), m.Assembly, doc, &kept))
	other, err := server.New(s.authoring, s.queue)
	require.NoError(t, err)
	h := httptest.NewServer(other.Handler())
	defer h.Close()
	again := proven(h.URL, second)
	assert.Equal(t, kept, *again.Report)

	code, text, _ := s.ask("POST", "/api/reveals/"+second+"/commands", change(1, `{"op":"setTitle","title":"Through"}`))
	require.Equal(t, 200, code, string(text))
	assert.Equal(t, first.Report.Findings, proven(h.URL, second).Report.Findings)
}

// throughItsScrews is a step in which the rotor cover is drawn aside.
const throughItsScrews = `{"op":"insertStep","step":{"id":"a","title":"Open","duration":2000000,"cues":[{"id":"c","kind":"pull",` +
	`"targets":["pump-head/rotor-cover"],"offset":0,"duration":1000000,"easing":"smooth","pull":{"axes":"assembly","along":[1,0,0],"distance":30}}]}}`

// shows reports whether some pixels of a PNG are of a colour.
func shows(t *testing.T, data []byte, of func(r, g, b int) bool) bool {
	t.Helper()
	img, err := png.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	n := 0
	for y := range img.Bounds().Dy() {
		for x := range img.Bounds().Dx() {
			if r, g, b, _ := img.At(x, y).RGBA(); of(int(r>>8), int(g>>8), int(b>>8)) {
				n++
			}
		}
	}
	return n > 30
}
