package look

import (
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/space"
)

// ShadowSize is the number of cells on each side of a shadow map.
const ShadowSize = 96

// Shadow is the soft contact of the parts with the ground: a square map of
// darkness 0…1 over the plane y = Height, seen from above. Cell (i, k) stands
// at x = Left + (i+½)·Cell, z = Back + (k+½)·Cell.
type Shadow struct {
	Height, Left, Back, Cell float64
	Dark                     []float32

	blur []float32
}

// NewShadow lays the map under an assembly, with room around it for parts that
// move out.
func NewShadow(a *assembly.Assembly) *Shadow {
	b := a.Bounds()
	size, centre := b.Size(), b.Centre()
	side := 2.4 * math.Max(math.Max(size.X, size.Z), size.Y*0.6)
	return &Shadow{
		Height: b.Min.Y, Left: centre.X - side/2, Back: centre.Z - side/2, Cell: side / ShadowSize,
		Dark: make([]float32, ShadowSize*ShadowSize), blur: make([]float32, ShadowSize*ShadowSize),
	}
}

// Ground is the square that a shadow map covers.
type Ground struct {
	Centre space.Triple `json:"centre"` // mm, in the world
	Side   float64      `json:"side"`   // mm
}

// Ground returns the square that the map covers.
func (s *Shadow) Ground() Ground {
	side := s.Cell * ShadowSize
	return Ground{space.Triple{s.Left + side/2, s.Height, s.Back + side/2}, side}
}

// Cast fills the map for a frame: every part darkens the cells under its box,
// less the higher it hangs and the more see-through it is; then everything is
// blurred.
func (s *Shadow) Cast(a *assembly.Assembly, fr *film.Frame) {
	clear(s.Dark)
	reach := s.Cell * ShadowSize / 2.4 * 0.55 // height at which a shadow is gone
	for i := range a.Nodes {
		n := &a.Nodes[i]
		if n.Shape < 0 || fr.Opacity[i] <= 0 {
			continue
		}
		box := a.Shapes[n.Shape].Bounds().Moved(&fr.World[i])
		near := 1 - (box.Min.Y-s.Height)/reach
		if near <= 0 {
			continue
		}
		s.darken(box, float32(math.Min(near*near, 1)*fr.Opacity[i]))
	}
	for range 3 {
		s.smooth()
	}
}

func (s *Shadow) darken(b space.Box, dark float32) {
	x0, x1 := (b.Min.X-s.Left)/s.Cell, (b.Max.X-s.Left)/s.Cell
	z0, z1 := (b.Min.Z-s.Back)/s.Cell, (b.Max.Z-s.Back)/s.Cell
	for k := max(0, int(z0)); k < min(ShadowSize, int(z1)+1); k++ {
		v := overlap(z0, z1, float64(k))
		for i := max(0, int(x0)); i < min(ShadowSize, int(x1)+1); i++ {
			cell := &s.Dark[k*ShadowSize+i]
			*cell = max(*cell, dark*float32(v*overlap(x0, x1, float64(i))))
		}
	}
}

func overlap(lo, hi, cell float64) float64 {
	return math.Max(0, math.Min(hi, cell+1)-math.Max(lo, cell))
}

// smooth is one box blur, 5 cells wide, along each axis. The border stays
// white.
func (s *Shadow) smooth() {
	const n, r = ShadowSize, 2
	clear(s.blur)
	for k := range n {
		for i := r; i < n-r; i++ {
			row := s.Dark[k*n+i-r : k*n+i+r+1]
			s.blur[k*n+i] = (row[0] + row[1] + row[2] + row[3] + row[4]) / 5
		}
	}
	clear(s.Dark)
	for k := r; k < n-r; k++ {
		for i := range n {
			s.Dark[k*n+i] = (s.blur[(k-2)*n+i] + s.blur[(k-1)*n+i] + s.blur[k*n+i] + s.blur[(k+1)*n+i] + s.blur[(k+2)*n+i]) / 5
		}
	}
}

// At returns the darkness at a point of the ground, between the cells' middles
// interpolated; 0 outside.
func (s *Shadow) At(x, z float32) float32 {
	return s.AtCell((x-float32(s.Left))/float32(s.Cell)-0.5, (z-float32(s.Back))/float32(s.Cell)-0.5)
}

// AtCell is At for a point given in cells: whole numbers are the cells' middles.
func (s *Shadow) AtCell(fx, fz float32) float32 {
	const n = ShadowSize
	if !(fx >= 0 && fz >= 0 && fx < n-1 && fz < n-1) {
		return 0
	}
	i, k := int(fx), int(fz)
	u, v := fx-float32(i), fz-float32(k)
	c := s.Dark[k*n+i:]
	top := c[0] + (c[1]-c[0])*u
	low := c[n] + (c[n+1]-c[n])*u
	return top + (low-top)*v
}
