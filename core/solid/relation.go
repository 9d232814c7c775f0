package solid

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/space"
)

// Relation is how two features stand to each other.
type Relation struct {
	// Distance is between parallel planes, or between axes and edges seen as
	// endless lines, mm; meaningless when Meet is true.
	Distance float64 `json:"distance"`
	// Degrees is the angle between planes, lines, or a line and a plane, 0…90.
	Degrees float64 `json:"degrees"`
	// Meet says that they run into each other, so that there is an angle but
	// no distance.
	Meet bool `json:"meet"`
	// From and To are where the distance is taken, in the world.
	From space.Vec3 `json:"from"`
	To   space.Vec3 `json:"to"`
}

// parallelAngle is the angle in degrees up to which directions count as the
// same: facets and 32-bit numbers are not better than that.
const parallelAngle = 0.05

// Moved returns the feature after a motion.
func (f Feature) Moved(m *space.Rigid) Feature {
	f.Centre, f.Axis = space.Vec3Of(m.Apply(f.Centre.Vec())), space.Vec3Of(m.R.Apply(f.Axis.Vec()))
	return f
}

// LineAt returns the index of the straight edge that passes nearest to a point,
// −1 when none comes within a distance. All in one frame, mm.
func LineAt(features []Feature, p space.Vec, within float64) int {
	best := -1
	for i := range features {
		f := &features[i]
		if f.Kind != Line {
			continue
		}
		d := r3.Sub(p, f.Centre.Vec())
		along := max(-f.Length/2, min(r3.Dot(d, f.Axis.Vec()), f.Length/2))
		if off := r3.Norm(r3.Sub(d, r3.Scale(along, f.Axis.Vec()))); off <= within {
			best, within = i, off
		}
	}
	return best
}

// Between returns how two features, both in the world, stand to each other.
func Between(a, b Feature) Relation {
	if b.Kind == Plane && a.Kind != Plane {
		r := Between(b, a)
		r.From, r.To = r.To, r.From
		return r
	}
	u, v, from := a.Axis.Vec(), b.Axis.Vec(), a.Centre.Vec()
	d := r3.Sub(b.Centre.Vec(), from)
	angle := math.Atan2(r3.Norm(r3.Cross(u, v)), math.Abs(r3.Dot(u, v))) * 180 / math.Pi
	switch {
	case a.Kind == Plane:
		if b.Kind != Plane {
			angle = 90 - angle
		}
		if angle > parallelAngle {
			return Relation{Degrees: angle, Meet: true, From: a.Centre, To: b.Centre}
		}
		along := r3.Dot(u, d)
		return Relation{
			Distance: math.Abs(along),
			From:     space.Vec3Of(r3.Sub(b.Centre.Vec(), r3.Scale(along, u))),
			To:       b.Centre,
		}
	case angle <= parallelAngle:
		off := r3.Sub(d, r3.Scale(r3.Dot(d, u), u))
		return Relation{Distance: r3.Norm(off), From: space.Vec3Of(r3.Sub(b.Centre.Vec(), off)), To: b.Centre}
	}
	// The common perpendicular of two lines.
	n := r3.Unit(r3.Cross(u, v))
	gap := r3.Dot(d, n)
	across := r3.Cross(v, n)
	s := r3.Dot(d, across) / r3.Dot(u, across)
	p := r3.Add(from, r3.Scale(s, u))
	r := Relation{
		Distance: math.Abs(gap),
		Degrees:  angle,
		From:     space.Vec3Of(p),
		To:       space.Vec3Of(r3.Add(p, r3.Scale(gap, n))),
	}
	r.Meet = r.Distance < 1e-3
	return r
}
