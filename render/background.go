package render

// backgroundRow is a row of the background behind everything. It is made when somebody looks at it.
type backgroundRow struct {
	y    int // of the tile
	made bool
	rgb  colours
}

// backgroundAt returns the colours of the background in a row of the tile.
func (r *Renderer) backgroundAt(t *tile, y int, v *View, l *lights) *colours {
	p := &t.background
	if p.made && p.y == y {
		return &p.rgb
	}
	p.y, p.made = y, true
	if r.behind != nil {
		r.behindRow(t, p)
	} else {
		kernel.fill(&p.rgb, &r.backgroundRows[t.y0+y])
	}
	if r.shade.meets(t) && t.y0+y >= r.shade.top && t.y0+y <= r.shade.bottom {
		if dark := r.contactShadowOf(t, y, v, l.shadow); *dark != (contactShadowRow{}) {
			kernel.darken(&p.rgb, &l.dark, dark)
		}
	}
	return &p.rgb
}

// darkenPlain mixes ink into a row, by a darkness that is straight between the ends of runs.
func darkenPlain(rgb *colours, ink *[3]float32, dark *contactShadowRow) {
	for run := range tileSide / darkRun {
		from, to := dark[run], dark[run+1]
		if from == 0 && to == 0 {
			continue
		}
		step := (to - from) * (1.0 / darkRun)
		x := run * darkRun
		r, g, b := (*[darkRun]float32)(rgb[0][x:]), (*[darkRun]float32)(rgb[1][x:]), (*[darkRun]float32)(rgb[2][x:])
		for x := range darkRun {
			d := from + step*float32(x)
			r[x] += (ink[0] - r[x]) * d
			g[x] += (ink[1] - g[x]) * d
			b[x] += (ink[2] - b[x]) * d
		}
	}
}

// drawBackground draws a tile in which there is nothing else.
func (r *Renderer) drawBackground(t *tile, v *View, l *lights) {
	for y := range t.h {
		r.intoPicture(t, y, r.backgroundAt(t, y, v, l), 0)
	}
}

// background returns the colour of the background in a row of the picture.
func (l *lights) background(y, height int) (c [3]float32) {
	u := (float32(y) + 0.5) / float32(height)
	for k := range 3 {
		c[k] = l.backgroundTop[k] + (l.backgroundBottom[k]-l.backgroundTop[k])*u
	}
	return c
}
