package e2e

import (
	"fmt"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// engine is an assembly with joints between its parts, given by axes and points of the world.
type engine struct {
	*assembly.Assembly
	worlds []space.Rigid
}

func newEngine(parts int) *engine {
	a := demo.Stress(parts, 12).Assembly
	return &engine{a, a.Worlds()}
}

func (e *engine) joint(id string, kind assembly.JointKind, body, base int, axis, point space.Vec) {
	back := e.worlds[body].Inverse()
	e.Joints = append(e.Joints, assembly.Joint{
		ID: assembly.JointID(id), Name: id, Kind: kind, Body: e.Nodes[body].ID, Base: e.Nodes[base].ID,
		Axis: space.Vec3Of(back.R.Apply(axis)), Point: space.Vec3Of(back.Apply(point)),
	})
}

func (e *engine) gear(id, joint, by string) {
	e.Couplings = append(e.Couplings, assembly.Coupling{
		ID: assembly.JointID(
			id,
		), Name: id, Kind: assembly.Gear, Joint: assembly.JointID(joint), By: assembly.JointID(by),
		Sizes: [2]float64{12, 18},
	})
}

// parts are the nodes that have a shape.
func (e *engine) parts() (list []int) {
	for i := range e.Nodes {
		if e.Nodes[i].IsPart() {
			list = append(list, i)
		}
	}
	return list
}

// engineRunning has 200 driven bodies in 12 closed loops, slider-cranks, and gears on the first of their shafts, or, as a chain,
// each on the one before; and a reveal in which all shafts run.
func engineRunning(t *testing.T, chain bool) (*engine, *reveal.Reveal) {
	t.Helper()
	e := newEngine(201)
	z, x := space.Vec{Z: 1}, space.Vec{X: 1}
	p := e.parts()
	frame, next := p[0], 1
	r := reveal.New("Runs", reveal.Camera{Orientation: space.NoRotation, Distance: 900, FocalLength: 50})
	step := reveal.Step{ID: "run", Title: "It runs", Duration: 20 * reveal.Second}
	for k := range 12 {
		crank, rod, slider := p[next], p[next+1], p[next+2]
		next += 3
		name := func(s string) string { return fmt.Sprintf("%s-%d", s, k) }
		s, c := math.Sincos(25 * math.Pi / 180)
		at := space.Vec{Y: 40 * float64(k)}
		pin := space.Vec{X: 12 * c, Y: at.Y + 12*s}
		end := space.Vec{X: 12*c + math.Sqrt(40*40-144*s*s), Y: at.Y}
		e.joint(name("shaft"), assembly.Revolute, crank, frame, z, at)
		e.joint(name("pin"), assembly.Revolute, rod, crank, z, pin)
		e.joint(name("gudgeon"), assembly.Revolute, slider, rod, z, end)
		e.joint(name("guide"), assembly.Prismatic, slider, frame, x, end)
		step.Cues = append(step.Cues, reveal.Cue{
			ID: reveal.CueID(
				name("drive"),
			), Kind: reveal.KindDrive, Duration: 20 * reveal.Second, Easing: reveal.Linear,
			Targets: []assembly.NodeID{e.Nodes[crank].ID},
			Drive:   &reveal.Drive{Joint: assembly.JointID(name("shaft")), By: new(7200.0)},
		})
	}
	before := "shaft-0"
	for k := 0; next < len(p); k++ {
		id := fmt.Sprintf("gear-%d", k)
		e.joint(id, assembly.Revolute, p[next], frame, z, e.worlds[p[next]].T)
		e.gear("c-"+id, id, before)
		if chain && k < 50 {
			before = id
		}
		next++
	}
	r.Steps = []reveal.Step{step}
	require.NoError(t, e.Check())
	require.NoError(t, reveal.Validate(r, e.Assembly))
	return e, r
}

// mechanismFigures prints what a large mechanism takes: compiling it, a moment of it in WebAssembly, and a step of a hand
// that drags the last of fifty wheels.
func mechanismFigures(t *testing.T) {
	e, r := engineRunning(t, false)
	begun := time.Now()
	f := film.Compile(e.Assembly, r)
	compiled := time.Since(begun)
	fr := f.NewFrame()
	f.At(10*reveal.Second, fr)
	answer := inNode(
		t,
		coreJob{Assembly: e.Assembly, Reveals: []*reveal.Reveal{r}, Times: []reveal.Micros{0}, Bench: true},
	)
	t.Logf("200 driven bodies, 12 closed loops: compiled in %.0f ms, a moment in WebAssembly (Node) median %.2f ms",
		float64(compiled.Microseconds())/1000, answer.MedianAt)

	e, r = engineRunning(t, true)
	wheel := e.Index()[e.FindJoint("gear-49").Body]
	job := coreJob{Assembly: e.Assembly, Reveals: []*reveal.Reveal{r}, Times: []reveal.Micros{0}}
	for k := range 60 {
		at := e.worlds[wheel].Apply(space.Vec{X: 5})
		job.Grabs = append(job.Grabs, map[string]any{
			"joint": "shaft-0", "value": 0.2 * float64(k), "node": e.Nodes[wheel].ID, "at": space.Vec3{5, 0, 0},
			"ray": [2]space.Vec3{{at.X, at.Y + 0.05*float64(k), at.Z + 900}, {0, 0, -1}},
		})
	}
	t.Logf(
		"dragging the last of a chain of 50 wheels: a step in WebAssembly (Node) median %.2f ms",
		inNode(t, job).MedianGrab,
	)
}
