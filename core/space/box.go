package space

import "math"

// Box is an axis-aligned box. The zero Box is a single point at the origin;
// Nothing is the box of no points.
type Box struct {
	Min, Max Vec
}

// EmptyBox is the empty box: adding a point to it gives that point's box.
var EmptyBox = Box{
	Min: Vec{X: math.Inf(1), Y: math.Inf(1), Z: math.Inf(1)},
	Max: Vec{X: math.Inf(-1), Y: math.Inf(-1), Z: math.Inf(-1)},
}

// Empty reports whether b holds no point.
func (b Box) Empty() bool { return !(b.Min.X <= b.Max.X) }

// With returns the smallest box that holds b and p.
func (b Box) With(p Vec) Box {
	return Box{
		Min: Vec{X: math.Min(b.Min.X, p.X), Y: math.Min(b.Min.Y, p.Y), Z: math.Min(b.Min.Z, p.Z)},
		Max: Vec{X: math.Max(b.Max.X, p.X), Y: math.Max(b.Max.Y, p.Y), Z: math.Max(b.Max.Z, p.Z)},
	}
}

// Shifted returns b moved by d.
func (b Box) Shifted(d Vec) Box {
	if b.Empty() {
		return b
	}
	return Box{
		Min: Vec{X: b.Min.X + d.X, Y: b.Min.Y + d.Y, Z: b.Min.Z + d.Z},
		Max: Vec{X: b.Max.X + d.X, Y: b.Max.Y + d.Y, Z: b.Max.Z + d.Z},
	}
}

// Union returns the smallest box that holds both.
func (b Box) Union(c Box) Box {
	if c.Empty() {
		return b
	}
	return b.With(c.Min).With(c.Max)
}

// Centre returns the middle of b, the origin when it is empty.
func (b Box) Centre() Vec {
	if b.Empty() {
		return Vec{}
	}
	return Vec{X: (b.Min.X + b.Max.X) / 2, Y: (b.Min.Y + b.Max.Y) / 2, Z: (b.Min.Z + b.Max.Z) / 2}
}

// Size returns the edge lengths of b, zero when it is empty.
func (b Box) Size() Vec {
	if b.Empty() {
		return Vec{}
	}
	return Vec{X: b.Max.X - b.Min.X, Y: b.Max.Y - b.Min.Y, Z: b.Max.Z - b.Min.Z}
}

// Corner returns corner i of b, 0 ≤ i < 8; bit 0 chooses X, bit 1 Y, bit 2 Z.
func (b Box) Corner(i int) Vec {
	p := b.Min
	if i&1 != 0 {
		p.X = b.Max.X
	}
	if i&2 != 0 {
		p.Y = b.Max.Y
	}
	if i&4 != 0 {
		p.Z = b.Max.Z
	}
	return p
}

// Moved returns the axis-aligned box of b after the motion m (it may be larger
// than the moved content).
func (b Box) Moved(m *Rigid) Box {
	if b.Empty() {
		return b
	}
	c, s := b.Centre(), b.Size()
	w := m.Apply(c)
	r := &m.R
	hx := (math.Abs(r[0])*s.X + math.Abs(r[1])*s.Y + math.Abs(r[2])*s.Z) / 2
	hy := (math.Abs(r[3])*s.X + math.Abs(r[4])*s.Y + math.Abs(r[5])*s.Z) / 2
	hz := (math.Abs(r[6])*s.X + math.Abs(r[7])*s.Y + math.Abs(r[8])*s.Z) / 2
	return Box{
		Min: Vec{X: w.X - hx, Y: w.Y - hy, Z: w.Z - hz},
		Max: Vec{X: w.X + hx, Y: w.Y + hy, Z: w.Z + hz},
	}
}
