package compose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/compose"
	"slowreveal/core/edit"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// postAndSleeve is a sleeve from z = 0 to 30 mm around a post from −10 mm to its top, beside a wall 200 mm high that it
// does not pass, and a lid on the post, from its top on 5 mm.
func postAndSleeve(top float64) *assembly.Assembly {
	boxes := map[string][2]space.Vec3{
		"Post": {{-4, -4, -10}, {4, 4, top}}, "Sleeve": {{-5, -5, 0}, {5, 5, 30}},
		"Wall": {{20, -50, -10}, {30, 50, 200}}, "Lid": {{-8, -8, top}, {8, 8, top + 5}},
	}
	a := &assembly.Assembly{Name: "Made", Finishes: []assembly.Finish{{Name: "Plain"}}, Nodes: []assembly.Node{
		{ID: assembly.Root, Name: "Made", Parent: -1, Shape: -1, Pose: assembly.PoseOf(space.Identity)},
	}}
	for i, name := range []string{"Post", "Sleeve", "Wall", "Lid"} {
		a.Shapes = append(
			a.Shapes,
			assembly.ShapeRef{Hash: name, Triangles: 12, Submeshes: 1, Min: boxes[name][0], Max: boxes[name][1]},
		)
		a.Nodes = append(a.Nodes, assembly.Node{
			ID: assembly.NodeID(name), Name: name, Shape: i, Pose: assembly.PoseOf(space.Identity), Finishes: []int{0},
		})
	}
	return a
}

func pulled(id string, start reveal.Micros, distance float64, targets ...assembly.NodeID) reveal.Cue {
	return reveal.Cue{
		ID: reveal.CueID(id), Kind: reveal.KindPull, Offset: start, Duration: reveal.Second, Easing: reveal.Smooth,
		Targets: targets, Pull: &reveal.Pull{Axes: reveal.AssemblyAxes, Along: space.Vec3{0, 0, 1}, Distance: distance},
	}
}

// A pull goes until its part is clear of all that stands beside it on its way, and a margin farther; when the geometry
// changes so does it. One that was given another distance by hand keeps it.
func TestPullsGoUntilTheyAreClear(t *testing.T) {
	a := postAndSleeve(50)
	r := reveal.New("Made", reveal.Camera{Orientation: space.NoRotation, Distance: 500, FocalLength: 50})
	r.Steps = []reveal.Step{{ID: "one", Title: "One", Duration: 4 * reveal.Second, Cues: []reveal.Cue{
		pulled("lid", 0, 200, "Lid"), pulled("sleeve", 2*reveal.Second, 12, "Sleeve"),
	}}}
	require.NoError(t, reveal.Validate(r, a))
	do := func(margin float64, on bool) {
		t.Helper()
		subject := &compose.Subject{
			Reveal:   r,
			Assembly: a,
			Film:     film.Compile(a, r),
			Index:    a.Index(),
			Boxes:    a.BoundsOf(),
		}
		done, err := compose.Apply(subject, compose.Operation{
			Do: compose.UntilClear, CueIDs: []reveal.CueID{"sleeve"}, Distance: margin, On: on,
		})
		require.NoError(t, err)
		_, err = edit.Do(r, a, done.Command)
		require.NoError(t, err)
	}
	sleeve := func() *reveal.Pull { return r.Steps[0].Cues[1].Pull }

	do(8, true)
	assert.Equal(t, 255.0+8, sleeve().Distance, "the lid has been lifted, and is above it still: 50 + 200 + 5")
	r.Steps[0].Cues[0].Pull.Along = space.Vec3{0, 1, 0} // aside, now
	do(8, true)
	assert.Equal(t, 50.0+8, sleeve().Distance, "from its lower end to the post's top")
	assert.True(t, sleeve().IsClear())

	taller := postAndSleeve(70)
	says := compose.ClearAgain(r, taller)
	assert.Equal(t, []string{"step 1: the pull of “Sleeve” goes 78 mm until it is clear, it was 58"}, says)
	assert.Equal(t, 78.0, sleeve().Distance)
	require.NoError(t, reveal.Validate(r, taller))
	assert.Empty(t, compose.ClearAgain(r, taller), "it is there already")

	own := reveal.Clone(r)
	own.Steps[0].Cues[1].Pull.Distance = 90
	assert.Empty(t, compose.ClearAgain(own, a), "what was given by hand stays")
	assert.Equal(t, 90.0, own.Steps[0].Cues[1].Pull.Distance)

	sleeve().Distance = -3 // downwards
	do(0, true)
	assert.Equal(t, -(30.0 + 10), sleeve().Distance, "the other way: its upper end comes below the post")
	do(0, false)
	assert.Nil(t, sleeve().Clear)
	assert.Empty(t, compose.ClearAgain(r, taller))

	subject := &compose.Subject{Reveal: r, Assembly: a, Film: film.Compile(a, r), Index: a.Index(), Boxes: a.BoundsOf()}
	sleeve().Secondary = &reveal.Leg{Along: space.Vec3{1, 0, 0}, Distance: 4}
	_, err := compose.Apply(
		subject,
		compose.Operation{Do: compose.UntilClear, CueIDs: []reveal.CueID{"sleeve"}, On: true},
	)
	assert.ErrorContains(t, err, "pulled straight")
}
