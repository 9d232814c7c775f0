package paper

import (
	"context"
	"fmt"
	"slices"

	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/linedrawing"
	"slowreveal/core/look"
	"slowreveal/core/reveal"
)

// StillSettings say how a moment is drawn as lines.
type StillSettings struct {
	// Width is that of the drawing, mm; its height follows from the frame. 170 when left out.
	Width float64 `json:"width,omitempty"`
	// LineWidth is that of wide lines, mm: 0.5 when left out.
	LineWidth float64 `json:"lineWidth,omitempty"`
	Filling   Filling `json:"filling,omitempty"`
	Hidden    bool    `json:"hidden,omitempty"`  // hidden lines dashed
	NoFlow    bool    `json:"noFlow,omitempty"`  // without flow lines
	NoNotes   bool    `json:"noNotes,omitempty"` // without notes
	// References puts item references around it, with the numbers of the parts list.
	References bool `json:"references,omitempty"`
	// Section cuts it open.
	Section *Section `json:"section,omitempty"`
}

// balloon is the radius of item references around a drawing of a width, mm, and border how wide the border is that they
// stand on.
func balloon(width float64) (radius, border float64) {
	radius = max(2, min(4.5, width/40))
	return radius, 3.2 * radius
}

// Fill completes the settings and checks them.
func (s *StillSettings) Fill() error {
	if s.Width == 0 {
		s.Width = 170
	}
	if s.LineWidth == 0 {
		s.LineWidth = 0.5
	}
	switch {
	case s.Width < 20 || s.Width > 2000:
		return fmt.Errorf("a drawing of %.4g mm is not between 20 and 2000 mm wide", s.Width)
	case s.LineWidth < 0.05 || s.LineWidth > 3:
		return fmt.Errorf("wide lines of %.3g mm are not between 0.05 and 3 mm", s.LineWidth)
	case s.Filling != "" && !slices.Contains(Fillings, s.Filling):
		return fmt.Errorf("a drawing has no filling %q; there are none, shaded, tinted and flat", s.Filling)
	}
	if s.Section != nil {
		return s.Section.Check()
	}
	return nil
}

// Still draws a moment of the film as its camera sees it, or as an eye of its own does: a page as large as the drawing,
// with a border where it has references to items. aspect is the frame's, width over height.
func (s *Subject) Still(
	ctx context.Context,
	fonts *Fonts,
	t reveal.Micros,
	eye *reveal.Camera,
	aspect float64,
	set StillSettings,
	items []item.Item,
) (*Page, error) {
	fr := s.At(t)
	camera := fr.Camera
	if eye != nil {
		camera = *eye
	}
	radius, border := 0.0, 0.0
	if set.References {
		radius, border = balloon(set.Width)
	}
	page := NewPage(set.Width, rounded((set.Width-2*border)/aspect+2*border))
	frame := Box{0, 0, page.Width, page.Height}.In(border)
	place := FrameIn(frame, camera, aspect)
	v, err := s.View(
		ctx,
		fr,
		camera,
		ViewSettings{
			Filling:   set.Filling,
			Hidden:    set.Hidden,
			FlowLines: !set.NoFlow && set.Section == nil,
			Section:   set.Section,
			Aspect:    aspect,
		},
	)
	if err != nil {
		return nil, fmt.Errorf("%.2f s: %w", float64(t)/1e6, err)
	}
	if err := page.Draw(v, place, UsualPens(set.LineWidth)); err != nil {
		return nil, err
	}
	var notes []film.Note
	if !set.NoNotes && eye == nil {
		notes = set.Section.notesOf(fr)
	}
	if set.References {
		if err := page.refer(fonts, v, place, frame, items, notes, radius); err != nil {
			return nil, err
		}
	}
	page.notes(fonts, frame, notes)
	return page, nil
}

// refer draws the references to the items that are seen in a frame: around what is drawn there, and the notes on it.
func (p *Page) refer(
	fonts *Fonts,
	v *View,
	place Place,
	frame Box,
	items []item.Item,
	notes []film.Note,
	radius float64,
) error {
	anchors, err := v.Anchors(place, AnchorPixels)
	if err != nil {
		return err
	}
	all := make([]int, len(items))
	for i := range all {
		all[i] = i
	}
	candidates, some := item.Gather(items, all, anchors, func(c item.Candidate) bool { return frame.Holds(c.X, c.Y) })
	x0, y0 := place(linedrawing.Point{X: v.Min.X, Y: v.Max.Y})
	x1, y1 := place(linedrawing.Point{X: v.Max.X, Y: v.Min.Y})
	for i := range notes {
		n := &notes[i]
		x, y := frame.X+n.X*frame.Width, frame.Y+n.Y*frame.Height
		x0, y0 = min(x0, x), min(y0, y)
		x1, y1 = max(x1, x+n.Width*frame.Width), max(y1, y+n.Height*frame.Height)
	}
	outer := Box{0, 0, p.Width, p.Height}.In(0.8)
	area := item.Area{
		InnerMin: item.Point{X: max(x0, frame.X), Y: max(y0, frame.Y)},
		InnerMax: item.Point{X: min(x1, frame.Right()), Y: min(y1, frame.Foot())},
		OuterMin: item.Point{X: outer.X, Y: outer.Y},
		OuterMax: item.Point{X: outer.Right(), Y: outer.Foot()},
		Radius:   radius,
	}
	area.Shrink(some, 1.5)
	placed, _ := item.Place(candidates, area)
	for i := range placed {
		p.Balloon(fonts, &placed[i], items[placed[i].Item].Number, area.Radius)
	}
	return nil
}

// FrameIn places a camera's frame over a box of a page.
func FrameIn(b Box, c reveal.Camera, aspect float64) Place {
	across, up := film.Field(c.FocalLength, aspect)
	if c.Orthographic {
		across, up = across*c.Distance, up*c.Distance
	}
	return func(q linedrawing.Point) (x, y float64) {
		return b.X + b.Width*(0.5+q.X/across/2), b.Y + b.Height*(0.5-q.Y/up/2)
	}
}

// notes draws the notes of a frame in its box: a dot on what is meant, or an open ring and a dashed leader where that is
// hidden, a line to the text, the text on a plate.
func (p *Page) notes(fonts *Fonts, frame Box, notes []film.Note) {
	unit := min(frame.Width, frame.Height)
	words := fonts.Words(Title, look.Words.Note*unit, Ink)
	aside, above := look.Words.NoteAside*unit, look.Words.NoteAbove*unit
	pen := Pen{Width: 0.25, Ink: Ink}
	for i := range notes {
		n := &notes[i]
		x, y := frame.X+n.X*frame.Width, frame.Y+n.Y*frame.Height
		box := Box{x - aside, y - above, n.Width*frame.Width + 2*aside, n.Height*frame.Height + 2*above}
		ax, ay := frame.X+n.AnchorX*frame.Width, frame.Y+n.AnchorY*frame.Height
		tx, ty := max(box.X, min(ax, box.Right())), max(box.Y, min(ay, box.Foot()))
		leader, dot := pen, look.Words.NoteDot*unit/2
		if n.Hidden {
			leader.Dashes = []float64{1, 0.8}
		}
		p.Line(ax, ay, tx, ty, Pen{Width: 0.9, Ink: White})
		p.Line(ax, ay, tx, ty, leader)
		if n.Hidden {
			p.Fill(Circle(ax, ay, dot), White)
			p.Stroke(Circle(ax, ay, dot), pen)
		} else {
			p.Fill(Circle(ax, ay, dot), Ink)
		}
		p.Fill(box.Outline(), White)
		p.Stroke(box.Outline(), pen)
		for k, text := range n.Lines {
			p.Say(words, text, x, y+float64(k)*look.Words.NoteLead*unit+0.98*look.Words.Note*unit)
		}
	}
}
