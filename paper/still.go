package paper

import (
	"context"
	"fmt"
	"slices"

	"slowreveal/core/film"
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
	// Section cuts it open.
	Section *Section `json:"section,omitempty"`
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

// Still draws a moment of the film as its camera sees it, or as an eye of its own does: a page as large as the drawing.
// aspect is the frame's, width over height.
func (s *Subject) Still(
	ctx context.Context,
	fonts *Fonts,
	t reveal.Micros,
	eye *reveal.Camera,
	aspect float64,
	set StillSettings,
) (*Page, error) {
	fr := s.At(t)
	camera := fr.Camera
	if eye != nil {
		camera = *eye
	}
	page := NewPage(set.Width, rounded(set.Width/aspect))
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
	if err := page.Draw(v, FrameIn(Box{0, 0, page.Width, page.Height}, camera, aspect), UsualPens(set.LineWidth)); err != nil {
		return nil, err
	}
	if !set.NoNotes && eye == nil {
		page.notes(fonts, set.Section.notesOf(fr))
	}
	return page, nil
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

// notes draws the notes of a frame: a dot on what is meant, or an open ring and a dashed leader where that is hidden, a
// line to the text, the text on a plate.
func (p *Page) notes(fonts *Fonts, notes []film.Note) {
	unit := min(p.Width, p.Height)
	words := fonts.Words(Title, look.Words.Note*unit, Ink)
	aside, above := look.Words.NoteAside*unit, look.Words.NoteAbove*unit
	pen := Pen{Width: 0.25, Ink: Ink}
	for i := range notes {
		n := &notes[i]
		box := Box{n.X*p.Width - aside, n.Y*p.Height - above, n.Width*p.Width + 2*aside, n.Height*p.Height + 2*above}
		ax, ay := n.AnchorX*p.Width, n.AnchorY*p.Height
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
			p.Say(words, text, n.X*p.Width, n.Y*p.Height+float64(k)*look.Words.NoteLead*unit+0.98*look.Words.Note*unit)
		}
	}
}
