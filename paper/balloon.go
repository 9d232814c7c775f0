package paper

import (
	"fmt"
	"image/color"
	"math"

	"slowreveal/core/item"
	"slowreveal/core/linedrawing"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
)

// Balloon draws an item reference: a dot on the part, a leader, a circle with the number (ISO 6433).
func (p *Page) Balloon(fonts *Fonts, r *item.Reference, number int, radius float64) {
	thin := radius / 17
	dx, dy := r.Centre.X-r.From.X, r.Centre.Y-r.From.Y
	l := max(1e-9, math.Hypot(dx, dy))
	ex, ey := r.Centre.X-dx/l*radius, r.Centre.Y-dy/l*radius
	p.Line(r.From.X, r.From.Y, ex, ey, Pen{Width: thin + 0.65, Ink: White})
	p.Line(r.From.X, r.From.Y, ex, ey, Pen{Width: thin, Ink: Ink})
	p.Fill(Circle(r.From.X, r.From.Y, 0.85), White)
	p.Fill(Circle(r.From.X, r.From.Y, 0.6), Ink)
	circle := Circle(r.Centre.X, r.Centre.Y, radius)
	p.Fill(circle, White)
	p.Stroke(circle, Pen{Width: 1.4 * thin, Ink: Ink})
	p.SayMiddle(fonts.Words(Title, radius, Ink), fmt.Sprint(number), r.Centre.X, r.Centre.Y+0.36*radius)
}

// Arrow draws a way as an arrow with its head at the end, in a colour on a white rim.
func (p *Page) Arrow(points []linedrawing.Point, width float64, ink color.RGBA) {
	if len(points) < 2 || lengthOf(points) < 5*width {
		return
	}
	head := min(4.2*width, 0.6*lengthOf(points))
	body := reversed(cut(reversed(points), head*0.8))
	end, before := points[len(points)-1], body[len(body)-1]
	dx, dy := end.X-before.X, end.Y-before.Y
	l := max(1e-9, math.Hypot(dx, dy))
	dx, dy = dx/l*head, dy/l*head
	var line, tip Outline
	line.follow(linedrawing.Fit(body, fitWithin))
	tip.Move(end.X, end.Y)
	tip.Line(end.X-dx-dy*0.48, end.Y-dy+dx*0.48)
	tip.Line(end.X-dx+dy*0.48, end.Y-dy-dx*0.48)
	tip.Close()
	p.Stroke(&line, Pen{Width: 2.1 * width, Ink: White})
	p.Stroke(&tip, Pen{Width: 1.1 * width, Ink: White})
	p.Stroke(&line, Pen{Width: width, Ink: ink})
	p.Fill(&tip, ink)
}

// Signal draws a safety message: the signal word on its colour with the safety alert symbol before it, the text beside
// it, on white with a border in that colour (ANSI Z535.6, ISO 3864-2; from memory). It returns how high it is; with
// draw false it only says so.
func (p *Page) Signal(fonts *Fonts, n *reveal.Notice, size, x, y, width float64, draw bool) (height float64) {
	sign, known := look.Signals[n.Signal]
	if !known {
		sign = look.Signals[reveal.NoticeWord]
	}
	panel, letters := Colour(sign.Panel), Colour(sign.Letters)
	word := fonts.Words(Title, size*1.15, letters)
	symbol := 0.0
	if sign.Alert {
		symbol = 1.7 * size
	}
	pad := 0.7 * size
	signal := word.Width(string(n.Signal)) + symbol + 2*pad
	text := fonts.Words(Text, size, Ink).Set(n.Text, width-signal-2*pad)
	height = max(text.Height+1.3*pad, 2.4*size)
	if !draw {
		return height
	}
	p.Fill(Box{x, y, signal, height}.Outline(), panel)
	p.Stroke(Box{x, y, width, height}.Outline(), Pen{Width: 0.35, Ink: panel, Square: true})
	middle := y + height/2
	if sign.Alert {
		p.alert(x+pad+0.55*size, middle, 1.25*size, letters, panel)
	}
	p.Say(word, string(n.Signal), x+pad+symbol, middle+0.41*size)
	text.Draw(p, x+signal+pad, middle-text.Height/2)
	return height
}

// alert draws the safety alert symbol: a triangle with an exclamation mark.
func (p *Page) alert(x, y, size float64, ink, ground color.RGBA) {
	var o, bar Outline
	o.Move(x, y-0.56*size)
	o.Line(x+0.62*size, y+0.5*size)
	o.Line(x-0.62*size, y+0.5*size)
	o.Close()
	p.Fill(&o, ink)
	bar.Move(x-0.075*size, y-0.22*size)
	bar.Line(x+0.075*size, y-0.22*size)
	bar.Line(x+0.045*size, y+0.17*size)
	bar.Line(x-0.045*size, y+0.17*size)
	bar.Close()
	p.Fill(&bar, ground)
	p.Fill(Circle(x, y+0.3*size, 0.075*size), ground)
}
