package render

// smallSide is the largest width or height, in pixels, of faces that coverSmall
// draws. Most faces of a real assembly are: for them setting up spans costs more
// than looking at every sample of their few pixels, and 32 bits hold all numbers.
const smallSide = 16

// coverSmall does what cover does for a small face: px0 … py1 are its pixels in the
// tile.
func (t *tile) coverSmall(f *face, depth []float32, owner []int32, parts []int32, px0, py0, px1, py1 int32) {
	ox, oy := (int32(t.x0)+px0)<<subBits, (int32(t.y0)+py0)<<subBits
	x0, x1, x2 := f.x[0]-ox, f.x[1]-ox, f.x[2]-ox
	y0, y1, y2 := f.y[0]-oy, f.y[1]-oy, f.y[2]-oy
	a0, a1, a2 := y0-y1, y1-y2, y2-y0
	b0, b1, b2 := x1-x0, x2-x1, x0-x2
	c0, c1, c2 := -(a0*x0 + b0*y0), -(a1*x1 + b1*y1), -(a2*x2 + b2*y2)
	if !(a0 > 0 || a0 == 0 && b0 < 0) {
		c0--
	}
	if !(a1 > 0 || a1 == 0 && b1 < 0) {
		c1--
	}
	if !(a2 > 0 || a2 == 0 && b2 < 0) {
		c2--
	}
	w0 := f.w[0]
	inverse := 1 / float32(b0*(y2-y0)-(x2-x0)*(y1-y0))
	dx := ((f.w[1]-w0)*float32(y2-y0) - (f.w[2]-w0)*float32(y1-y0)) * inverse
	dy := ((f.w[2]-w0)*float32(b0) - (f.w[1]-w0)*float32(x2-x0)) * inverse
	base := w0 - dx*float32(x0) - dy*float32(y0)
	lowest, highest := min(f.w[0], f.w[1], f.w[2]), max(f.w[0], f.w[1], f.w[2])
	var o0, o1, o2 [samples]int32
	var ow [samples]float32
	for s := range samples {
		sx, sy := offsets[s][0], offsets[s][1]
		o0[s], o1[s], o2[s] = a0*sx+b0*sy+c0, a1*sx+b1*sy+c1, a2*sx+b2*sy+c2
		ow[s] = base + dx*float32(sx) + dy*float32(sy)
	}
	// The largest of the samples' values: where it is negative, all of them are.
	most0, most1, most2 := max(o0[0], o0[1], o0[2], o0[3]), max(o1[0], o1[1], o1[2], o1[3]), max(o2[0], o2[1], o2[2], o2[3])
	id, part := f.id, f.part
	for row := range py1 - py0 + 1 {
		e0, e1, e2 := b0*row<<subBits, b1*row<<subBits, b2*row<<subBits
		w := dy * float32(row<<subBits)
		at := int((py0+row)*tileSide+px0) * samples
		for range px1 - px0 + 1 {
			if (e0+most0)|(e1+most1)|(e2+most2) >= 0 {
				d, o := (*[samples]float32)(depth[at:]), (*[samples]int32)(owner[at:])
				for s := range samples {
					if (e0+o0[s])|(e1+o1[s])|(e2+o2[s]) < 0 {
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
			e0, e1, e2 = e0+a0<<subBits, e1+a1<<subBits, e2+a2<<subBits
			w += dx * subPixel
			at += samples
		}
	}
}
