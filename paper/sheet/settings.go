package sheet

import (
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/film"
	"slowreveal/core/item"
	"slowreveal/core/reveal"
	"slowreveal/paper"
)

// Settings are what a person chooses for a sheet.
type Settings struct {
	Size Size `json:"size,omitempty"` // A3 when empty
	// Upright lets the sheet stand or lie; the usual way of its size when left out.
	Upright *bool `json:"upright,omitempty"`
	// FirstAngle draws the symbol of first-angle projection, without it that of third-angle (ISO 5456-2).
	FirstAngle bool `json:"firstAngle,omitempty"`
	// Views are what is drawn: when there are none, the few moments that together show most of the items.
	Views []View `json:"views,omitempty"`
	// Title is what the title block says.
	Title TitleBlock `json:"title"`
	// NoList leaves the parts list out, NoReferences the item references.
	NoList       bool `json:"noList,omitempty"`
	NoReferences bool `json:"noReferences,omitempty"`
	// TopDown reads the parts list from the top; without it its header is at its foot, above the title block.
	TopDown bool          `json:"topDown,omitempty"`
	List    item.Settings `json:"list"`
	// Places are those of item references that were given by hand, mm from the sheet's upper left corner, by the
	// item's key.
	Places map[assembly.NodeID][2]float64 `json:"places,omitempty"`
	// LineWidth is that of wide lines, mm: 0.5 when left out.
	LineWidth float64 `json:"lineWidth,omitempty"`
	// Undrawn leaves the references undrawn in the room that they have, for who shows them above the sheet.
	Undrawn bool `json:"-"`
}

// View is a moment of the reveal from a side.
type View struct {
	// At is the moment; one that shows most of what the views before do not when left out.
	At *reveal.Micros `json:"at,omitempty"`
	// From is the side by its name (isometric, front, top …), empty for where the reveal's camera looks from, and for a
	// section for where it is seen square on.
	From string `json:"from,omitempty"`
	// Perspective draws it as the camera sees it; without it lines of sight are parallel and there is a scale.
	Perspective bool `json:"perspective,omitempty"`
	// Scale is paper over real size, such as 0.5; the largest of ISO 5455 that fits when left out.
	Scale   float64       `json:"scale,omitempty"`
	Filling paper.Filling `json:"filling,omitempty"`
	Hidden  bool          `json:"hidden,omitempty"` // hidden lines dashed
	NoFlow  bool          `json:"noFlow,omitempty"` // without flow lines
	// Title stands below it.
	Title string `json:"title,omitempty"`
	// Section cuts it open.
	Section *paper.Section `json:"section,omitempty"`
	// Detail makes it an enlarged view of a part and what is around it, that is circled in the first view.
	Detail assembly.NodeID `json:"detail,omitempty"`
}

// TitleBlock are the fields of ISO 7200. Those that are empty stay empty, but for title, date, language and size.
type TitleBlock struct {
	Owner        string `json:"owner,omitempty"`
	Number       string `json:"number,omitempty"`
	Title        string `json:"title,omitempty"` // the assembly's name when empty
	Supplement   string `json:"supplement,omitempty"`
	Department   string `json:"department,omitempty"`
	Reference    string `json:"reference,omitempty"` // technical reference
	Creator      string `json:"creator,omitempty"`
	Approver     string `json:"approver,omitempty"`
	DocumentType string `json:"documentType,omitempty"`
	Status       string `json:"status,omitempty"`
	Revision     string `json:"revision,omitempty"`
	Date         string `json:"date,omitempty"` // of issue, as it is written; today when empty
	Language     string `json:"language,omitempty"`
}

// Bounds of what is taken.
const (
	MaxViews = 6
	maxField = 120
	// maxPlaces is how many references may have places that were given by hand.
	maxPlaces = 2000
)

// Fill completes the settings and checks them.
func (s *Settings) Fill() error {
	if s.Size == "" {
		s.Size = "A3"
	}
	width, height, err := s.Size.Of(s.Upright)
	if err != nil {
		return err
	}
	if len(s.Places) > maxPlaces {
		return fmt.Errorf("%d item references have places of their own; at most %d can", len(s.Places), maxPlaces)
	}
	for key, p := range s.Places {
		if !(p[0] >= 0 && p[0] <= width && p[1] >= 0 && p[1] <= height) {
			return fmt.Errorf("the place of the reference to %q, %.0f, %.0f mm, is not on the sheet", key, p[0], p[1])
		}
	}
	if s.LineWidth == 0 {
		s.LineWidth = 0.5
	}
	if s.LineWidth < 0.18 || s.LineWidth > 2 {
		return fmt.Errorf("wide lines of %.3g mm are not between 0.18 and 2 mm", s.LineWidth)
	}
	if len(s.Views) > MaxViews {
		return fmt.Errorf("a sheet has room for %d views, not for %d", MaxViews, len(s.Views))
	}
	for i := range s.Views {
		v := &s.Views[i]
		if v.Filling != "" && !slices.Contains(paper.Fillings, v.Filling) {
			return fmt.Errorf("a view has no filling %q; there are none, shaded, tinted and flat", v.Filling)
		}
		if v.Scale < 0 || v.Scale > 1000 || v.Scale != 0 && v.Scale < 1e-5 {
			return fmt.Errorf("the scale %g of view %d is out of bounds", v.Scale, i+1)
		}
		if v.From != "" && !slices.ContainsFunc(film.Views(), func(n film.View) bool { return n.Name == v.From }) {
			return fmt.Errorf(
				"view %d is from %q, which is no view: there are isometric, dimetric, front, back, left, right, top, bottom",
				i+1,
				v.From,
			)
		}
		if v.Section != nil {
			if err := v.Section.Check(); err != nil {
				return fmt.Errorf("view %d: %w", i+1, err)
			}
		}
		if v.Detail != "" && i == 0 {
			return fmt.Errorf("the first view cannot be a detail: it is what details are of")
		}
		if len([]rune(v.Title)) > maxField {
			return fmt.Errorf("the title of view %d has more than %d characters", i+1, maxField)
		}
	}
	return s.Title.check()
}

func (t *TitleBlock) check() error {
	var err error
	if t.Language, err = paper.Language(t.Language); err != nil {
		return err
	}
	for _, field := range []string{t.Owner, t.Number, t.Title, t.Supplement, t.Department, t.Reference, t.Creator, t.Approver, t.DocumentType, t.Status, t.Revision, t.Date} {
		if len([]rune(field)) > maxField {
			return fmt.Errorf("a field of the title block has more than %d characters: %q", maxField, field)
		}
	}
	return nil
}
