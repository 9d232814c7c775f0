package render

// narrowSide is the largest width and height, in pixels, of faces that edges.setUp
// takes: for them 32 bits hold all numbers. An edge function grows to at most twice
// the product of the sides, (120+2)·256 by 120·256 times 2, which is below 2³¹ even before
// it is taken in eighths.
const narrowSide = 120

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
	spans          spans // work space of coverEdges
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
	e.a[i], e.b[i], e.c[i] = a, b, (topLeftBias(int64(a), int64(b))-(a*x+b*y))>>stepBits
}

// topLeftBias is −1 for edges whose own points are not the face's, else 0: those are that go up on
// the left (a > 0) or level (b < 0), and no edges (b = 0). Processors guess no branch here.
func topLeftBias(a, b int64) int32 { return int32((a<<32 - b) >> 63) }

// spans are the pixels that a face covers in a row, told exactly: a side of it crosses the row of
// a sample at one place, and what is right of it, or left, is inside.
type spans struct {
	// Sides that the face lies to the right of, to the left of, and above or below.
	left, right, level    [sides]crossing
	nLeft, nRight, nLevel int
	first, end            [samples]int64 // what find finds
}

// crossing is where a side crosses the first row, by sample, and by how much farther to the right it
// crosses the next one: in parts of a pixel, from one left of the face's first. Its whole pixels tell the first
// one on or right of the side, or the one after the last on or left of it. Of a level side it is the edge
// function instead.
type crossing struct {
	at   [samples]int64
	down int64
}

// crossBits are the bits below whole pixels. An edge function is a whole number n, and so is its growth
// d from pixel to pixel: half is added to n, so that the place n/d lies 1/2d or more from whole pixels. d
// is below 2²⁵ (wideReach), and over a tile's rows the places stray by 2⁻²⁷ at most.
const crossBits = 32

// setUp finds where the sides of a face cross rows.
func (s *spans) setUp(e *edges) {
	s.nLeft, s.nRight, s.nLevel = 0, 0, 0
	for i := range sides {
		a, b := e.a[i], e.b[i]
		switch c := (*crossing)(nil); {
		case a > 0:
			c = &s.left[s.nLeft&(sides-1)]
			s.nLeft++
			c.setUp(a, b, e.c[i])
		case a < 0:
			c = &s.right[s.nRight&(sides-1)]
			s.nRight++
			c.setUp(a, b, e.c[i])
		case b != 0: // else it is of a corner that is there twice
			c = &s.level[s.nLevel&(sides-1)]
			s.nLevel++
			c.down = int64(b) << eighths
			for k := range offsets {
				c.at[k] = int64(e.c[i] + b*(offsets[k][1]>>stepBits))
			}
		}
	}
}

func (c *crossing) setUp(a, b, first int32) {
	inverse := -(1 << (crossBits - eighths)) / float64(a)
	c.down = int64(float64(b<<eighths) * inverse)
	for k := range offsets {
		o := &offsets[k]
		c.at[k] = 1<<crossBits + int64((float64(first+a*(o[0]>>stepBits)+b*(o[1]>>stepBits))+0.5)*inverse)
	}
}

// find finds between which pixels a row is covered at each sample: the first, and the one after the
// last, which is to at most; false where its sides leave none, level ones aside.
func (s *spans) find(row int64, to int64) bool {
	var a0, a1, a2, a3 int64
	b0 := to << crossBits
	b1, b2, b3 := b0, b0, b0
	for i := range s.nLeft {
		c := &s.left[i&(sides-1)]
		x := row * c.down
		a0, a1, a2, a3 = max(a0, x+c.at[0]), max(a1, x+c.at[1]), max(a2, x+c.at[2]), max(a3, x+c.at[3])
	}
	for i := range s.nRight {
		c := &s.right[i&(sides-1)]
		x := row * c.down
		b0, b1, b2, b3 = min(b0, x+c.at[0]), min(b1, x+c.at[1]), min(b2, x+c.at[2]), min(b3, x+c.at[3])
	}
	a0, a1, a2, a3 = a0>>crossBits, a1>>crossBits, a2>>crossBits, a3>>crossBits
	b0, b1, b2, b3 = b0>>crossBits, b1>>crossBits, b2>>crossBits, b3>>crossBits
	s.first = [samples]int64{a0, a1, a2, a3}
	s.end = [samples]int64{b0, b1, b2, b3}
	for i := range s.nLevel {
		c := &s.level[i&(sides-1)]
		for k := range samples {
			if row*c.down+c.at[k] < 0 {
				s.end[k] = 0
			}
		}
	}
	return (a0-b0)|(a1-b1)|(a2-b2)|(a3-b3) < 0
}

// rasteriseEdges draws a face that is set up.
func rasteriseEdges(l *layer, e *edges) {
	s := &e.spans
	s.setUp(e)
	var depth [samples]float32
	for k := range offsets {
		o := &offsets[k]
		depth[k] = e.deep + e.dx*float32(o[0]) + e.dy*float32(o[1])
	}
	depthColumn, depthRow := e.dx*subPixel, e.dy*subPixel
	least, nearest, id, width := inOrder(e.least), inOrder(e.nearest), e.id, int(e.x1-e.x0+1)
	deep, owner := &l.inverseZ, &l.id
	for row := range int(e.y1 - e.y0 + 1) {
		if !s.find(int64(row), int64(width)) {
			continue
		}
		at, down := sampleAt(int(e.x0), int(e.y0)+row), depthRow*float32(row)
		for k := range samples {
			from, end := at+int(s.first[k])*samples+k, at+int(s.end[k])*samples
			if from >= end {
				continue
			}
			z0, x := depth[k]+down, float32(s.first[k])
			for i := from; i < end; i += samples {
				put(&deep[i], &owner[i], held(z0+depthColumn*x, least, nearest), id)
				x++
			}
		}
	}
}
