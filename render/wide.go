package render

// spanRow is a face of any size in one row of a tile: between which pixels it covers
// each of the four samples, and how its depth runs.
type spanRow struct {
	// first and last are pixels of the tile, by sample.
	first, last    [samples]int32
	depth          [samples]float32 // at pixel 0 of the row
	depthColumn    float32
	nearest, least float32
	id             int32
	y              int32
}

// edge64 is an edge function a·x + b·y + c, not negative inside, x and y in 1/256
// pixel from the tile's corner.
type edge64 struct {
	a, b, c int64
	inverse float64 // 1/a
}

// plane is a face's 1/z, which is linear on the screen: x and y in 1/256 pixel from the
// tile's corner.
type plane struct{ base, dx, dy float64 }

func planeOf(f *face, x, y *[4]int64) plane {
	area := float64((x[1]-x[0])*(y[2]-y[0]) - (x[2]-x[0])*(y[1]-y[0]))
	w0, w1, w2 := f.plane()
	d1, d2 := float64(w1)-float64(w0), float64(w2)-float64(w0)
	dx := (d1*float64(y[2]-y[0]) - d2*float64(y[1]-y[0])) / area
	dy := (d2*float64(x[1]-x[0]) - d1*float64(x[2]-x[0])) / area
	return plane{float64(w0) - dx*float64(x[0]) - dy*float64(y[0]), dx, dy}
}

func (p *plane) at(x, y int64) float32 { return float32(p.base + p.dx*float64(x) + p.dy*float64(y)) }

// wideReach is the most that an edge which crosses a tile may grow along a pixel's
// width and height together, for its values in the tile to hold in 32 bits.
const wideReach = (1<<31 - 1) / (tileSide + 2)

// setUpWide sets a face up whose corners may lie far outside the tile; it returns false
// where 32 bits do not hold its numbers. crossing are the edges that cross the pixels.
func (e *edges) setUpWide(crossing []edge64, p *plane, px0, py0, px1, py1 int32) bool {
	for i := range crossing {
		if (abs(crossing[i].a)+abs(crossing[i].b))<<eighths > wideReach {
			return false
		}
	}
	e.x0, e.y0, e.x1, e.y1 = px0, py0, px1, py1
	x, y := int64(px0)<<subBits, int64(py0)<<subBits
	for i := range sides {
		if i >= len(crossing) {
			e.a[i], e.b[i], e.c[i] = 0, 0, 0
			continue
		}
		c := &crossing[i]
		e.a[i], e.b[i], e.c[i] = int32(c.a), int32(c.b), int32((c.a*x+c.b*y+c.c)>>stepBits)
	}
	e.deep, e.dx, e.dy = p.at(x, y), float32(p.dx), float32(p.dy)
	return true
}

// fillBox draws a face over all pixels of a box, but for blocks where what is there lies in
// front of it.
func (t *tile) fillBox(p *plane, into *layer, px0, py0, px1, py1 int32) {
	e := &t.edges
	e.dx, e.dy = float32(p.dx), float32(p.dy)
	rise, fall := max(e.dx, 0)*subPixel, max(e.dy, 0)*subPixel
	least, nearest := inOrder(e.least), inOrder(e.nearest)
	for by := py0 / blockSide; by <= py1/blockSide; by++ {
		e.y0, e.y1 = max(by*blockSide, py0), min(by*blockSide+blockSide-1, py1)
		e.x1 = -1
		for bx := px0 / blockSide; bx <= px1/blockSide+1; bx++ {
			x0, x1 := max(bx*blockSide, px0), min(bx*blockSide+blockSide-1, px1)
			deep := p.at(int64(x0)<<subBits, int64(e.y0)<<subBits)
			open := x0 <= x1 &&
				held(
					deep+rise*float32(x1-x0+1)+fall*float32(e.y1-e.y0+1),
					least,
					nearest,
				) >= inOrder(t.hiZ[by*blocks+bx])
			switch {
			case open && e.x1 < 0:
				e.x0, e.x1, e.deep = x0, x1, deep
			case open:
				e.x1 = x1
			case e.x1 >= 0:
				kernel.fillBox(into, e)
				e.x1 = -1
			}
		}
	}
}

// fillBoxPlain draws a face over all pixels that it is set up for.
func fillBoxPlain(l *layer, e *edges) {
	var depth [samples]float32
	for s, o := range offsets {
		depth[s] = e.deep + e.dx*float32(o[0]) + e.dy*float32(o[1])
	}
	depthColumn, depthRow := e.dx*subPixel, e.dy*subPixel
	least, nearest := inOrder(e.least), inOrder(e.nearest)
	for row := range e.y1 - e.y0 + 1 {
		at := sampleAt(int(e.x0), int(e.y0+row))
		for x := range e.x1 - e.x0 + 1 {
			d, o := (*[samples]float32)(l.inverseZ[at:]), (*[samples]int32)(l.id[at:])
			for s := range samples {
				z := depth[s] + depthRow*float32(row) + depthColumn*float32(x)
				put(&d[s], &o[s], held(z, least, nearest), e.id)
			}
			at += samples
		}
	}
}

func abs(x int64) int64 { return max(x, -x) }

// over returns the least and the greatest value over a box of pixels.
func (e *edge64) over(px0, py0, px1, py1 int32) (least, most int64) {
	x0, x1, y0, y1 := e.a*int64(px0)<<subBits, e.a*int64(px1)<<subBits, e.b*int64(py0)<<subBits, e.b*int64(py1)<<subBits
	return min(x0, x1) + min(y0, y1) + e.c, max(x0, x1) + max(y0, y1) + e.c
}

// rasteriseWide does what cover does for a face of any size: it finds for each row and
// sample the first and the last pixel, exactly.
func (t *tile) rasteriseWide(f *face, into *layer, px0, py0, px1, py1 int32) {
	ox, oy := int32(t.x0)<<subBits, int32(t.y0)<<subBits
	var x, y [sides]int64
	for i := range sides {
		x[i], y[i] = int64(f.x[i]-ox), int64(f.y[i]-oy)
	}
	var edges [sides]edge64 // those that cross the box
	n := 0
	for k, i := range around {
		j := around[(k+1)%sides]
		e := edge64{a: y[i] - y[j], b: x[j] - x[i]}
		if e.a == 0 && e.b == 0 {
			continue // of a corner that is there twice
		}
		e.c = int64(topLeftBias(e.a, e.b)) - (e.a*x[i] + e.b*y[i])
		least, most := e.over(px0, py0, px1+1, py1+1)
		switch {
		case most < 0:
			return
		case least < 0:
			if e.a != 0 {
				e.inverse = 1 / float64(e.a)
			}
			edges[n] = e
			n++
		}
	}
	plane := planeOf(f, &x, &y)
	if n == 0 {
		t.fillBox(&plane, into, px0, py0, px1, py1)
		return
	}
	if t.edges.setUpWide(edges[:n], &plane, px0, py0, px1, py1) {
		kernel.edges(into, &t.edges)
		return
	}
	s := &t.spanRow
	s.depthColumn = float32(plane.dx * subPixel)
	s.id, s.least, s.nearest = t.edges.id, t.edges.least, t.edges.nearest
	for py := py0; py <= py1; py++ {
		from, to := px1+1, int32(-1)
		for k := range samples {
			sx, sy := int64(offsets[k][0]), int64(py<<subBits+offsets[k][1])
			first, last := crossed(edges[:n], sx, sy, int64(px0), int64(px1))
			s.first[k], s.last[k] = first, last
			z := plane.at(sx, sy)
			s.depth[k] = z
			if first <= last {
				from, to = min(from, first), max(to, last)
			}
		}
		s.y = py
		if from <= to {
			rasteriseSpanRow(into, s, from, to)
		}
	}
}

// crossed returns the first and the last pixel between px0 and px1 whose sample at
// sx (in the pixel), sy (in the tile) lies inside all the edges.
func crossed(e []edge64, sx, sy, px0, px1 int64) (first, last int32) {
	for i := range e {
		r := e[i].b*sy + e[i].c
		switch a := e[i].a; {
		case a > 0: // x ≥ −r/a
			px0 = max(px0, -((floorDiv(r, a, e[i].inverse) + sx) >> subBits))
		case a < 0: // x ≤ r/−a
			px1 = min(px1, (floorDiv(r, -a, -e[i].inverse)-sx)>>subBits)
		case r < 0:
			return 1, 0
		}
	}
	return int32(px0), int32(px1)
}

// floorDiv returns ⌊r/a⌋ for a > 0, held to ±2³⁰; inverse is 1/a.
func floorDiv(r, a int64, inverse float64) int64 {
	const limit = 1 << 30
	q := float64(r) * inverse
	if q >= limit {
		return limit
	}
	if q <= -limit {
		return -limit
	}
	n := int64(q)
	for n*a > r {
		n--
	}
	for (n+1)*a <= r {
		n++
	}
	return n
}

// rasteriseSpanRow draws a row of a face.
func rasteriseSpanRow(l *layer, s *spanRow, from, to int32) {
	at := sampleAt(int(from), int(s.y))
	for x := from; x <= to; x++ {
		d, o := (*[samples]float32)(l.inverseZ[at:]), (*[samples]int32)(l.id[at:])
		for k := range samples {
			if x < s.first[k] || x > s.last[k] {
				continue
			}
			put(&d[k], &o[k], held(s.depth[k]+s.depthColumn*float32(x), inOrder(s.least), inOrder(s.nearest)), s.id)
		}
		at += samples
	}
}
