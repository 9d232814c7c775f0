package render

import "slowreveal/core/solid"

// maxSheets is how many see-through surfaces a pixel can hold; the farthest
// go first when there are more.
const maxSheets = 8

// sheet is what one see-through part adds to a pixel.
type sheet struct {
	depth float32 // 1/z: larger is nearer
	rgb   [3]float32
	alpha float32
}

func patchOf(patches []solid.Patch, triangle int) int {
	for i := range patches {
		if triangle < int(patches[i].First+patches[i].Count) {
			return i
		}
	}
	return len(patches) - 1
}

// ray returns the direction from the eye through the middle of a pixel.
func (r *Renderer) ray(v *View, x, y int) [3]float32 {
	return [3]float32{(float32(x)+0.5)*r.rayAcross - float32(v.Camera.tanH), float32(v.Camera.tanV) - (float32(y)+0.5)*r.rayDown, -1}
}

// resolve turns what is visible into pixels of the picture: the paper, then the
// solid parts, then the see-through ones from far to near. What the ground shows
// there already is left alone.
func (r *Renderer) resolve(t *tile, v *View, l *lights, g *ground) {
	base := r.memory.base
	for y := range t.h {
		paper := l.paper(t.y0+y, r.height)
		plain := [3]byte{byte(paper[0]*255 + 0.5), byte(paper[1]*255 + 0.5), byte(paper[2]*255 + 0.5)}
		unshaded := t.y0+y < r.shade.top || t.y0+y > r.shade.bottom
		row := base.RGB[3*((t.y0+y)*base.Width+t.x0):]
		for x := range t.w {
			at := y*tileSide + x
			sheets := int(t.count[at])
			if g != nil && sheets == 0 && g.shown[at] && t.sameAs(g, at) {
				continue
			}
			if g == nil && sheets == 0 && (unshaded || t.x0+x < r.shade.left || t.x0+x > r.shade.right) && t.empty(at) {
				row[3*x], row[3*x+1], row[3*x+2] = plain[0], plain[1], plain[2]
				continue
			}
			d := r.ray(v, t.x0+x, t.y0+y)
			var rgb [3]float32
			if g != nil {
				rgb = r.colourOf(t, g, at, d, v, l)
				g.shown[at] = sheets == 0 && g.known[at] && t.sameAs(g, at)
			} else {
				rgb = r.solidAt(t, at, d, v, l)
			}
			for i := sheets - 1; i >= 0; i-- {
				s := &t.sheets[at][i]
				for k := range 3 {
					rgb[k] += (s.rgb[k] - rgb[k]) * s.alpha
				}
			}
			row[3*x], row[3*x+1], row[3*x+2] = byte(rgb[0]*255+0.5), byte(rgb[1]*255+0.5), byte(rgb[2]*255+0.5)
		}
	}
}

// empty reports whether nothing solid lies in a pixel.
func (t *tile) empty(at int) bool {
	return *(*[samples]int32)(t.owner[at*samples:]) == [samples]int32{nobody, nobody, nobody, nobody}
}

// paper returns the colour of the paper in a row of the picture.
func (l *lights) paper(y, height int) (c [3]float32) {
	u := (float32(y) + 0.5) / float32(height)
	for k := range 3 {
		c[k] = l.paperTop[k] + (l.paperFoot[k]-l.paperTop[k])*u
	}
	return c
}

// solidAt returns the mean over the samples of a pixel, shading each part once: the
// first of its faces there stands for the others, which differ from it by less than
// can be seen where no edge lies between them.
func (r *Renderer) solidAt(t *tile, at int, d [3]float32, v *View, l *lights) [3]float32 {
	owners, parts := (*[samples]int32)(t.owner[at*samples:]), (*[samples]int32)(t.parts[at*samples:])
	if owners[0] == owners[1] && owners[1] == owners[2] && owners[2] == owners[3] {
		return r.solidColour(t, at, 0, d, v, l)
	}
	var sum [3]float32
	var done [samples]bool
	for s := range samples {
		if done[s] {
			continue
		}
		n := float32(0)
		for q := s; q < samples; q++ {
			same := owners[q] == owners[s] || owners[q] >= 0 && owners[s] >= 0 && parts[q] == parts[s] ||
				owners[q] < 0 && owners[s] < 0 && owners[q] != nobody && owners[s] != nobody // ink is ink
			if same && !done[q] {
				n++
				done[q] = true
			}
		}
		c := r.solidColour(t, at, s, d, v, l)
		sum[0], sum[1], sum[2] = sum[0]+c[0]*n, sum[1]+c[1]*n, sum[2]+c[2]*n
	}
	return [3]float32{sum[0] / samples, sum[1] / samples, sum[2] / samples}
}

// solidColour is what is nearest at one sample: paper, ink or a surface.
func (r *Renderer) solidColour(t *tile, at, sample int, d [3]float32, v *View, l *lights) [3]float32 {
	switch id := t.owner[at*samples+sample]; {
	case id == nobody:
		return r.ground(d, v, l, t.y0+at/tileSide)
	case id < 0:
		return l.ink
	default:
		f := r.facetOf(t, t.parts[at*samples+sample], id)
		return l.shade(f.finish, f.normal(d), d)
	}
}

// ground returns the paper behind everything, with the contact shadow where
// the ray meets the ground.
func (r *Renderer) ground(d [3]float32, v *View, l *lights, y int) [3]float32 {
	c := l.paper(y, r.height)
	m := &v.Camera.eye.R
	from := [3]float32{float32(v.Camera.eye.T.X), float32(v.Camera.eye.T.Y), float32(v.Camera.eye.T.Z)}
	if v.Camera.parallel { // every line of sight begins elsewhere and runs the same way
		away := float32(v.Camera.distance)
		for k := range 3 {
			from[k] += away * (float32(m[3*k])*d[0] + float32(m[3*k+1])*d[1])
		}
		d = [3]float32{0, 0, -1}
	}
	down := float32(m[3])*d[0] + float32(m[4])*d[1] + float32(m[5])*d[2]
	height := from[1] - float32(v.shadow.Height)
	if !(down < -1e-6) || height <= 0 && !v.Camera.parallel {
		return c
	}
	s := height / -down
	x := from[0] + s*(float32(m[0])*d[0]+float32(m[1])*d[1]+float32(m[2])*d[2])
	z := from[2] + s*(float32(m[6])*d[0]+float32(m[7])*d[1]+float32(m[8])*d[2])
	dark := v.shadow.At(x, z) * l.shadow
	for k := range 3 {
		c[k] += (l.ink[k] - c[k]) * dark
	}
	return c
}

// addSheets lays one see-through part, drawn into t.over, onto the pixels'
// lists of sheets.
func (r *Renderer) addSheets(t *tile, part int32, v *View, l *lights, box [4]int, strip float32) {
	for y := box[1]; y <= box[3]; y++ {
		for x := box[0]; x <= box[2]; x++ {
			at := y*tileSide + x
			var s sheet
			var weight, n float32
			d := r.ray(v, t.x0+x, t.y0+y)
			last := nobody
			var c [3]float32
			var alpha float32
			for q := range samples {
				i := at*samples + q
				id := t.over.owner[i]
				if id == nobody {
					continue
				}
				if id != last {
					c, alpha = r.sheetColour(t, part, id, d, strip, l)
					last = id
				}
				for k := range 3 {
					s.rgb[k] += c[k] * alpha
				}
				weight += alpha
				s.depth += t.over.depth[i]
				n++
			}
			if weight == 0 {
				continue
			}
			for k := range 3 {
				s.rgb[k] /= weight
			}
			s.alpha, s.depth = weight/samples, s.depth/n
			t.insert(at, &s)
		}
	}
}

// sheetColour returns the colour and the opacity of a face, or of an edge's strip.
func (r *Renderer) sheetColour(t *tile, part, id int32, d [3]float32, strip float32, l *lights) ([3]float32, float32) {
	if id < 0 {
		return l.ink, strip
	}
	f := r.facetOf(t, part, id)
	return l.shade(f.finish, f.normal(d), d), f.finish.opacity * r.seen[part].facing
}

// insert keeps a pixel's sheets sorted from near to far.
func (t *tile) insert(at int, s *sheet) {
	list := &t.sheets[at]
	n := int(t.count[at])
	if n == maxSheets {
		if s.depth <= list[n-1].depth {
			return
		}
		n--
	}
	i := n
	for i > 0 && list[i-1].depth < s.depth {
		list[i] = list[i-1]
		i--
	}
	list[i] = *s
	t.count[at] = uint8(n + 1)
}
