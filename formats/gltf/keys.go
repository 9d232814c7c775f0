package gltf

import (
	"context"
	"math"
	"slices"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// keys are the moments at which a film is sampled, and what it shows then.
type keys struct {
	film   *film.Film
	a      *assembly.Assembly
	frame  *film.Frame
	radius []float64 // by node: how far its parts reach from its origin, mm
	times  []reveal.Micros
	shown  []moment
}

// moment is a frame: poses as nodes have them relative to their parents, mm.
type moment struct {
	local   []assembly.Pose
	opacity []float64
	tint    []film.Tint
	eye     assembly.Pose
	lens    float64
	// parallel says that lines of sight are; then high is half of what is seen upwards, mm.
	parallel bool
	high     float64
	away     float64 // from the eye to what it looks at, mm
}

// The errors that are allowed between two keys: they add up along nested nodes. What is left out when keys are
// thinned adds the second.
const (
	nodeError = 0.002  // mm
	thinError = 0.0055 // mm
	eyeThin   = 4e-5
	eyeError  = 1e-5 // of the distance to what is looked at
	lensError = 1e-4 // of the focal length
	fadeError = 1.0 / 512
	// finest is the least time between keys: what jumps, jumps in it.
	finest = reveal.Second / 2000
	widest = reveal.Second / 5
)

func newKeys(a *assembly.Assembly, f *film.Film) *keys {
	k := &keys{film: f, a: a, frame: f.NewFrame(), radius: make([]float64, len(a.Nodes))}
	boxes, worlds := a.BoundsOf(), a.Worlds()
	for i := range a.Nodes {
		for c := range 8 {
			if corner := boxes[i].Corner(c); !math.IsInf(corner.X, 0) {
				k.radius[i] = max(k.radius[i], r3.Norm(r3.Sub(corner, worlds[i].T)))
			}
		}
	}
	return k
}

// at returns what the film shows at t.
func (k *keys) at(t reveal.Micros) moment {
	k.film.At(t, k.frame)
	fr := k.frame
	m := moment{
		local:    make([]assembly.Pose, len(k.a.Nodes)),
		opacity:  slices.Clone(fr.Opacity),
		tint:     slices.Clone(fr.Tint),
		eye:      assembly.PoseOf(film.Eye(fr.Camera)),
		lens:     fr.Camera.FocalLength,
		away:     fr.Camera.Distance,
		parallel: fr.Camera.Orthographic,
	}
	_, up := film.Field(fr.Camera.FocalLength, k.aspect())
	m.high = fr.Camera.Distance * up
	for i := range k.a.Nodes {
		world := fr.World[i]
		if p := k.a.Nodes[i].Parent; p >= 0 {
			above := fr.World[p].Inverse()
			world = above.Mul(&fr.World[i])
		}
		m.local[i] = assembly.PoseOf(world)
	}
	return m
}

// sample finds the keys: between two of them everything runs straight enough.
func (k *keys) sample(ctx context.Context) error {
	marks := map[reveal.Micros]bool{0: true, k.film.Duration(): true}
	for _, b := range k.film.Schedule.Bars {
		marks[b.Start], marks[b.Start+b.Duration] = true, true
	}
	for t := reveal.Micros(0); t < k.film.Duration(); t += widest {
		marks[t] = true
	}
	var list []reveal.Micros
	for t := range marks {
		if t >= 0 && t <= k.film.Duration() {
			list = append(list, t)
		}
	}
	slices.Sort(list)
	k.times, k.shown = []reveal.Micros{list[0]}, []moment{k.at(list[0])}
	for _, t := range list[1:] {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		k.between(t, k.at(t))
	}
	return nil
}

// between adds keys up to and with t.
func (k *keys) between(t reveal.Micros, then moment) {
	from, first := k.times[len(k.times)-1], k.shown[len(k.shown)-1]
	if t-from > finest && !k.straight(from, t, &first, &then) {
		middle := (from + t) / 2
		k.between(middle, k.at(middle))
		k.between(t, then)
		return
	}
	k.times, k.shown = append(k.times, t), append(k.shown, then)
}

func (k *keys) straight(from, to reveal.Micros, a, b *moment) bool {
	for _, u := range []float64{0.25, 0.5, 0.75} {
		m := k.at(from + reveal.Micros(u*float64(to-from)))
		u = math.Round(u*float64(to-from)) / float64(to-from)
		for i := range m.local {
			if !near(&a.local[i], &b.local[i], &m.local[i], u, nodeError, nodeError/max(k.radius[i], 1)) ||
				math.Abs(a.opacity[i]+(b.opacity[i]-a.opacity[i])*u-m.opacity[i]) > fadeError ||
				!tintNear(&a.tint[i], &b.tint[i], &m.tint[i], u) {
				return false
			}
		}
		allowed := eyeError * k.frame.Camera.Distance
		if !near(&a.eye, &b.eye, &m.eye, u, allowed, eyeError) ||
			math.Abs(a.lens+(b.lens-a.lens)*u-m.lens) > lensError*m.lens ||
			math.Abs(a.high+(b.high-a.high)*u-m.high) > lensError*m.high {
			return false
		}
	}
	return true
}

// aspect is that of the reveal's frame.
func (k *keys) aspect() float64 {
	return float64(k.film.Reveal.Frame.Width) / float64(k.film.Reveal.Frame.Height)
}

// tintNear reports whether a surface of any colour, tinted by what lies between a and b at
// u, looks as tinted by m.
func tintNear(a, b, m *film.Tint, u float64) bool {
	if *a == *m && *b == *m {
		return true
	}
	for _, under := range []space.Vec3{{}, {1, 1, 1}} {
		x, y, z := a.Over(under), b.Over(under), m.Over(under)
		for k := range 3 {
			if math.Abs(x[k]+(y[k]-x[k])*u-z[k]) > fadeError {
				return false
			}
		}
	}
	return true
}

// near reports whether the pose between a and b at u is m.
func near(a, b, m *assembly.Pose, u, mm, rad float64) bool {
	for k := range 3 {
		if math.Abs(a.Move[k]+(b.Move[k]-a.Move[k])*u-m.Move[k]) > mm {
			return false
		}
	}
	q := space.Slerp(a.Turn, b.Turn, u)
	dot := 0.0
	for k := range 4 {
		dot += q[k] * m.Turn[k]
	}
	return 2*math.Sqrt(max(0, 1-dot*dot)) <= rad
}
