package mechanism_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/core/mechanism"
	"slowreveal/core/space"
)

// bench is an assembly of boxes, all with their frames in the world, for joints between them.
type bench struct{ assembly.Assembly }

func newBench(bodies ...string) *bench {
	b := &bench{}
	b.Nodes = []assembly.Node{{ID: "frame", Name: "frame", Parent: -1, Shape: -1, Pose: here}}
	b.Shapes = []assembly.ShapeRef{{Hash: "box", Min: space.Vec3{-50, -50, -50}, Max: space.Vec3{50, 50, 50}}}
	for _, id := range bodies {
		b.Nodes = append(b.Nodes, assembly.Node{ID: assembly.NodeID(id), Name: id, Shape: 0, Pose: here})
	}
	return b
}

var here = assembly.PoseOf(space.Identity)

func (b *bench) joint(id string, kind assembly.JointKind, body, base string, axis, point space.Vec3) *assembly.Joint {
	b.Joints = append(b.Joints, assembly.Joint{
		ID: assembly.JointID(id), Name: id, Kind: kind,
		Body: assembly.NodeID(body), Base: assembly.NodeID(base), Axis: axis, Point: point,
	})
	return &b.Joints[len(b.Joints)-1]
}

func (b *bench) couple(c assembly.Coupling) { b.Couplings = append(b.Couplings, c) }

// driven makes a mechanism that one joint drives, and a way to ask it for the values of others.
func (b *bench) driven(
	t *testing.T,
	by string,
	from, to float64,
) (*mechanism.Mechanism, func(value float64, of ...string) []float64) {
	t.Helper()
	require.NoError(t, b.Check())
	m := mechanism.New(&b.Assembly, []mechanism.Driver{{Joint: assembly.JointID(by), From: from, To: to}})
	s := m.NewState()
	return m, func(value float64, of ...string) (list []float64) {
		m.At([]float64{value}, s)
		assert.LessOrEqual(t, m.Open(s), 1e-9*100*math.Sqrt(3), "at %v", value)
		for _, id := range of {
			v, ok := m.Value(assembly.JointID(id), s)
			require.True(t, ok, id)
			list = append(list, v)
		}
		return list
	}
}

var (
	x = space.Vec3{1, 0, 0}
	y = space.Vec3{0, 1, 0}
	z = space.Vec3{0, 0, 1}
)

// sliderCrank has a crank of r on the origin that stands at an angle at rest, and a rod of l to a slider on the x axis.
func sliderCrank(r, l, rest float64) *bench {
	b := newBench("crank", "rod", "slider")
	s, c := math.Sincos(rest * math.Pi / 180)
	at := r*c + math.Sqrt(l*l-r*r*s*s)
	b.joint("shaft", assembly.Revolute, "crank", "frame", z, space.Vec3{})
	b.joint("pin", assembly.Revolute, "rod", "crank", z, space.Vec3{r * c, r * s, 0})
	b.joint("gudgeon", assembly.Revolute, "slider", "rod", z, space.Vec3{at, 0, 0})
	b.joint("guide", assembly.Prismatic, "slider", "frame", x, space.Vec3{at, 0, 0})
	return b
}

// x = r cos θ + √(l² − r² sin² θ): any textbook on machines.
func TestASliderCrank(t *testing.T) {
	const r, l, rest = 12.0, 40.0, 25.0
	m, ask := sliderCrank(r, l, rest).driven(t, "shaft", -500, 2000)
	require.Empty(t, m.Problems)
	require.Empty(t, m.Ends)
	place := func(angle float64) float64 {
		s, c := math.Sincos(angle * math.Pi / 180)
		return r*c + math.Sqrt(l*l-r*r*s*s)
	}
	for v := -500.0; v <= 2000; v += 7.3 {
		assert.InDelta(t, place(rest+v)-place(rest), ask(v, "guide")[0], 1e-9, "at %v", v)
	}
}

// Freudenstein 1955: K₁ cos φ − K₂ cos θ + K₃ = cos(θ − φ), with links a, b, c on a frame of d along x.
func TestAFourBarLinkage(t *testing.T) {
	const a, b, c, d = 20.0, 55.0, 40.0, 60.0
	require.LessOrEqual(t, a+d, b+c, "Grashof's rule: the shortest link turns fully")
	m, ask := fourBar(a, b, c, d, 70, 1).driven(t, "crank", 0, 3600)
	require.Empty(t, m.Problems)
	require.Empty(t, m.Ends)
	k1, k2, k3 := d/a, d/c, (a*a-b*b+c*c+d*d)/(2*a*c)
	rest := rockerAngle(a, b, c, d, 70, 1)
	for v := 0.0; v <= 3600; v += 11.7 {
		theta, phi := (70+v)*math.Pi/180, (rest+ask(v, "rocker")[0])*math.Pi/180
		assert.InDelta(t, math.Cos(theta-phi), k1*math.Cos(phi)-k2*math.Cos(theta)+k3, 1e-9, "at %v", v)
	}
}

// rockerAngle is where the rocker stands: the intersection of two circles, on one side of the line between.
func rockerAngle(a, b, c, d, theta, side float64) float64 {
	s, k := math.Sincos(theta * math.Pi / 180)
	px, py := a*k, a*s
	ex, ey := d-px, -py
	e := math.Hypot(ex, ey)
	along := (b*b - c*c + e*e) / (2 * e)
	high := side * math.Sqrt(b*b-along*along)
	qx, qy := px+(along*ex-high*ey)/e, py+(along*ey+high*ex)/e
	return math.Atan2(qy, qx-d) * 180 / math.Pi
}

func fourBar(a, b, c, d, theta, side float64) *bench {
	m := newBench("crank", "coupler", "rocker")
	s, k := math.Sincos(theta * math.Pi / 180)
	phi := rockerAngle(a, b, c, d, theta, side) * math.Pi / 180
	m.joint("crank", assembly.Revolute, "crank", "frame", z, space.Vec3{})
	m.joint("knee", assembly.Revolute, "coupler", "crank", z, space.Vec3{a * k, a * s, 0})
	m.joint("elbow", assembly.Revolute, "coupler", "rocker", z, space.Vec3{d + c*math.Cos(phi), c * math.Sin(phi), 0})
	m.joint("rocker", assembly.Revolute, "rocker", "frame", z, space.Vec3{d, 0, 0})
	return m
}

// A link that cannot turn fully comes to its dead centre where the two others are in line: cosine rule.
func TestADeadCentreIsFoundAndNotJumped(t *testing.T) {
	const a, b, c, d = 50.0, 30.0, 40.0, 70.0
	require.Greater(t, b+d, a+c, "Grashof's rule: no link turns fully")
	m, ask := fourBar(a, b, c, d, 40, 1).driven(t, "crank", -400, 400)
	require.Len(t, m.Ends, 2)
	most := math.Acos((a*a+d*d-(b+c)*(b+c))/(2*a*d)) * 180 / math.Pi
	for _, e := range m.Ends {
		want := -most
		if e.Beyond {
			want = most
		}
		assert.InDelta(t, want-40, e.Value, 1e-3)
		assert.Equal(t, assembly.JointID("crank"), e.Joint)
	}
	assert.Equal(t, ask(most-40+1, "rocker"), ask(most-40+300, "rocker"), "it stands still beyond")
}

// tan θ₂ = tan θ₁ cos β: the Cardan joint between shafts at an angle.
func TestACardanJoint(t *testing.T) {
	beta := 35 * math.Pi / 180
	out := space.Vec3{math.Cos(beta), math.Sin(beta), 0}
	b := newBench("in", "out", "cross")
	b.joint("input", assembly.Revolute, "in", "frame", x, space.Vec3{})
	b.joint("output", assembly.Revolute, "out", "frame", out, space.Vec3{})
	b.joint("yoke", assembly.Revolute, "cross", "in", z, space.Vec3{})
	// The cross's other axis stands across both the first and the output.
	b.joint("fork", assembly.Revolute, "cross", "out", space.Vec3{-math.Sin(beta), math.Cos(beta), 0}, space.Vec3{})
	m, ask := b.driven(t, "input", 0, 720)
	require.Empty(t, m.Problems)
	for v := 0.0; v <= 720; v += 4.9 {
		got := ask(v, "output")[0] * math.Pi / 180
		turned := v * math.Pi / 180
		assert.InDelta(
			t,
			0,
			math.Sin(got)*math.Cos(turned)-math.Cos(got)*math.Sin(turned)*math.Cos(beta),
			1e-9,
			"at %v",
			v,
		)
	}
	assert.InDelta(t, 720, ask(720, "output")[0], 1e-9, "two turns are two turns")
}

// Willis: with the ring held, sun : carrier = 1 + z_r/z_s; sun 12, planets 18, ring 48 are 5 : 1.
func TestAPlanetaryTrain(t *testing.T) {
	b := planetary()
	m, ask := b.driven(t, "sun", 0, 1e5)
	require.Empty(t, m.Problems)
	for _, v := range []float64{30, 360, 1800, 12345.6} {
		got := ask(v, "carrier", "planet")
		assert.InDelta(t, v/5, got[0], 1e-9)
		assert.InDelta(t, -48.0/18*v/5, got[1], 1e-8, "the planet rolls in the ring")
	}
	_, ask = b.driven(t, "carrier", 0, 360)
	assert.InDelta(t, 5*360.0, ask(360, "sun")[0], 1e-9, "and the other way round")
}

func planetary() *bench {
	b := newBench("sun", "carrier", "planet", "ring")
	b.joint("sun", assembly.Revolute, "sun", "frame", z, space.Vec3{})
	b.joint("carrier", assembly.Revolute, "carrier", "frame", z, space.Vec3{})
	b.joint("planet", assembly.Revolute, "planet", "carrier", z, space.Vec3{15, 0, 0})
	b.joint("ring", assembly.Fixed, "ring", "frame", z, space.Vec3{})
	b.couple(assembly.Coupling{ID: "a", Kind: assembly.Gear, Joint: "planet", By: "sun", Sizes: [2]float64{18, 12}})
	b.couple(
		assembly.Coupling{
			ID:    "b",
			Kind:  assembly.Gear,
			Joint: "planet",
			By:    "ring",
			Sizes: [2]float64{18, 48},
			Inner: true,
		},
	)
	return b
}

func TestCouplings(t *testing.T) {
	b := newBench("spindle", "nut", "pinion", "rack", "pulley", "lever")
	b.joint("spindle", assembly.Revolute, "spindle", "frame", z, space.Vec3{})
	b.joint("nut", assembly.Prismatic, "nut", "frame", z, space.Vec3{})
	b.joint("pinion", assembly.Revolute, "pinion", "frame", space.Vec3{0, 0, -1}, space.Vec3{30, 0, 0})
	b.joint("rack", assembly.Prismatic, "rack", "frame", x, space.Vec3{30, 10, 0})
	b.joint("pulley", assembly.Revolute, "pulley", "frame", z, space.Vec3{0, 40, 0})
	b.joint("lever", assembly.Revolute, "lever", "frame", y, space.Vec3{0, 0, 5})
	b.couple(assembly.Coupling{ID: "1", Kind: assembly.Screw, Joint: "nut", By: "spindle", Ratio: 1.5})
	b.couple(assembly.Coupling{ID: "2", Kind: assembly.Gear, Joint: "pinion", By: "spindle", Sizes: [2]float64{20, 40}})
	b.couple(assembly.Coupling{ID: "3", Kind: assembly.Rack, Joint: "rack", By: "pinion", Sizes: [2]float64{0, 20}})
	b.couple(assembly.Coupling{ID: "4", Kind: assembly.Belt, Joint: "pulley", By: "spindle", Sizes: [2]float64{60, 30}})
	b.couple(assembly.Coupling{ID: "5", Kind: assembly.Ratio, Joint: "lever", By: "nut", Ratio: -4})
	m, ask := b.driven(t, "spindle", 0, 720)
	require.Empty(t, m.Problems)
	got := ask(720, "nut", "pinion", "rack", "pulley", "lever")
	assert.InDeltaSlice(t, []float64{
		3,                // advance = turns × lead (ISO 5408)
		1440,             // twice as fast; its axis points the other way, so that outer gears have the same sign
		math.Pi * 20 * 4, // s = π d in a revolution; its teeth move along +x at the top
		360,              // half as fast, the same way
		-12,              //
	}, got, 1e-9)
}

func TestACamGoesOnAfterARevolution(t *testing.T) {
	b := newBench("shaft", "follower")
	b.joint("shaft", assembly.Revolute, "shaft", "frame", z, space.Vec3{})
	b.joint("follower", assembly.Prismatic, "follower", "frame", y, space.Vec3{})
	var rows [][2]float64
	for v := 0.0; v <= 360; v += 5 {
		rows = append(rows, [2]float64{v, 4 * (1 - math.Cos(v*math.Pi/180))})
	}
	b.couple(assembly.Coupling{ID: "cam", Kind: assembly.Cam, Joint: "follower", By: "shaft", Table: rows})
	m, ask := b.driven(t, "shaft", -1000, 4000)
	require.Empty(t, m.Problems)
	for v := -1000.0; v <= 4000; v += 13.1 {
		assert.InDelta(t, 4*(1-math.Cos(v*math.Pi/180)), ask(v, "follower")[0], 2e-4, "at %v", v)
	}
	assert.InDelta(t, 8, ask(180, "follower")[0], 1e-12, "rows are kept")
}

// Parallel cranks are over-determined and have a change point: they stay parallel.
func TestParallelCranksStayParallel(t *testing.T) {
	b := newBench("one", "two", "three", "rod")
	for i, id := range []string{"one", "two", "three"} {
		at := space.Vec3{float64(30 * i), 0, 0}
		b.joint(id, assembly.Revolute, id, "frame", z, at)
		b.joint(id+" pin", assembly.Revolute, "rod", id, z, space.Vec3{at[0] + 8, 6, 0})
	}
	m, ask := b.driven(t, "one", 0, 2000)
	require.Empty(t, m.Problems)
	require.Empty(t, m.Ends)
	for v := 0.0; v <= 2000; v += 9.1 {
		assert.InDeltaSlice(t, []float64{v, v}, ask(v, "two", "three"), 1e-8, "at %v", v)
	}
}

// What is shown does not depend on what was shown before.
func TestAMomentDependsOnTheDriverAlone(t *testing.T) {
	b := sliderCrank(12, 40, 25)
	m := mechanism.New(&b.Assembly, []mechanism.Driver{{Joint: "shaft", From: 0, To: 3000}})
	forwards, jumping := m.NewState(), m.NewState()
	r := rand.New(rand.NewPCG(1, 2))
	for v := 0.0; v < 3000; v += 17 {
		m.At([]float64{r.Float64() * 3000}, jumping)
		m.At([]float64{v}, forwards)
		m.At([]float64{v}, jumping)
		require.Equal(t, forwards.Moved, jumping.Moved)
	}
}

// The derivatives against central differences: velocities of the slider.
func TestVelocitiesAreSmooth(t *testing.T) {
	const r, l = 12.0, 40.0
	_, ask := sliderCrank(r, l, 0.001).driven(t, "shaft", 0, 400)
	for v := 5.0; v < 395; v += 6.1 {
		const h = 1e-3
		got := (ask(v+h, "guide")[0] - ask(v-h, "guide")[0]) / (2 * h)
		s, c := math.Sincos((v + 0.001) * math.Pi / 180)
		want := (-r*s - r*r*s*c/math.Sqrt(l*l-r*r*s*s)) * math.Pi / 180
		assert.InDelta(t, want, got, 1e-6, "at %v", v)
	}
}

func TestWhatIsWrongIsTold(t *testing.T) {
	b := planetary()
	b.couple(assembly.Coupling{ID: "c", Name: "wrong", Kind: assembly.Ratio, Joint: "carrier", By: "sun", Ratio: 3})
	m := mechanism.New(&b.Assembly, []mechanism.Driver{{Joint: "sun", To: 360}, {Joint: "carrier", To: 360}})
	require.NotEmpty(t, m.Problems)

	b = newBench("a", "b")
	b.joint("turns", assembly.Revolute, "a", "b", z, space.Vec3{})
	b.joint("floats", assembly.Revolute, "b", "a", z, space.Vec3{})
	m = mechanism.New(&b.Assembly, []mechanism.Driver{{Joint: "turns", To: 10}})
	require.NotEmpty(t, m.Problems)
	assert.Contains(t, m.Problems[0].Text, "Nothing holds")

	b = sliderCrank(12, 40, 25)
	m = mechanism.New(&b.Assembly, []mechanism.Driver{{Joint: "shaft", To: 10}, {Joint: "guide", To: 5}})
	s := m.NewState()
	m.At([]float64{10, 5}, s)
	require.NotEmpty(t, m.Problems, "two drivers of one freedom")
	assert.Contains(t, m.Problems[0].Text, "not driven twice")
	assert.LessOrEqual(t, m.Open(s), 1e-7, "the rest goes on")
}

func TestAnEvaluationAllocatesNothing(t *testing.T) {
	b := sliderCrank(12, 40, 25)
	m := mechanism.New(&b.Assembly, []mechanism.Driver{{Joint: "shaft", To: 720}})
	s, values := m.NewState(), []float64{100}
	assert.Zero(t, testing.AllocsPerRun(100, func() { m.At(values, s) }))
}

// BenchmarkAt has 200 driven bodies and 12 closed loops.
func BenchmarkAt(b *testing.B) {
	c := newBench()
	var drivers []mechanism.Driver
	for i := range 12 {
		one := sliderCrank(12, 40, 25)
		name := func(s string) string { return s + string(rune('a'+i)) }
		for _, n := range one.Nodes[1:] {
			c.Nodes = append(
				c.Nodes,
				assembly.Node{ID: assembly.NodeID(name(n.Name)), Name: n.Name, Shape: 0, Pose: here},
			)
		}
		for _, j := range one.Joints {
			base := "frame"
			if j.Base != "frame" {
				base = name(string(j.Base))
			}
			c.joint(name(string(j.ID)), j.Kind, name(string(j.Body)), base, j.Axis, j.Point)
		}
		drivers = append(drivers, mechanism.Driver{Joint: assembly.JointID(name("shaft")), To: 7200})
	}
	for i := range 164 {
		name := "gear" + string(rune('A'+i))
		c.Nodes = append(c.Nodes, assembly.Node{ID: assembly.NodeID(name), Name: name, Shape: 0, Pose: here})
		c.joint(name, assembly.Revolute, name, "frame", z, space.Vec3{float64(i), 0, 0})
		c.couple(
			assembly.Coupling{
				ID:    assembly.JointID("c" + name),
				Kind:  assembly.Gear,
				Joint: assembly.JointID(name),
				By:    "shafta",
				Sizes: [2]float64{12, 18},
			},
		)
	}
	require.NoError(b, c.Check())
	m := mechanism.New(&c.Assembly, drivers)
	require.Empty(b, m.Problems)
	s, values := m.NewState(), make([]float64, len(drivers))
	b.ReportAllocs()
	v := 0.0
	for b.Loop() {
		v += 1.7
		for i := range values {
			values[i] = math.Mod(v+float64(i), 7200)
		}
		m.At(values, s)
	}
}

func BenchmarkNew(b *testing.B) {
	c := sliderCrank(12, 40, 25)
	for b.Loop() {
		mechanism.New(&c.Assembly, []mechanism.Driver{{Joint: "shaft", To: 7200}})
	}
}

// After the least common multiple of what turns: sun 12, planets 18, ring 48: the carrier makes 1/5 of the sun's turns, a
// planet −48/18 of the carrier's.
func TestThePeriodIsTheLeastCommonMultiple(t *testing.T) {
	b := planetary()
	m, _ := b.driven(t, "sun", 0, 360)
	period, ok := m.Period(0)
	require.True(t, ok)
	assert.Equal(t, 360.0*15, period, "5 turns for one of the carrier, 3 of those for the planets")

	m, _ = sliderCrank(12, 40, 25).driven(t, "shaft", 0, 3600)
	period, ok = m.Period(0)
	require.True(t, ok)
	assert.Equal(t, 360.0, period)

	b = newBench("spindle", "nut")
	b.joint("spindle", assembly.Revolute, "spindle", "frame", z, space.Vec3{})
	b.joint("nut", assembly.Prismatic, "nut", "frame", z, space.Vec3{})
	b.couple(assembly.Coupling{ID: "1", Kind: assembly.Screw, Joint: "nut", By: "spindle", Ratio: 1.5})
	m, _ = b.driven(t, "spindle", 0, 720)
	_, ok = m.Period(0)
	assert.False(t, ok, "a nut slides on and on")
}
