package renewal_test

import (
	"bytes"
	"context"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/edit"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/encode"
	"slowreveal/formats"
	"slowreveal/formats/gltf"
	"slowreveal/jobs"
	"slowreveal/localdb/testdb"
	"slowreveal/release"
	"slowreveal/renewal"
	"slowreveal/store"
)

func TestMain(m *testing.M) { os.Exit(testdb.Run(m)) }

type stand struct {
	*testing.T
	authoring *authoring.Service
	store     *store.Store
	queue     *jobs.Queue
	project   string
	reveal    string
}

// newStand has the example in its database, as a file that was imported, and somebody who makes outputs.
func newStand(t *testing.T) *stand {
	a := authoring.New(testdb.Open(t))
	queue, err := jobs.OpenWorkers(a, 0)
	require.NoError(t, err)
	ctx, stop := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- queue.Work(ctx) }()
	t.Cleanup(func() { stop(); assert.NoError(t, <-ended) })
	out := &stand{T: t, authoring: a, store: a.Store, queue: queue}
	i := out.file(demo.Pump(), "dp-40.glb")
	i, err = queue.ImportNow(ctx, i, formats.Options{Name: "DP-40"})
	require.NoError(t, err)
	out.project = *i.ProjectID
	r, err := a.CreateReveal(ctx, out.project, demo.Teardown(demo.Pump().Assembly))
	require.NoError(t, err)
	out.reveal = r.ID
	return out
}

// file is an import of a model as a file.
func (s *stand) file(m *product.Model, name string) store.Import {
	glb, err := gltf.Write(m)
	require.NoError(s, err)
	i := store.Import{ID: store.NewImport(), Name: "DP-40"}
	i.Source = i.ID
	n, err := s.store.PutFile(context.Background(), i.Source, name, bytes.NewReader(glb))
	require.NoError(s, err)
	i.Files = append(i.Files, store.File{Name: name, Bytes: n})
	if s.project != "" {
		i.ProjectID, i.Reread = &s.project, true
	}
	return i
}

func (s *stand) made(settings ...release.Settings) (list []store.Output) {
	list, err := s.queue.Order(context.Background(), s.reveal, "Ines", settings...)
	require.NoError(s, err)
	for i := range list {
		require.Eventually(s, func() bool {
			list[i], err = s.authoring.Output(context.Background(), list[i].ID)
			return err == nil && list[i].State == store.Done
		}, 6*time.Minute, 50*time.Millisecond, list[i].Message)
	}
	return list
}

// The next revision comes in: what had been made is made again, what is otherwise in each picture is told, and drafts
// are left.
func TestEverythingIsMadeAgain(t *testing.T) {
	s := newStand(t)
	film := release.Settings{Kind: release.Film, Name: "Film", Width: 96, Height: 54, Rate: 2, Captions: true}
	stills := release.Settings{Kind: release.Stills, Name: "Ends", Width: 160, Height: 90, Ends: true}
	one := release.Settings{
		Kind:   release.Stills,
		Name:   "Knob",
		Width:  160,
		Height: 90,
		At:     []reveal.Micros{4 * reveal.Second},
	}
	draft := release.Settings{Kind: release.Film, Name: "Draft", Width: 64, Height: 36, Rate: 2, Purpose: encode.Draft}
	s.made(film)
	before := s.made(film, stills, one, draft)

	m := &renewal.Maker{Authoring: s.authoring, Queue: s.queue}
	r, err := m.Run(context.Background(), s.file(demo.PumpB(), "dp-40-b.glb"), formats.Options{Name: "DP-40"})
	require.NoError(t, err)
	assert.Equal(t, 1, r.Before)
	assert.Equal(t, 2, r.Revision)
	assert.Equal(t, "dp-40-b.glb", r.File)
	var added []string
	for _, n := range r.Changes.Added {
		added = append(added, n.Name)
	}
	assert.Contains(t, added, "Heater block")
	require.Len(t, r.Changes.Gone, 1, "a capacitor")
	assert.Equal(t, "Capacitor", r.Changes.Gone[0].Name)

	require.Len(t, r.Outputs, 3, "of two that are alike the newest, and no draft")
	old := map[string]bool{before[0].ID: true, before[1].ID: true, before[2].ID: true}
	for _, o := range r.Outputs {
		assert.True(t, old[o.Old], "%s", o.Title)
		assert.Empty(t, o.Problem)
		assert.FileExists(t, o.File)
		now, err := s.authoring.Output(context.Background(), o.New)
		require.NoError(t, err)
		assert.Empty(t, now.Behind)
		assert.Equal(t, 2, now.Revision)
		assert.Equal(t, 1, before[0].Revision)
		switch o.Title {
		case "Ends":
			require.Len(t, o.Pictures, 9)
			for _, p := range o.Pictures {
				assert.Positive(t, p.Changed, "%s: the feet are wider", p.Name)
				assert.Less(t, p.Changed, 0.2, p.Name)
			}
		case "Knob", "Film":
			require.Len(t, o.Pictures, 1)
			assert.Positive(t, o.Pictures[0].Changed)
			assert.NotEmpty(t, o.Pictures[0].Both)
		}
		if o.Title == "Film" {
			film, err := os.ReadFile(o.File)
			require.NoError(t, err)
			assert.Contains(t, string(film), "(dp-40-b.glb), revision 2")
		}
	}
	// The project had no variants before, and has none by itself now: the file brings three.
	require.Len(t, r.Proofs, 3)
	for _, p := range r.Proofs {
		assert.NotEmpty(t, p.Counts)
		assert.NotEmpty(t, p.Variant)
	}
	var page strings.Builder
	require.NoError(t, r.Page(&page))
	assert.Contains(t, page.String(), "Heater block is new")
	assert.NotContains(t, page.String(), "<script")
	assert.Equal(t, 11*2+11, strings.Count(page.String(), "<img"))
	if folder := os.Getenv("SLOWREVEAL_SHOTS"); folder != "" {
		require.NoError(t, os.WriteFile(folder+"/renewed.html", []byte(page.String()), 0o644))
	}
}

// What cannot be made any more is told of, and the rest is made.
func TestWhatCannotBeMadeAgainIsTold(t *testing.T) {
	s := newStand(t)
	s.made(
		release.Settings{Kind: release.Stills, Name: "All", Width: 64, Height: 36},
		release.Settings{
			Kind:   release.Stills,
			Name:   "Late",
			Width:  64,
			Height: 36,
			At:     []reveal.Micros{50 * reveal.Second},
		},
	)
	doc := demo.Teardown(demo.Pump().Assembly)
	r, err := s.store.Reveal(context.Background(), s.reveal)
	require.NoError(t, err)
	_, err = s.authoring.Do(context.Background(), s.reveal, authoring.On{Base: r.Version},
		authoring.Edit{Command: edit.Command{Op: edit.RemoveStep, StepID: doc.Steps[8].ID}})
	require.NoError(t, err)
	m := &renewal.Maker{Authoring: s.authoring, Queue: s.queue}
	out, err := m.Run(context.Background(), s.file(demo.Pump(), "dp-40.glb"), formats.Options{Name: "DP-40"})
	require.NoError(t, err)
	assert.Equal(t, 1, out.Failed())
	for _, o := range out.Outputs {
		if o.Title == "Late" {
			assert.Contains(t, o.Problem, "50.00 s")
		} else {
			assert.Empty(t, o.Problem)
		}
	}
	_, err = m.Run(context.Background(), store.Import{}, formats.Options{})
	assert.ErrorContains(t, err, "of a project")
}
