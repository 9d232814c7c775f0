package render

import "math"

// ribbon is an edge's strip, set up for the pixels x0 … x1, y0 … y1 of a tile. Lengths
// are in pixels, along and aside of the line.
type ribbon struct {
	x0, y0, x1, y1 int32
	tx, ty         float32        // along the line, length 1
	ax, ay         float32        // its beginning, in the tile
	along, aside   [lanes]float32 // of the samples of a pair, from the left one's corner
	half           float32
	least, most    float32 // how far it reaches along
	reach          float32 // of a pixel's samples, aside
	depth, slope   float32 // 1/z at its beginning, and how it grows
	nearest, far   float32
	id             int32
}

// setUp returns false for a strip without length.
func (s *ribbon) setUp(f *face, t *tile, px0, py0, px1, py1 int32) bool {
	const unit = 1.0 / subPixel
	dx, dy := float32(f.x[1]-f.x[0])*unit, float32(f.y[1]-f.y[0])*unit
	length := float32(math.Sqrt(float64(dx*dx + dy*dy)))
	if length == 0 {
		return false
	}
	s.x0, s.y0, s.x1, s.y1, s.id = px0, py0, px1, py1, f.id
	s.ax, s.ay = float32(f.x[0]-int32(t.x0)<<subBits)*unit, float32(f.y[0]-int32(t.y0)<<subBits)*unit
	s.tx, s.ty = dx/length, dy/length
	s.half = float32(f.half) * unit
	s.least, s.most = -s.half/2, length+s.half/2
	s.depth, s.slope = f.w[0], (f.w[1]-f.w[0])/length
	s.far, s.nearest = min(f.w[0], f.w[1]), max(f.w[0], f.w[1])
	s.reach = 0
	for k := range samples {
		sx, sy := float32(offsets[k][0])*unit, float32(offsets[k][1])*unit
		s.along[k], s.aside[k] = sx*s.tx+sy*s.ty, sy*s.tx-sx*s.ty
		s.along[k+samples], s.aside[k+samples] = s.along[k], s.aside[k]
		s.reach = max(s.reach, s.aside[k], -s.aside[k])
	}
	return true
}

// span returns the pixels of a row between which it comes near the line, and how far
// along and aside the corner of the first pixel of the box is.
func (s *ribbon) span(y int32) (from, to int32, u, v float32) {
	qx, qy := float32(s.x0)-s.ax, float32(y)-s.ay
	from, to = s.x0, s.x1
	if s.ty > 0.01 || s.ty < -0.01 {
		x, wide := s.ax+qy*s.tx/s.ty, (s.half+s.reach)/max(s.ty, -s.ty)
		from, to = max(from, int32(x-wide)-1), min(to, int32(x+wide)+1)
	}
	return from, to, qx*s.tx + qy*s.ty, qy*s.tx - qx*s.ty
}

// coverStrip draws an edge: every sample that lies within half the strip's width of
// the line, and not further past its ends than a quarter of it, so that the pieces of
// a curve join.
func coverStrip(l *layer, s *ribbon) {
	for y := s.y0; y <= s.y1; y++ {
		from, to, u, v := s.span(y)
		at := (int(y)*tileSide + int(from)) * samples
		for x := from; x <= to; x++ {
			d, o := (*[samples]float32)(l.depth[at:]), (*[samples]int32)(l.owner[at:])
			i := float32(x - s.x0)
			for k := range samples {
				us, vs := u+s.along[k]+s.tx*i, v+s.aside[k]-s.ty*i
				if vs > s.half || vs < -s.half || us < s.least || us > s.most {
					continue
				}
				put(&d[k], &o[k], held(s.depth+s.slope*us, s.far, s.nearest), s.id)
			}
			at += samples
		}
	}
}
