package lettering

import (
	"math"

	"slowreveal/core/look"
	"slowreveal/core/reveal"
)

// panel is a plate under words, or part of a sign.
type panel struct {
	points [][2]float64
	colour [3]float32
	alpha  float32
}

func rectangle(left, top, right, foot float64) [][2]float64 {
	return [][2]float64{{left, top}, {right, top}, {right, foot}, {left, foot}}
}

// notice is a notice laid out about its own upper left corner.
type notice struct {
	lines         []placed
	panels        []panel
	width, height float64
}

// layNotice sets the signal word on its colour, with the safety alert symbol before it, and the text beside it on
// paper (ANSI Z535.6, from memory).
func (c *Captions) layNotice(n *reveal.Notice, size, lead, column float64) notice {
	sign, known := look.Signals[n.Signal]
	if !known {
		sign = look.Signals[reveal.NoticeWord]
	}
	letters, colour := narrow(sign.Letters), narrow(sign.Panel)
	pad := 0.45 * size
	word := c.title.set(string(n.Signal), size)
	symbol := 0.0
	if sign.Alert {
		symbol = 1.25 * size
	}
	signal := word.width + symbol + 2*pad
	text := c.text.shape(n.Text, size, max(column-signal-2*pad, column/3))
	broad := 0.0
	for i := range text {
		broad = max(broad, text[i].width)
	}
	out := notice{width: signal + 2*pad + broad, height: float64(max(1, len(text)))*lead + 0.5*pad}
	out.panels = append(out.panels,
		panel{rectangle(0, 0, out.width, out.height), narrow(look.Default.BackgroundTop), 0.94},
		panel{rectangle(0, 0, signal, out.height), colour, 1})
	base := 0.25*pad + 0.74*lead
	x := pad
	if sign.Alert {
		out.panels = append(out.panels, alert(x, base, size, letters, colour)...)
		x += symbol
	}
	out.lines = append(out.lines, placed{word, x, base, letters})
	for i, l := range text {
		out.lines = append(out.lines, placed{l, signal + pad, base + float64(i)*lead, narrow(look.Default.Ink)})
	}
	return out
}

// alert is the safety alert symbol on a baseline: a triangle with an exclamation mark in it.
func alert(x, base, size float64, ink, ground [3]float32) []panel {
	side := 1.05 * size
	high := side * math.Sqrt(3) / 2
	middle := x + side/2
	bar := 0.085 * size
	return []panel{
		{[][2]float64{{x, base}, {x + side, base}, {middle, base - high}}, ink, 1},
		{
			[][2]float64{
				{middle - bar, base - 0.66*high},
				{middle + bar, base - 0.66*high},
				{middle + 0.55*bar, base - 0.27*high},
				{middle - 0.55*bar, base - 0.27*high},
			},
			ground,
			1,
		},
		{disc(middle, base-0.14*high, bar), ground, 1},
	}
}

// under puts the notice at a place of the caption.
func (n *notice) under(out *caption, x, y float64) {
	for _, p := range n.panels {
		moved := make([][2]float64, len(p.points))
		for i, q := range p.points {
			moved[i] = [2]float64{x + q[0], y + q[1]}
		}
		out.panels = append(out.panels, panel{moved, p.colour, p.alpha})
	}
	for _, l := range n.lines {
		out.lines = append(out.lines, placed{l.line, x + l.x, y + l.y, l.ink})
	}
}
