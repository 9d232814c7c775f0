package render

// narrowSide is the largest width and height, in pixels, of faces that edges.setUp
// takes: for them 32 bits hold all numbers. An edge function grows to at most twice
// the product of the sides, (120+2)·256 by 120·256 times 2, which is below 2³¹ even before
// it is taken in eighths.
const narrowSide = 120

// spanSide is the width in pixels from which on it pays to find where in a row a
// face begins and ends.
const spanSide = 8

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
	a, b, c     [sides]int32
	column, row [sides]int32 // how they grow from pixel to pixel and from row to row
	most        [sides]int32 // not less than at any of the first pixel's samples
	// Where edges cross the first row, in pixels from x0, and how that grows from row to
	// row: up to two on the left and two on the right.
	left, right       [2]float32
	leftRow, rightRow [2]float32
	lefts, rights     int
	deep, dx, dy      float32 // 1/z at the first pixel's corner, and how it grows in 1/256 pixel
	nearest, least    float32
	id                int32
}

func (e *edges) setUp(f *face, t *tile, px0, py0, px1, py1 int32) {
	e.x0, e.y0, e.x1, e.y1 = px0, py0, px1, py1
	ox, oy := (int32(t.x0)+px0)<<subBits, (int32(t.y0)+py0)<<subBits
	x0, x1, x2, x3 := f.x[0]-ox, f.x[1]-ox, f.x[2]-ox, f.x[3]-ox
	y0, y1, y2, y3 := f.y[0]-oy, f.y[1]-oy, f.y[2]-oy, f.y[3]-oy
	e.unbound()
	e.edge(0, y0-y1, x1-x0, x0, y0)
	e.edge(1, y1-y3, x3-x1, x1, y1)
	e.edge(2, y3-y2, x2-x3, x3, y3)
	e.edge(3, y2-y0, x0-x2, x2, y2)
	// 1/z is linear on the screen.
	w0, w1, w2 := f.plane()
	inverse := 1 / float32((x1-x0)*(y2-y0)-(x2-x0)*(y1-y0))
	e.dx = ((w1-w0)*float32(y2-y0) - (w2-w0)*float32(y1-y0)) * inverse
	e.dy = ((w2-w0)*float32(x1-x0) - (w1-w0)*float32(x2-x0)) * inverse
	e.deep = w0 - e.dx*float32(x0) - e.dy*float32(y0)
}

// unbound lets spans reach over all pixels.
func (e *edges) unbound() {
	e.lefts, e.rights = 0, 0
	wide := float32(e.x1 - e.x0)
	e.left, e.leftRow, e.right, e.rightRow = [2]float32{}, [2]float32{}, [2]float32{wide, wide}, [2]float32{}
}

// edge sets up the edge function a·x + b·y through the corner x, y, which are in 1/256 pixel.
// Of two faces that share an edge one has what lies on it. In eighths the part below whole
// numbers decides nothing.
func (e *edges) edge(i int, a, b, x, y int32) {
	c := -(a*x + b*y)
	if !(a > 0 || a == 0 && b <= 0) { // b = 0 is no edge
		c--
	}
	e.side(i, a, b, c>>stepBits)
}

func (e *edges) side(i int, a, b, c int32) {
	e.a[i], e.b[i], e.c[i] = a, b, c
	e.column[i], e.row[i] = a<<eighths, b<<eighths
	e.most[i] = c + max(a*nearSample, a*farSample) + max(b*nearSample, b*farSample)
	e.bound(i)
}

// bound notes an edge as a bound of spans.
func (e *edges) bound(i int) {
	if e.x1-e.x0 < spanSide {
		return
	}
	column := e.column[i]
	switch {
	case column >= steepest:
		slope := -1 / float32(column)
		e.left[e.lefts&1], e.leftRow[e.lefts&1] = float32(e.most[i])*slope, float32(e.row[i])*slope
		e.lefts++
	case column <= -steepest:
		slope := -1 / float32(column)
		e.right[e.rights&1], e.rightRow[e.rights&1] = float32(e.most[i])*slope, float32(e.row[i])*slope
		e.rights++
	}
}

// walk goes along the bounds of a face's spans, row by row.
type walk struct {
	left, right, leftRow, rightRow [2]float32
	most                           int32 // pixel
}

// walkAlong begins before the first row. A sixteenth of a pixel is to spare on both sides:
// the exact test follows. Pixels from the left edge on are rounded up, as it is not below −1.
func (e *edges) walkAlong() walk {
	w := walk{e.left, e.right, e.leftRow, e.rightRow, e.x1 - e.x0}
	for i := range 2 {
		w.left[i] += 1 - 1.0/16 - w.leftRow[i]
		w.right[i] += 1.0/16 - w.rightRow[i]
	}
	return w
}

// next narrows the pixels of the next row to those that can lie inside all edges,
// counted from x0.
func (w *walk) next() (from, to int32) {
	w.left[0], w.left[1] = w.left[0]+w.leftRow[0], w.left[1]+w.leftRow[1]
	w.right[0], w.right[1] = w.right[0]+w.rightRow[0], w.right[1]+w.rightRow[1]
	// Numbers are compared as whole ones, which takes far less time.
	return max(0, int32(w.left[0]), int32(w.left[1])), min(w.most, int32(w.right[0]), int32(w.right[1]))
}

// coverEdges draws a face that is set up.
func coverEdges(l *layer, e *edges) {
	var at [sides][samples]int32
	var depth [samples]float32
	for s, o := range offsets {
		for i := range at {
			at[i][s] = e.a[i]*(o[0]>>stepBits) + e.b[i]*(o[1]>>stepBits) + e.c[i]
		}
		depth[s] = e.deep + e.dx*float32(o[0]) + e.dy*float32(o[1])
	}
	depthColumn, depthRow := e.dx*subPixel, e.dy*subPixel
	wide, spans := e.x1-e.x0 >= spanSide, e.walkAlong()
	for row := range e.y1 - e.y0 + 1 {
		from, to := int32(0), e.x1-e.x0
		if wide {
			from, to = spans.next()
		}
		index := sampleAt(int(e.x0+from), int(e.y0+row))
		e0, e1 := e.row[0]*row+e.column[0]*from, e.row[1]*row+e.column[1]*from
		e2, e3 := e.row[2]*row+e.column[2]*from, e.row[3]*row+e.column[3]*from
		for x := from; x <= to; x++ {
			if (e0+e.most[0])|(e1+e.most[1])|(e2+e.most[2])|(e3+e.most[3]) >= 0 {
				d, o := (*[samples]float32)(l.depth[index:]), (*[samples]int32)(l.owner[index:])
				for s := range samples {
					if (e0+at[0][s])|(e1+at[1][s])|(e2+at[2][s])|(e3+at[3][s]) < 0 {
						continue
					}
					z := depth[s] + depthRow*float32(row) + depthColumn*float32(x)
					put(&d[s], &o[s], held(z, e.least, e.nearest), e.id)
				}
			}
			e0, e1, e2, e3 = e0+e.column[0], e1+e.column[1], e2+e.column[2], e3+e.column[3]
			index += samples
		}
	}
}
