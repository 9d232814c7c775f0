package server_test

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/film"
	"slowreveal/core/product"
	core "slowreveal/core/reveal"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/demo"
	"slowreveal/formats/gltf"
	"slowreveal/store"
)

// halved cuts a part of a model in two: triangles by the side of its box's middle that they lie on.
func halved(t *testing.T, m *product.Model, name string) {
	t.Helper()
	a := m.Assembly
	i := slices.IndexFunc(a.Nodes, func(n assembly.Node) bool { return n.Name == name })
	whole := m.Shapes[a.Nodes[i].Shape]
	middle := (whole.Bounds.Min.X + whole.Bounds.Max.X) / 2
	for side, as := range []string{name + ", left", name + ", right"} {
		half := solid.Mesh{Positions: whole.Positions}
		for k := 0; k < len(whole.Triangles); k += 3 {
			x := 0.0
			for _, v := range whole.Triangles[k : k+3] {
				x += float64(whole.Positions[3*v]) / 3
			}
			if (x > middle) == (side == 1) {
				half.Triangles = append(half.Triangles, whole.Triangles[k:k+3]...)
			}
		}
		half.Submeshes = []solid.Submesh{{Count: uint32(len(half.Triangles) / 3)}}
		shape, _, err := solid.New(half)
		require.NoError(t, err)
		m.Shapes = append(m.Shapes, shape)
		a.Shapes = append(a.Shapes, assembly.ShapeRef{
			Hash: shape.Hash(), Triangles: len(shape.Triangles) / 3, Submeshes: len(shape.Submeshes),
			Min: space.Vec3Of(shape.Bounds.Min), Max: space.Vec3Of(shape.Bounds.Max),
		})
		n := a.Nodes[i]
		n.Name, n.Shape, n.Finishes = as, len(a.Shapes)-1, n.Finishes[:1]
		if side == 0 {
			a.Nodes[i] = n
			continue
		}
		n.ID += "-right"
		a.Nodes = append(a.Nodes, n)
	}
	require.NoError(t, a.Check())
}

// What a part did its pieces do: the hood comes in two halves, which fade and leave together, without anybody's doing.
func TestPiecesGoWithTheirPart(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	key := s.teardown()
	r, err := s.store.Reveal(ctx, key)
	require.NoError(t, err)
	before, err := core.Parse([]byte(r.Document))
	require.NoError(t, err)
	hood := assembly.NodeID("housing/hood")
	require.True(t, acts(before, hood), "the example moves its hood")

	m := demo.Pump()
	halved(t, m, "Hood")
	file, err := gltf.Write(m)
	require.NoError(t, err)
	s.working()
	code, text := s.upload([]string{"dp-40-c.glb", string(file)}, "project="+r.ProjectID)
	require.Equal(t, http.StatusCreated, code, string(text))
	ended := s.ended(text)
	require.Equal(t, store.Done, ended.State, ended.Message)

	revision, err := s.store.Revision(ctx, r.ProjectID)
	require.NoError(t, err)
	model, err := s.authoring.Model(ctx, revision.ID, false)
	require.NoError(t, err)
	var report product.Report
	require.NoError(t, json.Unmarshal([]byte(revision.Report), &report))
	changes := report.Changes
	require.Len(t, changes.Pieces[hood], 1)
	assert.Empty(t, changes.Lost)
	other := changes.Pieces[hood][0]
	r, err = s.store.Reveal(ctx, key)
	require.NoError(t, err)
	doc, err := core.Parse([]byte(r.Document))
	require.NoError(t, err)
	f := film.Compile(model.Assembly, doc)
	index, moved, faded := model.Assembly.Index(), false, false
	first, last := f.NewFrame(), f.NewFrame()
	f.At(0, first)
	for at := core.Micros(0); at < f.Duration(); at += core.Second {
		f.At(at, last)
		i, k := index[hood], index[other]
		assert.Equal(t, last.World[i].T, last.World[k].T, "at %v", at)
		assert.Equal(t, last.Opacity[i], last.Opacity[k], "at %v", at)
		moved = moved || last.World[i].T != first.World[i].T
		faded = faded || last.Opacity[i] < 1
	}
	assert.True(t, moved || faded)
}

// acts reports whether a cue of a reveal acts on a node.
func acts(r *core.Reveal, id assembly.NodeID) bool {
	return slices.ContainsFunc(r.Steps, func(s core.Step) bool {
		return slices.ContainsFunc(s.Cues, func(c core.Cue) bool { return slices.Contains(c.Targets, id) })
	})
}

// A pull that goes until its part is clear goes as much farther as the next revision asks for; the report says so.
func TestPullsGoWithTheGeometry(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	key := s.teardown()
	stored, err := s.store.Reveal(ctx, key)
	require.NoError(t, err)
	pullOfHood := func() (pull core.Pull, id core.CueID) {
		r, err := s.store.Reveal(ctx, key)
		require.NoError(t, err)
		doc, err := core.Parse([]byte(r.Document))
		require.NoError(t, err)
		for _, step := range doc.Steps {
			for _, c := range step.Cues {
				if c.Pull != nil && slices.Equal(c.Targets, []assembly.NodeID{"housing/hood"}) {
					return *c.Pull, c.ID
				}
			}
		}
		require.Fail(t, "the hood is pulled")
		return pull, id
	}
	revision, err := s.store.Revision(ctx, stored.ProjectID)
	require.NoError(t, err)
	model, err := s.authoring.Model(ctx, revision.ID, false)
	require.NoError(t, err)
	doc, err := core.Parse([]byte(stored.Document))
	require.NoError(t, err)
	_, cue := pullOfHood()
	made, err := compose.Apply(&compose.Subject{
		Reveal: doc, Assembly: model.Assembly, Film: film.Compile(model.Assembly, doc),
		Index: model.Assembly.Index(), Boxes: model.Assembly.BoundsOf(),
	}, compose.Operation{Do: compose.UntilClear, CueIDs: []core.CueID{cue}, On: true, Distance: 15})
	require.NoError(t, err)
	_, err = s.authoring.Do(ctx, key, authoring.On{Base: stored.Version}, authoring.Edit{Command: made.Command})
	require.NoError(t, err)
	before, _ := pullOfHood()
	require.True(t, before.IsClear())

	m := demo.Pump()
	hood := m.Assembly.Index()["housing/hood"]
	m.Assembly.Nodes[hood].Pose.Move[1] -= 7
	file, err := gltf.Write(m)
	require.NoError(t, err)
	s.working()
	code, text := s.upload([]string{"dp-40-c.glb", string(file)}, "project="+stored.ProjectID)
	require.Equal(t, http.StatusCreated, code, string(text))
	require.Equal(t, store.Done, s.ended(text).State)
	after, _ := pullOfHood()
	assert.InDelta(t, before.Distance+7, after.Distance, 0.02, "it hangs 7 mm lower")
	assert.True(t, after.IsClear())
	revision, err = s.store.Revision(ctx, stored.ProjectID)
	require.NoError(t, err)
	var report product.Report
	require.NoError(t, json.Unmarshal([]byte(revision.Report), &report))
	require.Len(t, report.Changes.Followed, 1)
	assert.Contains(t, report.Changes.Followed[0], "the pull of “Hood” goes")
}

// A note that points at a face of a part that has grown points at that face again; the report says so.
func TestNotesGoWithTheirFaces(t *testing.T) {
	s := newStand(t)
	ctx := context.Background()
	key := s.teardown()
	stored, err := s.store.Reveal(ctx, key)
	require.NoError(t, err)
	noted := func() core.Cue {
		r, err := s.store.Reveal(ctx, key)
		require.NoError(t, err)
		doc, err := core.Parse([]byte(r.Document))
		require.NoError(t, err)
		for _, step := range doc.Steps {
			if k := slices.IndexFunc(step.Cues, func(c core.Cue) bool { return c.Note != nil }); k >= 0 {
				return step.Cues[k]
			}
		}
		require.Fail(t, "the example has notes")
		return core.Cue{}
	}
	before := noted()

	m := demo.Pump()
	n := &m.Assembly.Nodes[m.Assembly.Index()[before.Targets[0]]]
	from := m.Shapes[n.Shape]
	grown := solid.Mesh{Triangles: from.Triangles, Submeshes: from.Submeshes}
	middle := from.Bounds.Centre()
	for k, v := range from.Positions {
		at := []float64{middle.X, middle.Y, middle.Z}[k%3]
		grown.Positions = append(grown.Positions, float32(at+1.15*(float64(v)-at)))
	}
	shape, _, err := solid.New(grown)
	require.NoError(t, err)
	m.Shapes = append(m.Shapes, shape)
	m.Assembly.Shapes = append(m.Assembly.Shapes, assembly.ShapeRef{
		Hash: shape.Hash(), Triangles: len(shape.Triangles) / 3, Submeshes: len(shape.Submeshes),
		Min: space.Vec3Of(shape.Bounds.Min), Max: space.Vec3Of(shape.Bounds.Max),
	})
	n.Shape = len(m.Assembly.Shapes) - 1
	file, err := gltf.Write(m)
	require.NoError(t, err)
	s.working()
	code, text := s.upload([]string{"dp-40-c.glb", string(file)}, "project="+stored.ProjectID)
	require.Equal(t, http.StatusCreated, code, string(text))
	require.Equal(t, store.Done, s.ended(text).State)

	after := noted()
	assert.NotEqual(t, before.Note.At, after.Note.At)
	_, _, off := shape.NearestFacing(after.Note.At.Vec(), space.Vec{}, -1)
	assert.Less(t, off, 0.01, "it points at the part's surface")
	revision, err := s.store.Revision(ctx, stored.ProjectID)
	require.NoError(t, err)
	var report product.Report
	require.NoError(t, json.Unmarshal([]byte(revision.Report), &report))
	assert.Contains(t, strings.Join(report.Changes.Followed, "\n"), "“"+before.Note.Text+"” is at its face again")
}
