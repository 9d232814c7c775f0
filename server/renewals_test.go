package server_test

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	core "slowreveal/core/reveal"
	"slowreveal/release"
	"slowreveal/renewal"
	"slowreveal/server"
	"slowreveal/store"
)

// renewed waits until a project's renewal has ended.
func (s *stand) renewed(project string) (state server.RenewalState) {
	s.Helper()
	require.Eventually(s, func() bool {
		code, text, _ := s.ask("GET", "/api/projects/"+project+"/renewals/newest", nil)
		require.Equal(s, http.StatusOK, code, string(text))
		require.NoError(s, json.Unmarshal(text, &state))
		return state.State != store.Running
	}, 6*time.Minute, 50*time.Millisecond)
	return state
}

// What is out of date is made again in one go, with a report; what is not stays; only one renewal of a project runs.
func TestAProjectIsRenewedInOneGo(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	key := s.teardown()
	s.work()
	r, err := s.store.Reveal(ctx, key)
	require.NoError(t, err)
	address := "/api/projects/" + r.ProjectID + "/renewals"
	assert.Equal(t, store.None, s.renewed(r.ProjectID).State)

	still := release.Settings{
		Kind:   release.Stills,
		Name:   "Door",
		Width:  160,
		Height: 90,
		At:     []core.Micros{4 * core.Second},
	}
	list := release.Settings{Kind: release.Parts, Name: "Parts", Format: "csv"}
	old := s.order(key, still, list)
	for _, o := range old {
		s.finished(o.ID)
	}
	doc, err := core.Parse([]byte(r.Document))
	require.NoError(t, err)
	step, k := doc.FindCue("cue-2")
	cue := doc.Steps[step].Cues[k] // the door opens half as far
	cue.Turn.Degrees /= 2
	_, err = s.authoring.Do(
		ctx,
		key,
		authoring.On{Base: r.Version},
		authoring.Edit{Command: edit.Command{Op: edit.SetCue, Cue: &cue}},
	)
	require.NoError(t, err)

	code, text, _ := s.ask("POST", address, nil)
	require.Equal(t, http.StatusCreated, code, string(text))
	code, text, _ = s.ask("POST", address, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, string(text), "being renewed")
	state := s.renewed(r.ProjectID)
	require.Equal(t, store.Done, state.State, state.Says)
	assert.Equal(t, 1, state.Changed)
	assert.Zero(t, state.Failed)

	code, text, _ = s.ask("GET", "/api/renewals/"+state.ID+"/report.json", nil)
	require.Equal(t, http.StatusOK, code)
	var report renewal.Report
	require.NoError(t, json.Unmarshal(text, &report))
	require.Len(t, report.Outputs, state.Made)
	at := slices.IndexFunc(report.Outputs, func(o renewal.Renewed) bool { return o.Old == old[0].ID })
	require.GreaterOrEqual(t, at, 0)
	assert.Greater(t, report.Outputs[at].Pictures[0].Changed, 0.01, "the door")
	require.Len(t, report.Proofs, 1)
	_, before, _ := s.ask("GET", "/api/outputs/"+old[0].ID+"/file", nil)
	_, after, _ := s.ask("GET", "/api/outputs/"+report.Outputs[at].New+"/file", nil)
	assert.Contains(t, string(before), "; proof: not proven", "nobody had looked")
	assert.Contains(t, string(after), "; proof: "+report.Proofs[0].Counts, "the file says what was found")
	code, text, header := s.ask("GET", "/api/renewals/"+state.ID+"/report", nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, header.Get("Content-Type"), "text/html")
	assert.Contains(t, string(text), `alt="What has changed, marked"`)
	assert.NotContains(t, string(text), "<script")

	code, text, _ = s.ask("POST", address, nil)
	require.Equal(t, http.StatusCreated, code, string(text))
	assert.Zero(t, s.renewed(r.ProjectID).Made, "nothing is out of date any more")

	code, _, _ = s.ask("POST", "/api/projects/"+strings.Repeat("0", 8)+"-0000-7000-8000-000000000000/renewals", nil)
	assert.Equal(t, http.StatusNotFound, code)
	code, _, _ = s.ask("GET", "/api/renewals/"+key+"/report", nil)
	assert.Equal(t, http.StatusNotFound, code)
}

// A renewal that is stopped leaves what it has ordered and is not made yet, and the next one can begin. Nobody makes
// outputs here, so that it waits.
func TestARenewalIsStopped(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	key := s.teardown()
	r, err := s.store.Reveal(ctx, key)
	require.NoError(t, err)
	still := release.Settings{Kind: release.Stills, Width: 160, Height: 90, At: []core.Micros{4 * core.Second}}
	old := s.order(key, still)
	require.NoError(t, s.store.EndOutput(ctx, old[0], store.Done, "", 1))
	title := "Another one"
	_, err = s.authoring.Do(ctx, key, authoring.On{Base: r.Version},
		authoring.Edit{Command: edit.Command{Op: edit.SetTitle, Title: &title}})
	require.NoError(t, err)

	code, text, _ := s.ask("POST", "/api/projects/"+r.ProjectID+"/renewals", nil)
	require.Equal(t, http.StatusCreated, code, string(text))
	begun := read[store.Renewal](t, text)
	require.Eventually(t, func() bool {
		now, err := s.store.RenewalNamed(ctx, begun.ID)
		return err == nil && strings.HasPrefix(now.Says, "Making")
	}, 6*time.Minute, 20*time.Millisecond)
	for range 2 { // the second time it has ended
		code, text, _ = s.ask("POST", "/api/renewals/"+begun.ID+"/stop", nil)
		require.Equal(t, http.StatusOK, code, string(text))
		state := read[server.RenewalState](t, text)
		assert.Equal(t, store.Cancelled, state.State)
		assert.Equal(t, "Stopped before anything was made again.", state.Says)
	}
	outputs, err := s.authoring.Outputs(ctx, r.ProjectID)
	require.NoError(t, err)
	require.Len(t, outputs, 2)
	assert.Equal(t, store.Cancelled, outputs[0].State)
	assert.True(t, outputs[1].Due, "it is out of date as it was")
	code, text, _ = s.ask("POST", "/api/projects/"+r.ProjectID+"/renewals", nil)
	require.Equal(t, http.StatusCreated, code, string(text))
	s.ask("POST", "/api/renewals/"+read[store.Renewal](t, text).ID+"/stop", nil)
	code, _, _ = s.ask("POST", "/api/renewals/"+key+"/stop", nil)
	assert.Equal(t, http.StatusNotFound, code)
}

// A server that was stopped while it renewed: the next one says so.
func TestARenewalThatWasCutOffIsToldOf(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	p, _ := s.pump()
	_, err := s.store.BeginRenewal(ctx, p.ID)
	require.NoError(t, err)
	require.NoError(t, s.store.AbandonRenewals(ctx))
	state := s.renewed(p.ID)
	assert.Equal(t, store.Failed, state.State)
	assert.Contains(t, state.Says, "renew again")
	_, err = s.store.BeginRenewal(ctx, p.ID)
	assert.NoError(t, err)
}
