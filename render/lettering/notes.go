package lettering

import (
	"image"
	"image/color"
	"math"

	"golang.org/x/image/vector"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/render"
)

// Notes sets the notes of a frame into its picture: a dot on what is meant, a
// line to the text, the text on a plate.
func (c *Captions) Notes(p *render.Picture, notes []film.Note) {
	w, h := float64(p.Width), float64(p.Height)
	unit := c.unit()
	words := look.Words
	size := words.Note * unit
	aside, above := words.NoteAside*unit, words.NoteAbove*unit
	ink, background := narrow(look.Default.Ink), narrow(look.Default.BackgroundTop)
	for i := range notes {
		n := &notes[i]
		o := float32(n.Opacity)
		left, top, right, foot := n.X*w-aside, n.Y*h-above, (n.X+n.Width)*w+aside, (n.Y+n.Height)*h+above
		ax, ay := n.AnchorX*w, n.AnchorY*h
		tx, ty := math.Max(left, math.Min(ax, right)), math.Max(top, math.Min(ay, foot))
		thick := math.Max(1.4*unit/1080, 0.75)
		radius := words.NoteDot * unit / 2
		if n.Hidden {
			dashed(p, ax, ay, tx, ty, thick, radius, ink, o)
		} else {
			fill(p, strip(ax, ay, tx, ty, thick), ink, o)
			fill(p, disc(ax, ay, radius), ink, o)
		}
		fill(p, rectangle(left, top, right, foot), background, float32(words.NoteAlpha)*o)
		for _, side := range [4][4]float64{{left, top, right, top}, {right, top, right, foot}, {right, foot, left, foot}, {left, foot, left, top}} {
			fill(p, strip(side[0], side[1], side[2], side[3], thick*0.7), ink, o)
		}
		for k, text := range n.Lines {
			c.noteLine(text, size).drawAt(p, n.X*w, n.Y*h+float64(k)*words.NoteLead*unit+size*0.98, ink, o)
		}
	}
}

// dashed draws the leader to what is hidden: dashed, from the rim of an open ring.
func dashed(p *render.Picture, ax, ay, tx, ty, thick, radius float64, ink [3]float32, alpha float32) {
	ring := disc(ax, ay, radius)
	for k := range ring {
		next := ring[(k+1)%len(ring)]
		fill(p, strip(ring[k][0], ring[k][1], next[0], next[1], thick), ink, alpha)
	}
	long := math.Hypot(tx-ax, ty-ay)
	dash := 1.6 * radius
	for at := radius; at < long; at += 1.7 * dash {
		from, to := at/long, min(at+dash, long)/long
		fill(p, strip(ax+(tx-ax)*from, ay+(ty-ay)*from, ax+(tx-ax)*to, ay+(ty-ay)*to, thick), ink, alpha)
	}
}

// noteLine returns a line of a note; it is set once.
func (c *Captions) noteLine(text string, size float64) *line {
	l, ok := c.noteLines[text]
	if !ok {
		set := c.title.set(text, size)
		l = &set
		c.noteLines[text] = l
	}
	return l
}

// strip is a line of a thickness as a polygon.
func strip(x0, y0, x1, y1, thick float64) [][2]float64 {
	l := math.Hypot(x1-x0, y1-y0)
	if l < 1e-6 {
		return nil
	}
	nx, ny := -(y1-y0)/l*thick/2, (x1-x0)/l*thick/2
	return [][2]float64{{x0 + nx, y0 + ny}, {x1 + nx, y1 + ny}, {x1 - nx, y1 - ny}, {x0 - nx, y0 - ny}}
}

func disc(x, y, radius float64) (points [][2]float64) {
	for k := range 20 {
		s, c := math.Sincos(2 * math.Pi * float64(k) / 20)
		points = append(points, [2]float64{x + radius*c, y + radius*s})
	}
	return points
}

// fill lays a display colour over a polygon.
func fill(p *render.Picture, points [][2]float64, c [3]float32, alpha float32) {
	if len(points) < 3 {
		return
	}
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, q := range points {
		x0, y0, x1, y1 = math.Min(x0, q[0]), math.Min(y0, q[1]), math.Max(x1, q[0]), math.Max(y1, q[1])
	}
	x0, y0 = math.Floor(math.Max(x0, -2)), math.Floor(math.Max(y0, -2))
	x1, y1 = math.Min(x1, float64(p.Width)+2), math.Min(y1, float64(p.Height)+2)
	if x1 <= x0 || y1 <= y0 {
		return
	}
	w, h := int(x1-x0)+2, int(y1-y0)+2
	v := vector.NewRasterizer(w, h)
	for i, q := range points {
		x, y := float32(q[0]-x0), float32(q[1]-y0)
		if i == 0 {
			v.MoveTo(x, y)
		} else {
			v.LineTo(x, y)
		}
	}
	v.ClosePath()
	mask := image.NewAlpha(image.Rect(0, 0, w, h))
	v.Draw(mask, mask.Bounds(), image.NewUniform(color.Opaque), image.Point{})
	lay(p, mask, int(x0), int(y0), c, alpha)
}

// veil lays a display colour over the whole picture.
func veil(p *render.Picture, c [3]float32, alpha float32) {
	var shades [3][256]byte
	for k := range shades {
		for v := range shades[k] {
			px := [3]byte{byte(v), byte(v), byte(v)}
			blend(&px, &c, alpha)
			shades[k][v] = px[k]
		}
	}
	p.Replace(func(rgb []byte) {
		for i := 0; i+2 < len(rgb); i += 3 {
			px := (*[3]byte)(rgb[i:])
			px[0], px[1], px[2] = shades[0][px[0]], shades[1][px[1]], shades[2][px[2]]
		}
	})
}

// lay lays a display colour over the pixels of a mask.
func lay(p *render.Picture, mask *image.Alpha, ox, oy int, c [3]float32, alpha float32) {
	size := mask.Bounds()
	p.Overlay(ox, oy, ox+size.Dx()-1, oy+size.Dy()-1)
	left, right := max(0, -ox), min(size.Dx(), p.Width-ox)
	for j := max(0, -oy); j < min(size.Dy(), p.Height-oy); j++ {
		row := p.RGB[3*(oy+j)*p.Width:]
		for i := left; i < right; i++ {
			if a := mask.Pix[j*mask.Stride+i]; a > 0 {
				blend((*[3]byte)(row[3*(ox+i):]), &c, alpha*float32(a)/255)
			}
		}
	}
}
