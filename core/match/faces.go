package match

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/assembly"
	"slowreveal/core/solid"
	"slowreveal/core/space"
)

// Faces finds again what was pointed at on parts that have another shape now.
type Faces map[assembly.NodeID]reshaped

// reshaped are the shapes of a part in the revision before and in the new one.
type reshaped struct{ before, now *solid.Shape }

const (
	onFace   = 0.02 // mm: a point that lies on a face
	sameWay  = 0.7  // the cosine of the angle by which a face may have turned
	farthest = 0.25 // of the part's size: what is farther away is another face
	bored    = 0.02 // mm: an axis that is a bore's, or a shaft's
)

// Faces are the parts of an outcome that have another shape.
func (o *Outcome) Faces(old, new Side) Faces {
	f := Faces{}
	for i := range o.Pairs {
		p := &o.Pairs[i]
		a, b := &old.Assembly.Nodes[p.old], &new.Assembly.Nodes[p.new]
		if !a.IsPart() || !b.IsPart() || old.Assembly.Shapes[a.Shape].Hash == new.Assembly.Shapes[b.Shape].Hash {
			continue
		}
		r := reshaped{old.Shapes[a.Shape], new.Shapes[b.Shape]}
		if p.same && r3.Norm(r3.Sub(r.before.Bounds.Min, r.now.Bounds.Min)) < onFace {
			continue // only its triangles are others
		}
		f[p.Old] = r
	}
	return f
}

// Point finds a point of a part again, in the part's own frame, mm: on the face that looks the same way and is nearest
// to where the point was, or, where the part has grown, to where it is in the same share of the box. moved is by how much
// it has gone; ok is false where there is no such face nearby. Parts that have the shape that they had keep their points.
func (f Faces) Point(id assembly.NodeID, at space.Vec3) (now space.Vec3, moved float64, ok bool) {
	r, changed := f[id]
	if !changed {
		return at, 0, true
	}
	p := at.Vec()
	_, normal, off := r.before.NearestFacing(p, space.Vec{}, -1)
	size := r3.Norm(r.now.Bounds.Size())
	if off > farthest*size { // it pointed beside the part
		return at, 0, true
	}
	best, far := p, math.Inf(1)
	for _, from := range []space.Vec{p, inShare(p, r.before.Bounds, r.now.Bounds)} {
		point, _, d := r.now.NearestFacing(from, normal, sameWay)
		if d < far-onFace {
			best, far = point, d
		}
	}
	if far > farthest*size {
		return at, 0, false
	}
	if moved = r3.Norm(r3.Sub(best, p)); moved <= max(onFace, off) {
		return at, 0, true
	}
	return space.Vec3Of(best).Rounded(1e4), moved, true
}

// inShare is the point of a box that is where another one is in its own.
func inShare(p space.Vec, before, now space.Box) space.Vec {
	of := func(v, low, high, newLow, newHigh float64) float64 {
		if high-low < 1e-9 {
			return newLow
		}
		return newLow + (v-low)/(high-low)*(newHigh-newLow)
	}
	return space.Vec{
		X: of(p.X, before.Min.X, before.Max.X, now.Min.X, now.Max.X),
		Y: of(p.Y, before.Min.Y, before.Max.Y, now.Min.Y, now.Max.Y),
		Z: of(p.Z, before.Min.Z, before.Max.Z, now.Min.Z, now.Max.Z),
	}
}

// Axis finds the axis of a joint again that is that of a bore or a shaft of its body: of those of the new shape along
// the same direction the nearest, of one radius the sooner. ok is false where the axis was a bore's, or a shaft's, and
// there is none nearby any more.
func (f Faces) Axis(id assembly.NodeID, point, axis space.Vec3) (now space.Vec3, moved float64, ok bool) {
	r, changed := f[id]
	way, long := space.Normalize(axis.Vec())
	if !changed || !long {
		return point, 0, true
	}
	p := point.Vec()
	radius := -1.0
	for _, c := range cylinders(r.before, way) {
		if acrossOf(r3.Sub(c.Centre.Vec(), p), way) < bored {
			radius = max(radius, c.Radius)
		}
	}
	if radius < 0 {
		return point, 0, true
	}
	least, best := math.Inf(1), p
	for _, c := range cylinders(r.now, way) {
		off := acrossOf(r3.Sub(c.Centre.Vec(), p), way)
		if score := off + math.Abs(c.Radius-radius); score < least {
			d := r3.Sub(c.Centre.Vec(), p)
			least, best = score, r3.Add(p, r3.Sub(d, r3.Scale(r3.Dot(d, way), way)))
		}
	}
	if moved = r3.Norm(r3.Sub(best, p)); least > farthest*r3.Norm(r.now.Bounds.Size()) {
		return point, 0, false
	}
	if moved < bored {
		return point, 0, true
	}
	return space.Vec3Of(best).Rounded(1e7), moved, true
}

// cylinders are the round faces of a shape about axes along a way.
func cylinders(s *solid.Shape, way space.Vec) (list []solid.Feature) {
	for _, c := range s.Features().List {
		if c.Kind == solid.Cylinder && math.Abs(r3.Dot(c.Axis.Vec(), way)) > 0.9998 {
			list = append(list, c)
		}
	}
	return list
}

// acrossOf is how long a vector is across a way.
func acrossOf(d, way space.Vec) float64 {
	return r3.Norm(r3.Sub(d, r3.Scale(r3.Dot(d, way), way)))
}
