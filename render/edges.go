package render

// narrowSide is the largest width and height, in pixels, of faces that edges.setUp
// takes: for them 32 bits hold all numbers. An edge function grows to at most twice
// the product of the sides, (120+2)·256 by 120·256 times 2, which is below 2³¹.
const narrowSide = 120

// spanSide is the width in pixels from which on it pays to find where in a row a
// face begins and ends.
const spanSide = 8

// steepest is the least growth from pixel to pixel of an edge that bounds spans: a
// flatter one crosses rows too far away for 32-bit floats.
const steepest = 32 << subBits

// edges is a face that fits into 32 bits, set up for the pixels x0 … x1, y0 … y1 of a
// tile.
type edges struct {
	x0, y0, x1, y1 int32
	// at holds the three edge functions at the samples of the first two pixels of the
	// first row; they are not negative inside.
	at          [3][lanes]int32
	column, row [3]int32 // how they grow from pixel to pixel and from row to row
	most        [3]int32 // the largest of a pixel's four
	// Where edges cross the first row, in pixels from x0, and how that grows from row to
	// row: up to two on the left and two on the right.
	left, leftRow   [2]float32
	right, rightRow [2]float32
	lefts, rights   int
	depth           [lanes]float32
	depthColumn     float32
	depthRow        float32
	nearest, least  float32
	id              int32
}

func (e *edges) setUp(f *face, t *tile, px0, py0, px1, py1 int32) {
	e.x0, e.y0, e.x1, e.y1, e.id = px0, py0, px1, py1, f.id
	ox, oy := (int32(t.x0)+px0)<<subBits, (int32(t.y0)+py0)<<subBits
	x0, x1, x2 := f.x[0]-ox, f.x[1]-ox, f.x[2]-ox
	y0, y1, y2 := f.y[0]-oy, f.y[1]-oy, f.y[2]-oy
	e.unbound()
	e.edge(0, y0-y1, x1-x0, x0, y0)
	e.edge(1, y1-y2, x2-x1, x1, y1)
	e.edge(2, y2-y0, x0-x2, x2, y2)
	// 1/z is linear on the screen.
	w0 := f.w[0]
	inverse := 1 / float32((x1-x0)*(y2-y0)-(x2-x0)*(y1-y0))
	dx := ((f.w[1]-w0)*float32(y2-y0) - (f.w[2]-w0)*float32(y1-y0)) * inverse
	dy := ((f.w[2]-w0)*float32(x1-x0) - (f.w[1]-w0)*float32(x2-x0)) * inverse
	base := w0 - dx*float32(x0) - dy*float32(y0)
	for s := range samples {
		z := base + dx*float32(offsets[s][0]) + dy*float32(offsets[s][1])
		e.depth[s], e.depth[s+samples] = z, z
	}
	e.depthColumn, e.depthRow = dx*subPixel, dy*subPixel
	e.least, e.nearest = min(f.w[0], f.w[1], f.w[2]), max(f.w[0], f.w[1], f.w[2])
}

// unbound lets spans reach over all pixels.
func (e *edges) unbound() {
	e.lefts, e.rights = 0, 0
	wide := float32(e.x1 - e.x0)
	e.left, e.leftRow, e.right, e.rightRow = [2]float32{}, [2]float32{}, [2]float32{wide, wide}, [2]float32{}
}

// edge sets up the edge function a·x + b·y through the corner x, y.
func (e *edges) edge(i int, a, b, x, y int32) {
	c := -(a*x + b*y)
	if !(a > 0 || a == 0 && b < 0) {
		c--
	}
	column := a << subBits
	at := &e.at[i]
	for s := range samples {
		v := a*offsets[s][0] + b*offsets[s][1] + c
		at[s], at[s+samples] = v, v+column
	}
	e.column[i], e.row[i] = column, b<<subBits
	e.most[i] = max(at[0], at[1], at[2], at[3])
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

// next narrows the pixels of the next row to those that can lie inside all three edges,
// counted from x0.
func (w *walk) next() (from, to int32) {
	w.left[0], w.left[1] = w.left[0]+w.leftRow[0], w.left[1]+w.leftRow[1]
	w.right[0], w.right[1] = w.right[0]+w.rightRow[0], w.right[1]+w.rightRow[1]
	// Numbers are compared as whole ones, which takes far less time.
	return max(0, int32(w.left[0]), int32(w.left[1])), min(w.most, int32(w.right[0]), int32(w.right[1]))
}

// coverEdges draws a face that is set up.
func coverEdges(l *layer, e *edges) {
	wide, spans := e.x1-e.x0 >= spanSide, e.walkAlong()
	for row := range e.y1 - e.y0 + 1 {
		from, to := int32(0), e.x1-e.x0
		if wide {
			from, to = spans.next()
		}
		at := (int(e.y0+row)*tileSide + int(e.x0+from)) * samples
		e0, e1, e2 := e.row[0]*row+e.column[0]*from, e.row[1]*row+e.column[1]*from, e.row[2]*row+e.column[2]*from
		for x := from; x <= to; x++ {
			if (e0+e.most[0])|(e1+e.most[1])|(e2+e.most[2]) >= 0 {
				d, o := (*[samples]float32)(l.depth[at:]), (*[samples]int32)(l.owner[at:])
				for s := range samples {
					if (e0+e.at[0][s])|(e1+e.at[1][s])|(e2+e.at[2][s]) < 0 {
						continue
					}
					z := e.depth[s] + e.depthRow*float32(row) + e.depthColumn*float32(x)
					put(&d[s], &o[s], held(z, e.least, e.nearest), e.id)
				}
			}
			e0, e1, e2 = e0+e.column[0], e1+e.column[1], e2+e.column[2]
			at += samples
		}
	}
}
