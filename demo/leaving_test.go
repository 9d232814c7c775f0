package demo_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/demo"
)

// pulledOff pulls a part to the front, from 4 s on for 2 s, and takes it off what drives it.
func pulledOff(id reveal.CueID, at float64, how reveal.Leaving, targets ...assembly.NodeID) reveal.Cue {
	return reveal.Cue{
		ID: id, Kind: reveal.KindPull, Targets: targets, Offset: reveal.Micros(at * 1e6), Duration: 2 * reveal.Second,
		Easing: reveal.Linear, Leaves: how,
		Pull: &reveal.Pull{Axes: reveal.ParentAxes, Along: space.Vec3{0, 0, 1}, Distance: 100},
	}
}

const (
	rotor   = "pump-head/rotor"
	roller  = "pump-head/rotor/roller"
	carrier = "planet-stage/carrier-and-shaft"
	sun     = "planet-stage/sun-gear-12-teeth"
	planet  = "planet-stage/planet-gear-18-teeth"
)

// angle is how far a node has turned about Z, degrees, −180…180.
func angle(f *film.Film, fr *film.Frame, id assembly.NodeID) float64 {
	r := &fr.World[f.Assembly.Index()[id]].R
	return math.Atan2(r[3], r[0]) * 180 / math.Pi
}

// running is the motor at 60 rev/min: the carrier, and the rotor with it, turns by 72° in a second.
func running(t *testing.T, cues ...reveal.Cue) *film.Film {
	return driving(t, append([]reveal.Cue{drive(0, 10, reveal.Drive{Speed: new(60.0), Ongoing: true})}, cues...)...)
}

// turned is by how much something turns from one time to another, to −180…180.
func turned(f *film.Film, id assembly.NodeID, from, to float64) float64 {
	a, b := f.NewFrame(), f.NewFrame()
	f.At(reveal.Micros(from*1e6), a)
	f.At(reveal.Micros(to*1e6), b)
	return math.Remainder(angle(f, b, id)-angle(f, a, id), 360)
}

func TestWhatIsPulledOffLeavesTheChain(t *testing.T) {
	on := running(t, pulledOff("off", 4, "", rotor))
	assert.InDelta(t, 72, math.Abs(turned(on, rotor, 5, 6)), 1e-6, "it goes on where nothing is said")
	assert.Empty(t, on.Stopped("b"))

	off := running(t, pulledOff("off", 4, reveal.LeavesStopping, rotor))
	assert.InDelta(t, 72, math.Abs(turned(off, rotor, 2, 3)), 1e-6)
	assert.InDelta(t, 0, turned(off, rotor, 4.5, 7), 1e-9)
	assert.InDelta(t, 72, math.Abs(turned(off, carrier, 5, 6)), 1e-6, "what drove it goes on")
	assert.InDelta(t, 0, turned(off, roller, 4.5, 7), 1e-9, "its rollers roll on nothing")
	assert.Empty(t, off.Stopped("b"), "it drove nothing but what leaves with it")
	before, after := off.NewFrame(), off.NewFrame()
	off.At(4_000_000-1, before)
	off.At(4_000_000, after)
	for i := range off.Assembly.Nodes {
		assert.Less(t, r3.Norm(r3.Sub(before.World[i].T, after.World[i].T)), 1e-3, "nothing jumps")
		for k := range before.World[i].R {
			assert.InDelta(t, before.World[i].R[k], after.World[i].R[k], 1e-4, off.Assembly.Nodes[i].ID)
		}
	}
}

// A part that coasts comes to a stop by the end of its movement: it goes half as far as it would have gone; one that runs
// on keeps its speed.
func TestWhatIsPulledOffCoastsOrRuns(t *testing.T) {
	coasts := running(t, pulledOff("off", 4, reveal.LeavesCoasting, rotor))
	assert.InDelta(t, 72*2/2, math.Abs(turned(coasts, rotor, 4, 6)), 1e-3)
	assert.InDelta(t, 0, turned(coasts, rotor, 6, 8), 1e-9)
	assert.Equal(t, math.Signbit(turned(coasts, rotor, 3, 4)), math.Signbit(turned(coasts, rotor, 4, 6)))
	runs := running(t, pulledOff("off", 4, reveal.LeavesRunning, rotor))
	assert.InDelta(t, turned(coasts, rotor, 3, 4), turned(runs, rotor, 7, 8), 1e-3)
	stop := driving(
		t,
		drive(0, 3, reveal.Drive{Speed: new(60.0)}),
		drive(3.9, 0.05, reveal.Drive{By: new(0.0)}),
		pulledOff("off", 5, reveal.LeavesRunning, rotor),
	)
	assert.InDelta(t, 0, turned(stop, rotor, 5, 7), 1e-9, "it stood still when it left")
}

// What a part drove stops when it leaves, and is named.
func TestWhatItDroveStops(t *testing.T) {
	f := running(t, pulledOff("off", 4, reveal.LeavesStopping, carrier))
	assert.InDelta(t, 0, turned(f, rotor, 4.5, 7), 1e-9)
	assert.InDelta(t, 0, turned(f, planet, 4.5, 7), 1e-9)
	assert.NotZero(t, turned(f, sun, 5, 5.25))
	stopped := f.Stopped("b")
	assert.Contains(t, stopped, assembly.NodeID(rotor))
	assert.Contains(t, stopped, assembly.NodeID(planet))
	assert.NotContains(t, stopped, assembly.NodeID(sun))
	assert.NotContains(t, stopped, assembly.NodeID(carrier))

	// The rotor has left before, running: what leaves after it does not change that.
	f = running(
		t,
		pulledOff("first", 2, reveal.LeavesRunning, rotor),
		pulledOff("off", 5, reveal.LeavesStopping, carrier),
	)
	assert.InDelta(t, turned(f, rotor, 3, 4), turned(f, rotor, 6, 7), 1e-6)
	assert.InDelta(t, 0, turned(f, planet, 6, 8), 1e-9)
}

// Run backwards everything comes home to the bit, and a moment depends on its time alone.
func TestWhatHasLeftComesBack(t *testing.T) {
	a := demo.Pump().Assembly
	r := reveal.New("back", reveal.Camera{Orientation: space.NoRotation, Distance: 400, FocalLength: 50})
	r.Steps = []reveal.Step{
		{ID: "on", Duration: 6 * reveal.Second, Cues: []reveal.Cue{
			drive(
				0,
				6,
				reveal.Drive{Speed: new(45.0), RunUp: reveal.Second},
			), pulledOff("off", 3, reveal.LeavesCoasting, rotor),
		}},
		{ID: "back", Duration: 3 * reveal.Second, Retrace: &reveal.Retrace{Steps: []reveal.StepID{"on"}}},
		{ID: "rest", Duration: reveal.Second},
	}
	r.Steps[0].Cues[0].ID, r.Steps[0].Cues[0].Easing = "on", reveal.Linear
	require.NoError(t, reveal.Validate(r, a))
	f := film.Compile(a, r)
	home, end := f.NewFrame(), f.NewFrame()
	f.At(0, home)
	f.At(f.Duration(), end)
	assert.Equal(t, home.World, end.World)
	// Just before and after it has come back it stands alike: the motor has gone back as far.
	f.At(7_500_000-20, home)
	f.At(7_500_000+20, end)
	for i := range a.Nodes {
		for k := range home.World[i].R {
			assert.InDelta(t, home.World[i].R[k], end.World[i].R[k], 2e-2, a.Nodes[i].ID)
		}
	}
	chance := rand.New(rand.NewPCG(9, 9))
	alone := f.NewFrame()
	for range 60 {
		at := reveal.Micros(chance.Int64N(int64(f.Duration())))
		f.At(at, end)
		fresh := f.NewFrame()
		f.At(at, fresh)
		f.At(at, alone)
		require.Equal(t, fresh.World, end.World)
		require.Equal(t, fresh.World, alone.World)
	}
}

// A proof's bounds hold where parts leave: no point strays farther from its straight line than its arc says.
func TestArcsHoldWhereAPartLeaves(t *testing.T) {
	chance := rand.New(rand.NewPCG(3, 3))
	for _, how := range []reveal.Leaving{reveal.LeavesStopping, reveal.LeavesCoasting, reveal.LeavesRunning} {
		f := running(t, pulledOff("off", 4.3, how, rotor))
		index := f.Assembly.Index()
		fr := f.NewFrame()
		for _, pair := range [][2]assembly.NodeID{
			{"pump-head/rotor-cover", "pump-head/rotor/rotor-hub"}, {"pump-head/track-block", roller}, {carrier, "pump-head/rotor/rotor-plate-back"},
			{roller, planet}, {"housing/hood", planet},
		} {
			g := f.Against(index[pair[0]], index[pair[1]])
			require.NotNil(t, g, "%v", pair)
			turns := g.Turns()
			looked := 0
			for i := 1; i < len(turns); i++ {
				from, to := turns[i-1], turns[i]
				arc := g.Arc(from, to)
				for range 4 {
					at := from + (to-from)*chance.Float64()
					f.At(reveal.Micros(at), fr)
					inverse := fr.World[index[pair[0]]].Inverse()
					want, got := inverse.Mul(&fr.World[index[pair[1]]]), g.At(math.Floor(at))
					for k := range want.R {
						require.InDelta(t, want.R[k], got.R[k], 1e-7, "%s: %v at %f", how, pair, at)
					}
					p := space.Vec{
						X: 20*chance.Float64() - 10,
						Y: 20*chance.Float64() - 10,
						Z: 20*chance.Float64() - 10,
					}
					if strays := arc.Strays(p); !math.IsInf(strays, 1) {
						looked++
						a, b, now := arc.From.Apply(p), arc.To.Apply(p), got.Apply(p)
						assert.Less(
							t,
							offLine(now, a, b),
							strays+1e-6,
							"%s: %v from %f to %f at %f",
							how,
							pair,
							from,
							to,
							at,
						)
					}
				}
			}
			assert.Greater(t, looked, 20, "%v", pair)
		}
	}
}

// offLine is how far a point is from the line between two others.
func offLine(p, a, b space.Vec) float64 {
	d := r3.Sub(b, a)
	share := 0.0
	if n := r3.Dot(d, d); n > 0 {
		share = max(0, min(1, r3.Dot(r3.Sub(p, a), d)/n))
	}
	return r3.Norm(r3.Sub(p, r3.Add(a, r3.Scale(share, d))))
}
