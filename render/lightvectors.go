//go:build goexperiment.simd && amd64

package render

import "simd/archsimd"

func wide(a *[lanes]float32) floats { return archsimd.LoadFloat32x8(a) }

func dotVectors(ax, ay, az floats, b *[3][lanes]float32) floats {
	return ax.Mul(wide(&b[0])).Add(ay.Mul(wide(&b[1]))).Add(az.Mul(wide(&b[2])))
}

// lightVectors is lights.shade for eight points at once. What it writes past the last
// point belongs to points that are still to come. Two short loops take half the time of
// one that does everything: the processor works on several rounds of them at once.
func lightVectors(p *points, from, to int, s *surface, l *lights) {
	meetLights(p, from, to, s, l)
	colourVectors(p, &p.r, from, to, 0, s, l)
	colourVectors(p, &p.g, from, to, 1, s, l)
	colourVectors(p, &p.b, from, to, 2, s, l)
}

// meetLights finds how much of each light reaches the eye, whatever its colour.
func meetLights(p *points, from, to int, s *surface, l *lights) {
	zero, one, half, minus := all(0), all(1), all(0.5), all(-1)
	w, f, squarings := &l.wide, &s.wide, s.squarings
	for i := from; i < to; i += lanes {
		nx, ny, nz := eight(p.nx[i:]), eight(p.ny[i:]), eight(p.nz[i:])
		vx, vy, vz := zero, zero, one
		if !l.parallel {
			dx, dy := eight(p.dx[i:]), eight(p.dy[i:])
			vz = one.Div(dx.Mul(dx).Add(dy.Mul(dy)).Add(one).Sqrt())
			vx, vy = zero.Sub(dx).Mul(vz), zero.Sub(dy).Mul(vz)
		}
		k := one.Div(nx.Mul(nx).Add(ny.Mul(ny)).Add(nz.Mul(nz)).Max(wide(&lightWide[tiniest])).Sqrt())
		nx, ny, nz = nx.Mul(k), ny.Mul(k), nz.Mul(k)
		nv := nx.Mul(vx).Add(ny.Mul(vy)).Add(nz.Mul(vz))
		sign := one.Merge(minus, nv.GreaterEqual(zero))
		nx, ny, nz, nv = nx.Mul(sign), ny.Mul(sign), nz.Mul(sign), nv.Mul(sign)
		twice := nv.Add(nv)
		rx, ry, rz := twice.Mul(nx).Sub(vx), twice.Mul(ny).Sub(vy), twice.Mul(nz).Sub(vz)
		put8(p.key[i:], dotVectors(nx, ny, nz, &w.key).Max(zero))
		put8(p.fill[i:], dotVectors(nx, ny, nz, &w.fill).Max(zero))
		put8(p.hemi[i:], half.Add(half.Mul(dotVectors(nx, ny, nz, &w.up))))
		refUp := dotVectors(rx, ry, rz, &w.up)
		put8(p.mirrored[i:], half.Add(half.Mul(refUp)))
		t := refUp.Add(wide(&lightWide[threshold])).Mul(wide(&lightWide[gainOfUp])).Max(zero).Min(one)
		put8(p.ceiling[i:], wide(&lightWide[floor]).Add(wide(&lightWide[rise]).Mul(t.Mul(t).Mul(wide(&lightWide[three]).Sub(t.Add(t))))))
		g := one.Sub(nv).Max(zero)
		g2 := g.Mul(g)
		put8(p.fresnel[i:], g2.Mul(g2).Mul(g).Mul(wide(&f.satin)))
		shine := dotVectors(rx, ry, rz, &w.key).Max(wide(&f.dullest))
		for range squarings {
			shine = shine.Mul(shine)
		}
		put8(p.gain[i:], shine.Mul(wide(&f.shineGain)))
	}
}

// colourVectors finds one of the three colours.
func colourVectors(p *points, out *[rowPoints + lanes]float32, from, to, c int, s *surface, l *lights) {
	w, f := &l.wide, &s.wide
	sky, ground, key, fill := wide(&w.skyLess[c]), wide(&w.ground[c]), wide(&w.keyLight[c]), wide(&w.fillLight[c])
	rough, strength := wide(&f.rough), wide(&lightWide[strength])
	f0, f0Less, diffuse := wide(&f.f0[c]), wide(&f.f0Less[c]), wide(&f.diffuse[c])
	for i := from; i < to; i += lanes {
		under := ground.Add(sky.Mul(eight(p.hemi[i:])))
		mirrored := ground.Add(sky.Mul(eight(p.mirrored[i:]))).Mul(eight(p.ceiling[i:]))
		front := f0.Add(f0Less.Mul(eight(p.fresnel[i:])))
		lit := diffuse.Mul(under.Add(key.Mul(eight(p.key[i:]))).Add(fill.Mul(eight(p.fill[i:]))))
		mirror := front.Mul(mirrored.Add(under.Sub(mirrored).Mul(rough)).Mul(strength).Add(key.Mul(eight(p.gain[i:]))))
		put8(out[i:], encodeVectors(lit.Add(mirror)))
	}
	if s.paper == 0 {
		return
	}
	sheet, paper := wide(&f.sheet[c]), wide(&f.paper)
	for i := from; i < to; i += lanes {
		v := eight(out[i:])
		put8(out[i:], v.Add(sheet.Sub(v).Mul(paper)))
	}
}

// lightWide holds the numbers of lights.shade, each eight times.
var lightWide = func() (w [7][lanes]float32) {
	for i, v := range [...]float32{threshold: 0.35, gainOfUp: 1 / 0.9, floor: 0.35, rise: 0.9, three: 3, strength: 1.25, tiniest: tiny} {
		spread(&w[i], v)
	}
	return w
}()

const (
	threshold = iota
	gainOfUp
	floor
	rise
	three
	strength
	tiniest
)

// curveWide is curve for the vector loops, then what encodeVectors needs beside it.
var curveWide = func() (w [len(curve) + 4][lanes]float32) {
	for i, c := range append(curve[:], 0, 1, steep, straight) {
		spread(&w[i], c)
	}
	return w
}()

// encodeVectors is encodeSRGB for eight values.
func encodeVectors(c floats) floats {
	w := &curveWide
	c = c.Max(wide(&w[6])).Min(wide(&w[7]))
	t := c.Sqrt()
	v := wide(&w[4]).Add(t.Mul(wide(&w[5])))
	v = wide(&w[3]).Add(t.Mul(v))
	v = wide(&w[2]).Add(t.Mul(v))
	v = wide(&w[1]).Add(t.Mul(v))
	v = wide(&w[0]).Add(t.Mul(v))
	return wide(&w[8]).Mul(c).Merge(v, c.LessEqual(wide(&w[9]))).Min(wide(&w[7]))
}
