package demo_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/mechanism"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// The pump's rotor makes one turn for five of the motor (Willis: 1 + 48/12), and the gears stay in mesh with what they
// touch: points on pitch circles go equally fast.
func TestThePumpRuns(t *testing.T) {
	m := demo.Pump()
	r := demo.Running(m.Assembly)
	require.NoError(t, reveal.Validate(r, m.Assembly))
	f := film.Compile(m.Assembly, r)
	require.Empty(t, f.Mechanism().Problems)
	fr := f.NewFrame()
	motor, ok := f.Joint("motor", fr)
	require.True(t, ok)
	assert.Zero(t, motor)
	f.At(f.Duration(), fr)
	motor, _ = f.Joint("motor", fr)
	// 0.6 s at rest, 1.6 s to 240° a second, on until 0.6 s into the last step, at 27.6 s, 1.8 s to a stop.
	assert.InDelta(t, 240*(0.8+27.6+0.6-2.2+0.9), motor, 1e-6)
	carrier, _ := f.Joint("carrier", fr)
	assert.InDelta(t, motor/5, carrier, 1e-9)
	before := motor
	f.At(f.Duration()-reveal.Second, fr)
	motor, _ = f.Joint("motor", fr)
	assert.InDelta(t, before, motor, 1e-9, "it stands still at the end")
}

// driving is the pump's reveal with one step and the cues given.
func driving(t *testing.T, cues ...reveal.Cue) *film.Film {
	t.Helper()
	a := demo.Pump().Assembly
	r := demo.Running(a)
	r.Steps = []reveal.Step{{ID: "s", Title: "s", Duration: 10 * reveal.Second}}
	for i, c := range cues {
		c.ID = reveal.CueID(rune('a' + i))
		if c.Easing == (reveal.Easing{}) {
			c.Easing = reveal.Linear
		}
		r.Steps[0].Cues = append(r.Steps[0].Cues, c)
	}
	require.NoError(t, reveal.Validate(r, a))
	return film.Compile(a, r)
}

func drive(at, length float64, d reveal.Drive) reveal.Cue {
	d.Joint = "motor"
	return reveal.Cue{
		Kind: reveal.KindDrive, Targets: []assembly.NodeID{"drive/motor-shaft"}, Drive: &d,
		Offset: reveal.Micros(at * 1e6), Duration: reveal.Micros(length * 1e6),
	}
}

func at(f *film.Film, s float64) *film.Frame {
	fr := f.NewFrame()
	f.At(reveal.Micros(s*1e6), fr)
	return fr
}

func motorAt(f *film.Film, s float64) float64 {
	v, _ := f.Joint("motor", at(f, s))
	return v
}

func TestAJointGoesAsItIsTold(t *testing.T) {
	f := driving(t, drive(1, 2, reveal.Drive{By: new(1080.0)}), drive(5, 2, reveal.Drive{To: new(-90.0)}))
	assert.InDelta(t, 540, motorAt(f, 2), 1e-9)
	assert.InDelta(t, 1080, motorAt(f, 4), 1e-9)
	assert.InDelta(t, (1080.0-90)/2, motorAt(f, 6), 1e-9)
	assert.InDelta(t, -90, motorAt(f, 8), 1e-9)

	f = driving(t, drive(0, 6, reveal.Drive{By: new(30.0), Swings: 3}))
	assert.InDelta(t, 30, motorAt(f, 1), 1e-9)
	assert.InDelta(t, 0, motorAt(f, 2), 1e-9)
	assert.InDelta(t, 30, motorAt(f, 5), 1e-9)
	assert.Zero(t, motorAt(f, 7))

	// Two speeds, one into the other, and a stop: 60 rev/min are 360° a second.
	f = driving(t,
		drive(0, 1, reveal.Drive{Speed: new(60.0), RunUp: reveal.Second, Ongoing: true}),
		drive(3, 1, reveal.Drive{Speed: new(120.0), RunUp: 2 * reveal.Second, Ongoing: true}),
		drive(7, 1, reveal.Drive{Speed: new(0.0), RunUp: reveal.Second, Ongoing: true}),
	)
	assert.InDelta(t, 180, motorAt(f, 1), 1e-9)
	assert.InDelta(t, 900, motorAt(f, 3), 1e-9)
	assert.InDelta(t, 900+360*2+360, motorAt(f, 5), 1e-9)
	assert.InDelta(t, 1980+1440, motorAt(f, 7), 1e-9)
	assert.InDelta(t, 3420+360, motorAt(f, 8), 1e-9)
	assert.InDelta(t, 3780, motorAt(f, 10), 1e-9)
}

// What is pulled off keeps turning, and what turns may be pulled along its own axes.
func TestItComesApartWhileItRuns(t *testing.T) {
	pull := reveal.Cue{
		Kind: reveal.KindPull, Targets: []assembly.NodeID{"pump-head/rotor"}, Duration: 2 * reveal.Second, Offset: reveal.Second,
		Pull: &reveal.Pull{Axes: reveal.ParentAxes, Along: space.Vec3{0, 0, 1}, Distance: 40},
	}
	f := driving(t, drive(0, 10, reveal.Drive{Speed: new(10.0)}), pull)
	index := f.Assembly.Index()
	rotor := index["pump-head/rotor"]
	fr := at(f, 5)
	assert.InDelta(t, 40, fr.World[rotor].T.Z, 1e-9)
	turned := math.Atan2(fr.World[rotor].R[3], fr.World[rotor].R[0]) * 180 / math.Pi
	assert.InDelta(t, 10*6*5/5.0, turned, 1e-9, "a fifth of what the motor has turned")
	roller := index["pump-head/rotor/roller"]
	assert.InDelta(t, 40+15, fr.World[roller].T.Z, 1e-9, "what is in it comes with it")
}

func TestARetraceRunsTheMechanismBack(t *testing.T) {
	a := demo.Pump().Assembly
	r := demo.Running(a)
	r.Steps = []reveal.Step{
		{
			ID:       "s",
			Title:    "s",
			Duration: 3 * reveal.Second,
			Cues:     []reveal.Cue{drive(0.5, 2, reveal.Drive{By: new(777.0)})},
		},
		{ID: "b", Title: "b", Duration: 3 * reveal.Second, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"s"}}},
	}
	r.Steps[0].Cues[0].ID, r.Steps[0].Cues[0].Easing = "c", reveal.Smooth
	require.NoError(t, reveal.Validate(r, a))
	f := film.Compile(a, r)
	assert.InDelta(t, 777, motorAt(f, 3), 1e-9)
	assert.InDelta(t, motorAt(f, 1.5), motorAt(f, 4.5), 1e-9)
	assert.Equal(t, f.NewFrame().World, at(f, 6).World, "home, to the bit")
}

func TestAWholeNumberOfTurnsEndsWhereItBegan(t *testing.T) {
	f := driving(t, drive(0, 4, reveal.Drive{By: new(5 * 360 * 3.0)}))
	fr, home := at(f, 6), f.NewFrame()
	for i := range fr.World {
		if fr.World[i] != home.World[i] {
			// Planets and rollers need not: their ratios are not whole.
			assert.Contains(t, []string{"Planet gear, 18 teeth", "Roller"}, f.Assembly.Nodes[i].Name)
		}
	}
}

func TestAFilmWithoutDrivesHasNoMechanism(t *testing.T) {
	a := demo.Pump().Assembly
	assert.Nil(t, film.Compile(a, demo.Teardown(a)).Mechanism())
	m := mechanism.New(a, nil)
	assert.Empty(t, m.Problems)
}

// The label applicator has two closed loops and a cam, and goes on in the same way after each turn of its shaft.
func TestTheApplicatorRuns(t *testing.T) {
	a := demo.Applicator().Assembly
	r := demo.Labelling(a)
	require.NoError(t, reveal.Validate(r, a))
	f := film.Compile(a, r)
	require.Empty(t, f.Mechanism().Problems)
	require.Empty(t, f.Mechanism().Ends)
	joint := func(id assembly.JointID, s float64) float64 {
		v, ok := f.Joint(id, at(f, s))
		require.True(t, ok)
		return v
	}
	// 36 rev/min of the motor are 12 of the shaft: a turn takes 5 s.
	for _, id := range []assembly.JointID{"rocker", "stamp", "blade"} {
		assert.InDelta(t, joint(id, 10), joint(id, 15), 1e-6, id)
		assert.Greater(t, math.Abs(joint(id, 10)-joint(id, 12)), 1.0, "%s moves", id)
	}
	assert.InDelta(t, joint("motor", 10)/3, joint("main", 10), 1e-9)
}

func TestWhatIsDrivenIsKnown(t *testing.T) {
	a := demo.Applicator().Assembly
	f := film.Compile(a, demo.Labelling(a))
	assert.ElementsMatch(t, []assembly.NodeID{
		"motor-drive", "main-shaft", "coupler", "rocker-arm", "stamp-rod", "stamp", "peeling-blade",
	}, f.DrivenNodes())
	assert.Empty(t, film.Compile(a, reveal.New("empty", reveal.Camera{Distance: 100, FocalLength: 50})).DrivenNodes())
}
