package render

import "math"

// coverStrip draws the strip of an edge: every sample that lies within half its width
// of the line, and not further past its ends than a quarter of it, so that the
// pieces of a curve join.
func (t *tile) coverStrip(f *face, depth []float32, owner []int32, parts []int32, px0, py0, px1, py1 int32) {
	const unit = 1.0 / subPixel
	ax, ay := float32(f.x[0]-int32(t.x0)<<subBits)*unit, float32(f.y[0]-int32(t.y0)<<subBits)*unit
	dx, dy := float32(f.x[1]-f.x[0])*unit, float32(f.y[1]-f.y[0])*unit
	length := float32(math.Sqrt(float64(dx*dx + dy*dy)))
	if length == 0 {
		return
	}
	tx, ty := dx/length, dy/length
	half := float32(f.half) * unit
	least, most := -half/2, length+half/2
	wa, dw := f.w[0], (f.w[1]-f.w[0])/length
	lowest, highest := min(f.w[0], f.w[1]), max(f.w[0], f.w[1])
	var along, aside [samples]float32 // of the samples, from their pixel's corner
	reach := float32(0)
	for s := range samples {
		sx, sy := float32(offsets[s][0])*unit, float32(offsets[s][1])*unit
		along[s], aside[s] = sx*tx+sy*ty, sy*tx-sx*ty
		reach = max(reach, aside[s], -aside[s])
	}
	id, part := f.id, f.part
	for py := py0; py <= py1; py++ {
		qy := float32(py) - ay
		from, to := px0, px1
		if ty > 0.01 || ty < -0.01 { // between where the row comes near the line and leaves it
			x, wide := ax+qy*tx/ty, (half+reach)/max(ty, -ty)
			from, to = max(from, int32(x-wide)-1), min(to, int32(x+wide)+1)
		}
		qx := float32(from) - ax
		u, v := qx*tx+qy*ty, qy*tx-qx*ty
		at := (int(py)*tileSide + int(from)) * samples
		for px := from; px <= to; px++ {
			d, o := (*[samples]float32)(depth[at:]), (*[samples]int32)(owner[at:])
			for s := range samples {
				us, vs := u+along[s], v+aside[s]
				if vs > half || vs < -half || us < least || us > most {
					continue
				}
				z := wa + dw*us
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
			u, v = u+tx, v-ty
			at += samples
		}
	}
}
