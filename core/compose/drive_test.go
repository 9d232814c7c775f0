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
	"slowreveal/demo"
)

// Whatever is picked of a mechanism, what drives it is driven.
func TestAHandDrivesWhatIsPicked(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Running(a)
	subject := &compose.Subject{Reveal: r, Assembly: a, Film: film.Compile(a, r), Index: a.Index()}
	for node, want := range map[assembly.NodeID]assembly.JointID{
		"pump-head/rotor/rotor-hub": "motor", "planet-stage/planet-gear-18-teeth": "motor", "drive/motor-shaft": "motor",
	} {
		made, err := compose.Apply(
			subject,
			compose.Operation{Do: compose.AddHalt, Nodes: []assembly.NodeID{node}, Fresh: "x"},
		)
		require.NoError(t, err, node)
		next := reveal.Clone(r)
		_, err = edit.Do(next, a, made.Command)
		require.NoError(t, err)
		s, k := next.FindCue(made.Made[0])
		require.GreaterOrEqual(t, s, 0)
		c := &next.Steps[s].Cues[k]
		assert.Equal(t, want, c.Drive.Joint)
		assert.Equal(t, reveal.KindDrive, c.Kind)
		assert.Equal(t, "stop", c.Label())
	}
	// Where nothing is driven yet, it is the joint that the part is on.
	r = demo.Teardown(a)
	subject = &compose.Subject{Reveal: r, Assembly: a, Film: film.Compile(a, r), Index: a.Index()}
	made, err := compose.Apply(subject, compose.Operation{
		Do: compose.AddDrive, Nodes: []assembly.NodeID{"pump-head/rotor/rotor-hub"}, Fresh: "x",
	})
	require.NoError(t, err)
	assert.Len(t, made.Made, 1)
	_, err = compose.Apply(
		subject,
		compose.Operation{Do: compose.AddDrive, Nodes: []assembly.NodeID{"housing/hood"}, Fresh: "x"},
	)
	assert.ErrorContains(t, err, "Joints are made in Prepare")
}

// What runs on and on ends where its end is dragged to.
func TestAnEndThatIsDraggedStaysThere(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Running(a)
	before := film.Compile(a, r)
	subject := &compose.Subject{Reveal: r, Assembly: a, Film: before, Index: a.Index()}
	bar := before.Schedule.Bars[0]
	require.True(t, r.Steps[0].Cues[0].Drive.Ongoing)
	made, err := compose.Apply(subject, compose.Operation{
		Do: compose.Stretch, CueIDs: []reveal.CueID{"cue-1"}, Edge: edit.End, By: -2 * reveal.Second,
	})
	require.NoError(t, err)
	_, err = edit.Do(r, a, made.Command)
	require.NoError(t, err)
	assert.False(t, r.Steps[0].Cues[0].Drive.Ongoing)
	assert.Equal(t, bar.Duration-2*reveal.Second, film.Compile(a, r).Schedule.Bars[0].Duration)
}

// A joint is driven in another way, and another joint, with what it has of the way before.
func TestAJointIsDrivenOtherwise(t *testing.T) {
	a := demo.Pump().Assembly
	slide := assembly.Joint{
		ID: "slide", Name: "Slide", Kind: assembly.Prismatic, Body: "housing/hood", Base: a.Nodes[0].ID,
		Axis: space.Vec3{0, 0, 1},
	}
	a.Joints = append(a.Joints, slide)
	r := demo.Running(a)
	by := 720.0
	r.Steps[0].Cues[0].Drive = &reveal.Drive{Joint: "motor", By: &by}
	do := func(o compose.Operation) reveal.Drive {
		o.CueIDs = []reveal.CueID{"cue-1"}
		made, err := compose.Apply(
			&compose.Subject{Reveal: r, Assembly: a, Film: film.Compile(a, r), Index: a.Index()},
			o,
		)
		require.NoError(t, err)
		_, err = edit.Do(r, a, made.Command)
		require.NoError(t, err)
		return *r.Steps[0].Cues[0].Drive
	}
	assert.Equal(t, 720.0, *do(compose.Operation{Do: compose.DriveHow, How: reveal.DriveTo}).To)
	assert.Equal(t, 720.0, *do(compose.Operation{Do: compose.DriveHow, How: reveal.DriveBy}).By)
	swings := do(compose.Operation{Do: compose.DriveHow, How: reveal.DriveSwings})
	assert.Equal(t, 720.0, *swings.By)
	assert.Equal(t, 1, swings.Swings)
	runs := do(compose.Operation{Do: compose.DriveHow, How: reveal.DriveRuns})
	assert.Equal(t, 30.0, *runs.Speed)
	assert.True(t, runs.Ongoing)
	assert.Nil(t, runs.By)
	// Revolutions a minute are no mm in a second.
	slides := do(compose.Operation{Do: compose.DriveJoint, Joint: "slide"})
	assert.Equal(t, 10.0, *slides.Speed)
	assert.True(t, slides.Slides)
	assert.Equal(t, []assembly.NodeID{"housing/hood"}, r.Steps[0].Cues[0].Targets)
	for _, o := range []compose.Operation{
		{Do: compose.DriveHow, How: "sideways", CueIDs: []reveal.CueID{"cue-1"}},
		{Do: compose.DriveJoint, Joint: "none", CueIDs: []reveal.CueID{"cue-1"}},
	} {
		_, err := compose.Apply(&compose.Subject{Reveal: r, Assembly: a, Film: film.Compile(a, r), Index: a.Index()}, o)
		assert.Error(t, err)
	}
}
