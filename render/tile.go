package render

const samples = 4

// offsets are the samples of a pixel in 1/256 pixel: a square turned.
var offsets = [samples][2]int32{{96, 32}, {224, 96}, {160, 224}, {32, 160}}

// tile is the work space of one worker: what is nearest at each sample.
type tile struct {
	x0, y0, w, h int // pixels
	depth        [tileSide * tileSide * samples]float32
	owner        [tileSide * tileSide * samples]int32
	parts        [tileSide * tileSide * samples]int32
	far          [blocks * blocks]float32 // of each block: the farthest of what is nearest
	over         layer                    // of one see-through part
	last         facet                    // the triangle shaded last
	moving       []binned                 // work space: what is not in the ground
	stamp        []int64                  // work space: by part, which are in the ground
	stamps       int64
	sheets       [tileSide * tileSide][maxSheets]sheet
	count        [tileSide * tileSide]uint8
}

// layer is the nearest surface of one see-through part.
type layer struct {
	depth [tileSide * tileSide * samples]float32
	owner [tileSide * tileSide * samples]int32
}

const nobody = int32(-1 << 31)

// A tile is divided into blocks of 8 × 8 pixels, so that a face behind
// everything that is already there is passed over without looking at samples.
const (
	blockSide = 8
	blocks    = tileSide / blockSide
)

// settle brings the blocks that touch a box of pixels up to date.
func (t *tile) settle(box [4]int) {
	for by := box[1] / blockSide; by <= box[3]/blockSide; by++ {
		for bx := box[0] / blockSide; bx <= box[2]/blockSide; bx++ {
			x1, y1 := min((bx+1)*blockSide, t.w), min((by+1)*blockSide, t.h)
			far := t.depth[(by*blockSide*tileSide+bx*blockSide)*samples]
			for y := by * blockSide; y < y1 && far > 0; y++ {
				for _, d := range t.depth[(y*tileSide+bx*blockSide)*samples : (y*tileSide+x1)*samples] {
					if d < far {
						far = d
					}
				}
			}
			t.far[by*blocks+bx] = far
		}
	}
}

// hidden reports whether a face with the given pixel bounds (in the tile) lies
// behind what is there, wherever it may show. nearest is its largest 1/z.
func (t *tile) hidden(nearest float32, x0, y0, x1, y1 int) bool {
	for by := y0 / blockSide; by <= y1/blockSide; by++ {
		for bx := x0 / blockSide; bx <= x1/blockSide; bx++ {
			if nearest >= t.far[by*blocks+bx] {
				return false
			}
		}
	}
	return true
}

func (t *tile) clear() {
	for i := range t.depth {
		t.depth[i] = 0
	}
	for i := range t.owner {
		t.owner[i] = nobody
	}
	clear(t.count[:])
	clear(t.far[:])
	t.last.finish = nil // triangles move from frame to frame
}

// cover draws a face into depth, owner and parts. A sample goes to the nearer
// face, and to the higher id where both are equally near. Coverage follows the
// top-left rule on whole 1/256 pixels, so that faces which share an edge leave
// no gap and no overlap.
func (t *tile) cover(f *face, depth []float32, owner []int32, parts []int32) {
	x0, y0, x1, y1 := f.bounds()
	px0, py0 := max(x0-int32(t.x0), 0), max(y0-int32(t.y0), 0)
	px1, py1 := min(x1-int32(t.x0), int32(t.w-1)), min(y1-int32(t.y0), int32(t.h-1))
	if px0 > px1 || py0 > py1 || t.hidden(max(f.w[0], f.w[1], f.w[2]), int(px0), int(py0), int(px1), int(py1)) {
		return
	}
	if f.half > 0 {
		t.coverStrip(f, depth, owner, parts, px0, py0, px1, py1)
		return
	}
	if f.side() <= smallSide<<subBits {
		t.coverSmall(f, depth, owner, parts, px0, py0, px1, py1)
		return
	}
	t.coverLarge(f, depth, owner, parts, int64(px0), int64(py0), int64(px1), int64(py1))
}

// coverLarge does what cover does for a face of any size: row by row, between the
// pixels in which some sample can lie inside.
func (t *tile) coverLarge(f *face, depth []float32, owner []int32, parts []int32, px0, py0, px1, py1 int64) {
	lowest, highest := min(f.w[0], f.w[1], f.w[2]), max(f.w[0], f.w[1], f.w[2])
	ox, oy := int32(t.x0)<<subBits, int32(t.y0)<<subBits
	x := [3]int64{int64(f.x[0] - ox), int64(f.x[1] - ox), int64(f.x[2] - ox)}
	y := [3]int64{int64(f.y[0] - oy), int64(f.y[1] - oy), int64(f.y[2] - oy)}
	// Edge functions e = a·x + b·y + c, not negative inside.
	var a, b, c, most [3]int64
	var slope [3]float64 // 1/a in pixels: where an edge crosses a row
	var inside [3][samples]int64
	for i := range 3 {
		j := (i + 1) % 3
		a[i], b[i] = y[i]-y[j], x[j]-x[i]
		c[i] = -(a[i]*x[i] + b[i]*y[i])
		if !(a[i] > 0 || a[i] == 0 && b[i] < 0) {
			c[i]--
		}
		if a[i] != 0 {
			slope[i] = 1 / float64(a[i]) / subPixel
		}
		for s := range samples {
			inside[i][s] = a[i]*int64(offsets[s][0]) + b[i]*int64(offsets[s][1])
		}
		most[i] = max(inside[i][0], inside[i][1], inside[i][2], inside[i][3])
	}
	// 1/z is linear on the screen.
	area := float64((x[1]-x[0])*(y[2]-y[0]) - (x[2]-x[0])*(y[1]-y[0]))
	w0, w1, w2 := float64(f.w[0]), float64(f.w[1]), float64(f.w[2])
	dx := ((w1-w0)*float64(y[2]-y[0]) - (w2-w0)*float64(y[1]-y[0])) / area
	dy := ((w2-w0)*float64(x[1]-x[0]) - (w1-w0)*float64(x[2]-x[0])) / area
	base := w0 - dx*float64(x[0]) - dy*float64(y[0])
	var ow [samples]float32
	for s := range samples {
		ow[s] = float32(dx*float64(offsets[s][0]) + dy*float64(offsets[s][1]))
	}
	step := float32(dx * subPixel)
	d0, d1, d2 := a[0]<<subBits, a[1]<<subBits, a[2]<<subBits
	id, part := f.id, f.part
	in0, in1, in2 := &inside[0], &inside[1], &inside[2]
	for py := py0; py <= py1; py++ {
		sy := py << subBits
		r0, r1, r2 := b[0]*sy+c[0], b[1]*sy+c[1], b[2]*sy+c[2]
		from, to := span(px0, px1, a, [3]int64{r0 + most[0], r1 + most[1], r2 + most[2]}, &slope)
		if from > to {
			continue
		}
		sx := from << subBits
		e0, e1, e2 := a[0]*sx+r0, a[1]*sx+r1, a[2]*sx+r2
		w := float32(base + dx*float64(sx) + dy*float64(sy))
		at := (int(py)*tileSide + int(from)) * samples
		for range to - from + 1 {
			if (e0+most[0])|(e1+most[1])|(e2+most[2]) >= 0 {
				d, o := (*[samples]float32)(depth[at:]), (*[samples]int32)(owner[at:])
				for s := range samples {
					if (e0+in0[s])|(e1+in1[s])|(e2+in2[s]) < 0 {
						continue
					}
					z := w + ow[s]
					if z < lowest {
						z = lowest
					} else if z > highest {
						z = highest
					}
					if z > d[s] || z == d[s] && id > o[s] {
						d[s], o[s] = z, id
						if parts != nil {
							parts[at+s] = part
						}
					}
				}
			}
			e0, e1, e2 = e0+d0, e1+d1, e2+d2
			w += step
			at += samples
		}
	}
}

// side returns the greater of a face's width and height, in 1/256 pixel. It is the
// same in every tile that the face touches.
func (f *face) side() int32 {
	return max(max(f.x[0], f.x[1], f.x[2])-min(f.x[0], f.x[1], f.x[2]), max(f.y[0], f.y[1], f.y[2])-min(f.y[0], f.y[1], f.y[2]))
}

// span narrows the pixels from px0 to px1 of a row to those that can lie
// inside all three edges, with a pixel to spare on each side: the exact test
// follows. r holds the edge functions at x = 0.
func span(px0, px1 int64, a, r [3]int64, slope *[3]float64) (from, to int64) {
	from, to = px0, px1
	for i := range 3 {
		switch {
		case a[i] > 0:
			if x := int64(-float64(r[i])*slope[i]) - 1; x > from {
				from = x
			}
		case a[i] < 0:
			if x := int64(-float64(r[i])*slope[i]) + 1; x < to {
				to = x
			}
		case r[i] < 0:
			return 1, 0
		}
	}
	return from, to
}
