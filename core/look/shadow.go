package look

import (
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/space"
)

// ShadowSize is the number of cells on each side of a shadow map.
const ShadowSize = 96

// Shadow is the soft contact of the parts with the floor: a square map of
// darkness 0…1 over the plane y = Height, seen from above. Cell (i, k) stands
// at x = Left + (i+½)·Cell, z = Back + (k+½)·Cell.
type Shadow struct {
	Height, Left, Back, Cell float64
	Dark                     []float32

	cells, sums *cellMap // work space
}

// NewShadow lays the map under an assembly with these bounds at rest (in the world), with room around it
// for parts that move out.
func NewShadow(b space.Box) *Shadow {
	size, centre := b.Size(), b.Centre()
	side := 2.4 * math.Max(math.Max(size.X, size.Z), size.Y*0.6)
	return &Shadow{
		Height: b.Min.Y, Left: centre.X - side/2, Back: centre.Z - side/2, Cell: side / ShadowSize,
		Dark: make([]float32, ShadowSize*ShadowSize), cells: new(cellMap), sums: new(cellMap),
	}
}

// Floor is the square that a shadow map covers.
type Floor struct {
	Centre space.Vec3 `json:"centre"` // mm, in the world
	Side   float64    `json:"side"`   // mm
}

// Floor returns the square that the map covers.
func (s *Shadow) Floor() Floor {
	side := s.Cell * ShadowSize
	return Floor{space.Vec3{s.Left + side/2, s.Height, s.Back + side/2}, side}
}

// Cast fills the map for a frame: every part darkens the cells under its box,
// less the higher it hangs and the more see-through it is; then everything is
// blurred.
func (s *Shadow) Cast(a *assembly.Assembly, fr *film.Frame) {
	clear(s.cells[:])
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
		s.darken(box, math.Min(near*near, 1)*fr.Opacity[i])
	}
	s.blur()
}

func (s *Shadow) darken(b space.Box, dark float64) {
	x0, x1 := (b.Min.X-s.Left)/s.Cell, (b.Max.X-s.Left)/s.Cell
	z0, z1 := (b.Min.Z-s.Back)/s.Cell, (b.Max.Z-s.Back)/s.Cell
	first, end := max(0, int(x0)), min(ShadowSize, int(x1)+1)
	if first >= end {
		return
	}
	var across [ShadowSize]float64
	for i := first; i < end; i++ {
		across[i] = overlap(x0, x1, float64(i))
	}
	for k := max(0, int(z0)); k < min(ShadowSize, int(z1)+1); k++ {
		v := dark * darkest * overlap(z0, z1, float64(k))
		row := s.cells[k][first:end]
		for i, a := range across[first:end] {
			row[i] = max(row[i], int32(v*a))
		}
	}
}

func overlap(lo, hi, cell float64) float64 {
	return max(0, min(hi, cell+1)-max(lo, cell))
}

// At returns the darkness at a point of the floor, between the cells' middles
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
