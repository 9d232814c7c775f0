package render

import (
	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// viewCamera is the camera of a view. Where the lines of sight are parallel,
// points are bent in such a way that seeing them from the eye gives the parallel
// picture: a projective change of space, which keeps planes and straight lines, so
// that everything behind it is one path.
type viewCamera struct {
	eye        space.Rigid // camera → world
	tanH, tanV float64
	parallel   bool
	distance   float64 // to what is looked at, mm; 0 unless parallel
	depth      float64 // 1/z grows by 1/distance over this, mm
}

// parallelDepth is how many diagonals of the assembly a parallel picture's depth
// reaches: much, so that bent triangles stay nearly what they were, and little
// enough for 32 bits.
const parallelDepth = 50

func (s *Scene) camera(c reveal.Camera, aspect float64) viewCamera {
	v := viewCamera{eye: film.Eye(c)}
	v.tanH, v.tanV = film.Field(c.Lens, aspect)
	if c.Parallel {
		v.parallel, v.distance, v.depth = true, c.Distance, s.depth
	}
	return v
}

// bend takes a point of the camera's frame to where the eye sees it.
func (c *viewCamera) bend(p [3]float32) [3]float32 {
	if !c.parallel {
		return p
	}
	near := max(1+(float64(p[2])+c.distance)/c.depth, 0.1) // 1/z, times the distance
	return [3]float32{float32(float64(p[0]) / near), float32(float64(p[1]) / near), float32(-c.distance / near)}
}

// bendAll bends vertices.
func (c *viewCamera) bendAll(list []vertex) {
	if !c.parallel {
		return
	}
	for i := range list {
		list[i].at = c.bend(list[i].at)
	}
}

// pull scales how far edges are drawn towards the eye, as a share of the
// distance, to the camera's space.
func (c *viewCamera) pull(share float64) float64 {
	if c.parallel {
		return share * c.distance / c.depth
	}
	return share
}

// reach returns half of what is seen at a depth (mm in front of the eye), across
// and up, mm.
func (c *viewCamera) reach(depth float64) (across, up float64) {
	if c.parallel {
		depth = c.distance
	}
	return depth * c.tanH, depth * c.tanV
}
