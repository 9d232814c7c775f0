package render

// colours are the display values of a row of a tile's pixels: all red ones, then the green
// and the blue ones.
type colours [3][tileSide]float32

// set gives one pixel its colour.
func (c *colours) set(x int, rgb *[3]float32) { c[0][x], c[1][x], c[2][x] = rgb[0], rgb[1], rgb[2] }

// add adds a share of a colour to a pixel.
func (c *colours) add(x int, rgb *[3]float32, share float32) {
	c[0][x] += rgb[0] * share
	c[1][x] += rgb[1] * share
	c[2][x] += rgb[2] * share
}

// fillPlain gives all pixels one colour.
func fillPlain(out *colours, rgb *[3]float32) {
	for c := range out {
		row := &out[c]
		for x := range lanes {
			row[x] = rgb[c]
		}
		for n := lanes; n < tileSide; n *= 2 { // copies are wide
			copy(row[n:2*n], row[:n])
		}
	}
}

// choosePlain takes over the pixels of a set.
func choosePlain(out, from *colours, set uint64) {
	for ; set != 0; set &= set - 1 {
		x := lowest(set)
		out[0][x], out[1][x], out[2][x] = from[0][x], from[1][x], from[2][x]
	}
}

// rowBytes are the pixels of a row as a picture has them. Past them is room for vectors that
// end there.
type rowBytes [3*tileSide + 4]byte

// quantisePlain turns display values into what bytes hold, rounded as more says.
func quantisePlain(in *colours, more *[tileSide]float32, out *rowBytes) {
	for x := range tileSide {
		out[3*x] = byte(in[0][x]*255 + more[x])
		out[3*x+1] = byte(in[1][x]*255 + more[x])
		out[3*x+2] = byte(in[2][x]*255 + more[x])
	}
}

// layPlain puts the colours of a run of a flat facet into its pixels.
func layPlain(out *colours, q *shadingSamples, r *flatRun) {
	x, end, step := int(r.x), int(r.x)+int(r.n), int(r.step)
	share := 1 / float32(step)
	for c := range q.rgb {
		k, to := int(r.first), int(r.begin)
		for i := x; i < end; k++ {
			to += step
			from, rise := q.rgb[c][k], (q.rgb[c][k+1]-q.rgb[c][k])*share
			for ; i < min(to, end); i++ {
				out[c][i] = from + rise*float32(i&(step-1))
			}
		}
	}
}
