package lettering

import (
	"math"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/render"
)

// Places are where the words of a step lie, plates and signs among them.
func (c *Captions) Places(said Said) (list []film.Area) {
	laid := c.laid(said)
	w, h := float64(c.width), float64(c.height)
	for _, g := range laid.panels {
		b := film.Area{Left: math.Inf(1), Top: math.Inf(1), Right: math.Inf(-1), Bottom: math.Inf(-1)}
		for _, q := range g.points {
			b.Left, b.Right = min(b.Left, q[0]/w), max(b.Right, q[0]/w)
			b.Top, b.Bottom = min(b.Top, q[1]/h), max(b.Bottom, q[1]/h)
		}
		list = append(list, b)
	}
	for i := range laid.lines {
		l := &laid.lines[i]
		list = append(
			list,
			film.Area{
				Left: l.x / w, Top: (l.y - 0.8*l.line.size) / h,
				Right: (l.x + l.line.width) / w, Bottom: (l.y + 0.2*l.line.size) / h,
			},
		)
	}
	return list
}

// Contrast is the ratio in which the letters of a step, and of cards over it, contrast with what is behind them in a
// picture as large as the captions are made for: what 95 % of their pixels reach at least, 0 where there are no letters.
// It is that of WCAG 2.2, "contrast ratio": (L1 + 0.05) / (L2 + 0.05) of the relative luminances, 1 to 21. Plates and
// veils are behind letters.
func (c *Captions) Contrast(behind *render.Picture, said Said, cards []film.Card) float64 {
	p := render.NewPicture(behind.Width, behind.Height)
	copy(p.RGB, behind.RGB)
	var ratios []float64
	measure := func(lines []placed) {
		for i := range lines {
			ratios = lines[i].against(p, ratios)
		}
	}
	laid := c.laid(said)
	for _, g := range laid.panels {
		fill(p, g.points, g.colour, g.alpha)
	}
	measure(laid.lines)
	for _, card := range cards {
		if !card.Clear {
			veil(p, narrow(look.Default.BackgroundTop), 1)
		}
		measure(c.cardLines(&card))
	}
	if len(ratios) == 0 {
		return 0
	}
	slices.Sort(ratios)
	return ratios[len(ratios)/20]
}

// solid is how much of a pixel a letter covers, of 255, that is compared: what is less lies on its rim.
const solid = 160

// against appends how each pixel of a line's letters contrasts with a picture that they are not drawn into yet.
func (l *placed) against(p *render.Picture, ratios []float64) []float64 {
	ink := luminance(l.ink)
	l.line.stampAt(l.x, l.y)
	for _, s := range l.line.stamps {
		for y := range s.mask.Rect.Dy() {
			for x := range s.mask.Rect.Dx() {
				px, py := s.x+x, s.y+y
				if s.mask.Pix[y*s.mask.Stride+x] < solid || px < 0 || py < 0 || px >= p.Width || py >= p.Height {
					continue
				}
				at := 3 * (py*p.Width + px)
				var behind [3]float32
				for k := range behind {
					behind[k] = float32(p.RGB[at+k]) / 255
				}
				a, b := ink+0.05, luminance(behind)+0.05
				ratios = append(ratios, max(a/b, b/a))
			}
		}
	}
	return ratios
}

// luminance is the relative luminance of a colour as it is displayed (WCAG 2.2; the threshold is that of IEC 61966-2-1).
func luminance(c [3]float32) (sum float64) {
	for k, share := range [3]float64{0.2126, 0.7152, 0.0722} {
		v := float64(c[k])
		if v <= 0.04045 {
			v /= 12.92
		} else {
			v = math.Pow((v+0.055)/1.055, 2.4)
		}
		sum += share * v
	}
	return sum
}

// SaidOf is what a step says, with notice and tools.
func SaidOf(s *reveal.Step) Said {
	return Said{Title: s.Title, Instruction: reveal.PlainProse(s.Instruction), Notice: s.Notice, Tools: s.Tools}
}
