package manual

import (
	"fmt"
	"image"
	"slices"

	"slowreveal/core/item"
	"slowreveal/core/reveal"
	"slowreveal/paper"
	"slowreveal/paper/sheet"
)

// Template is how pages are laid out.
type Template string

// The templates.
const (
	Pages   Template = "pages"   // steps one below the other, none torn apart
	Single  Template = "single"  // one step a page
	Columns Template = "columns" // two columns
	Cards   Template = "cards"   // a card that lies for each step
	Strip   Template = "strip"   // one long strip that is folded between the steps
)

// Templates are all of them.
var Templates = []Template{Pages, Single, Columns, Cards, Strip}

// Settings are what a person chooses for a manual.
type Settings struct {
	Template Template   `json:"template,omitempty"` // pages when empty
	Size     sheet.Size `json:"size,omitempty"`     // A4 when empty; cards are half as large
	Title    string     `json:"title,omitempty"`    // the reveal's when empty
	Subtitle string     `json:"subtitle,omitempty"` // the assembly's name when empty
	Number   string     `json:"number,omitempty"`
	Revision string     `json:"revision,omitempty"`
	Date     string     `json:"date,omitempty"` // as it is written; today when empty
	Owner    string     `json:"owner,omitempty"`
	// Intro stands before the steps, Closing behind them: in the Markdown of instructions.
	Intro   string `json:"intro,omitempty"`
	Closing string `json:"closing,omitempty"`
	// Language is that of the words, a tag of BCP 47; its headings are English.
	Language string        `json:"language,omitempty"`
	Filling  paper.Filling `json:"filling,omitempty"` // tinted when empty
	// Steps are the steps in the order in which they are told; all of the reveal when there are none.
	Steps []reveal.StepID `json:"steps,omitempty"`
	// Moments are those of pictures that were chosen by hand, by step.
	Moments map[reveal.StepID][]reveal.Micros `json:"moments,omitempty"`
	// Pictures are shown in place of a step's own, by step: attachments, PNG or JPEG.
	Pictures map[reveal.StepID][]string `json:"pictures,omitempty"`
	// Images are those pictures, by attachment; whoever makes the manual has read them.
	Images       map[string]image.Image `json:"-"`
	NoCover      bool                   `json:"noCover,omitempty"`
	NoParts      bool                   `json:"noParts,omitempty"`      // no index of parts, no lists beside the steps
	NoReferences bool                   `json:"noReferences,omitempty"` // no item references in pictures
	// Films puts a film of each step into the HTML.
	Films bool          `json:"films,omitempty"`
	List  item.Settings `json:"list"`
}

// Bounds of what is taken.
const (
	maxField   = 120
	maxText    = 20_000
	maxMoments = 3
)

// Fill completes the settings and checks them.
func (s *Settings) Fill() error {
	if s.Template == "" {
		s.Template = Pages
	}
	if !slices.Contains(Templates, s.Template) {
		return fmt.Errorf("there is no template %q; there are %v", s.Template, Templates)
	}
	if s.Size == "" {
		s.Size = "A4"
	}
	if s.Size != "A4" && s.Size != "A3" && s.Size != "ANSI A" && s.Size != "ANSI B" {
		return fmt.Errorf("a manual of the size %q cannot be made; there are A4, A3, ANSI A, ANSI B", s.Size)
	}
	if s.Filling == "" {
		s.Filling = paper.Tinted
	}
	if !slices.Contains(paper.Fillings, s.Filling) {
		return fmt.Errorf("a picture has no filling %q; there are none, shaded, tinted and flat", s.Filling)
	}
	var err error
	if s.Language, err = paper.Language(s.Language); err != nil {
		return err
	}
	for _, field := range []string{s.Title, s.Subtitle, s.Number, s.Revision, s.Date, s.Owner} {
		if len([]rune(field)) > maxField {
			return fmt.Errorf("a field of the manual has more than %d characters: %q", maxField, field)
		}
	}
	if len(s.Intro) > maxText || len(s.Closing) > maxText {
		return fmt.Errorf("the text before or behind the steps has more than %d bytes", maxText)
	}
	for id, list := range s.Moments {
		if len(list) == 0 || len(list) > maxMoments {
			return fmt.Errorf("step %q has %d pictures; one to %d are taken", id, len(list), maxMoments)
		}
	}
	for id, list := range s.Pictures {
		if len(list) == 0 || len(list) > maxMoments {
			return fmt.Errorf("step %q has %d pictures of its own; one to %d are taken", id, len(list), maxMoments)
		}
	}
	return nil
}
