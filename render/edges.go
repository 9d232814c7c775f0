package render

// narrowSide is the largest width and height, in pixels, of faces that edges.setUp
// takes: for them 32 bits hold all numbers. An edge function grows to at most twice
// the product of the sides, (120+2)·256 by 120·256 times 2, which is below 2³¹ even before
// it is taken in eighths.
const narrowSide = 120

// spanSide is the width in pixels from which on it pays to find where in a row a
// face begins and ends.
const spanSide = 6

// steepest is the least growth from pixel to pixel of an edge that bounds spans: a
// flatter one crosses rows too far away for 32-bit floats.
const steepest = 32 << eighths

// sides is how many sides a face has; that of a triangle between its last corner and the same
// once more is no bound.
const sides = 4

// around is the order of a face's corners.
var around = [sides]int{0, 1, 3, 2}

// edges is a face that fits into 32 bits, set up for the pixels x0 … x1, y0 … y1 of a
// tile.
type edges struct {
	x0, y0, x1, y1 int32
	// An edge function a·x + b·y + c is not negative inside; x and y are in 1/8 pixel from
	// the corner of the first pixel.
	a, b, c        [sides]int32
	deep, dx, dy   float32 // 1/z at the first pixel's corner, and how it grows in 1/256 pixel
	nearest, least float32
	id             int32
}

func (e *edges) setUp(f *face, t *tile, px0, py0, px1, py1 int32) {
	e.x0, e.y0, e.x1, e.y1 = px0, py0, px1, py1
	ox, oy := (int32(t.x0)+px0)<<subBits, (int32(t.y0)+py0)<<subBits
	x0, x1, x2, x3 := f.x[0]-ox, f.x[1]-ox, f.x[2]-ox, f.x[3]-ox
	y0, y1, y2, y3 := f.y[0]-oy, f.y[1]-oy, f.y[2]-oy, f.y[3]-oy
	e.side(0, y0-y1, x1-x0, x0, y0)
	e.side(1, y1-y3, x3-x1, x1, y1)
	e.side(2, y3-y2, x2-x3, x3, y3)
	e.side(3, y2-y0, x0-x2, x2, y2)
	// 1/z is linear on the screen.
	w0, w1, w2 := f.plane()
	inverse := 1 / float32((x1-x0)*(y2-y0)-(x2-x0)*(y1-y0))
	e.dx = ((w1-w0)*float32(y2-y0) - (w2-w0)*float32(y1-y0)) * inverse
	e.dy = ((w2-w0)*float32(x1-x0) - (w1-w0)*float32(x2-x0)) * inverse
	e.deep = w0 - e.dx*float32(x0) - e.dy*float32(y0)
}

// side sets up the edge function a·x + b·y through the corner x, y, which are in 1/256 pixel.
// Of two faces that share an edge one has what lies on it. In eighths the part below whole
// numbers decides nothing.
func (e *edges) side(i int, a, b, x, y int32) {
	e.a[i], e.b[i], e.c[i] = a, b, (notOnTop(int64(a), int64(b))-(a*x+b*y))>>stepBits
}

// notOnTop is −1 for edges whose own points are not the face's, else 0: those are that go up on
// the left (a > 0) or level (b < 0), and no edges (b = 0). Processors guess no branch here.
func notOnTop(a, b int64) int32 { return int32((a<<32 - b) >> 63) }

// slopes are how a face's edge functions grow, and where its spans end.
type slopes struct {
	column, row [sides]int32 // from pixel to pixel and from row to row
	most        [sides]int32 // not less than at any of the first pixel's samples
	// Where edges cross the row, in pixels from x0, and how that grows from row to row: those on the
	// left, or 0, and those on the right, or the last pixel.
	left, leftRow, right, rightRow [sides]float32
	last                           int32 // pixel
}

// slopes finds them, before the first row. A sixteenth of a pixel is to spare on both sides:
// the exact test follows. Pixels from the left edge on are rounded up, as it is not below −1.
func (e *edges) slopes() (s slopes) {
	s.last = e.x1 - e.x0
	for i, a := range e.a {
		s.column[i], s.row[i] = a<<eighths, e.b[i]<<eighths
		s.most[i] = e.c[i] + max(a*nearSample, a*farSample) + max(e.b[i]*nearSample, e.b[i]*farSample)
		if s.last < spanSide {
			continue
		}
		s.right[i] = float32(s.last)
		slope := -1 / float32(s.column[i])
		cross, down := float32(s.most[i])*slope, float32(s.row[i])*slope
		switch {
		case s.column[i] >= steepest:
			s.left[i], s.leftRow[i] = cross+(1-1.0/16-down), down
		case s.column[i] <= -steepest:
			s.right[i], s.rightRow[i] = cross+(1.0/16-down), down
		}
	}
	return s
}

// next narrows the pixels of the next row to those that can lie inside all edges,
// counted from x0.
func (s *slopes) next() (from, to int32) {
	to = s.last
	for i := range sides {
		s.left[i] += s.leftRow[i]
		s.right[i] += s.rightRow[i]
		// Numbers are compared as whole ones, which takes far less time.
		from, to = max(from, int32(s.left[i])), min(to, int32(s.right[i]))
	}
	return from, to
}

// coverEdges draws a face that is set up.
func coverEdges(l *layer, e *edges) {
	var at [sides][samples]int32
	var depth [samples]float32
	for k, o := range offsets {
		for i := range at {
			at[i][k] = e.a[i]*(o[0]>>stepBits) + e.b[i]*(o[1]>>stepBits) + e.c[i]
		}
		depth[k] = e.deep + e.dx*float32(o[0]) + e.dy*float32(o[1])
	}
	depthColumn, depthRow := e.dx*subPixel, e.dy*subPixel
	wide, s := e.x1-e.x0 >= spanSide, e.slopes()
	for row := range e.y1 - e.y0 + 1 {
		from, to := int32(0), e.x1-e.x0
		if wide {
			from, to = s.next()
		}
		index := sampleAt(int(e.x0+from), int(e.y0+row))
		e0, e1 := s.row[0]*row+s.column[0]*from, s.row[1]*row+s.column[1]*from
		e2, e3 := s.row[2]*row+s.column[2]*from, s.row[3]*row+s.column[3]*from
		for x := from; x <= to; x++ {
			if (e0+s.most[0])|(e1+s.most[1])|(e2+s.most[2])|(e3+s.most[3]) >= 0 {
				d, o := (*[samples]float32)(l.depth[index:]), (*[samples]int32)(l.owner[index:])
				for k := range samples {
					if (e0+at[0][k])|(e1+at[1][k])|(e2+at[2][k])|(e3+at[3][k]) < 0 {
						continue
					}
					z := depth[k] + depthRow*float32(row) + depthColumn*float32(x)
					put(&d[k], &o[k], held(z, e.least, e.nearest), e.id)
				}
			}
			e0, e1, e2, e3 = e0+s.column[0], e1+s.column[1], e2+s.column[2], e3+s.column[3]
			index += samples
		}
	}
}
