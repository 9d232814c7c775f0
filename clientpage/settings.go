package clientpage

import (
	"fmt"
	"regexp"
	"slices"
	"time"

	"slowreveal/core/item"
	"slowreveal/paper"
)

// Settings are what a person chooses for a page.
type Settings struct {
	Title    string `json:"title,omitempty"`    // the reveal's when empty
	Subtitle string `json:"subtitle,omitempty"` // the assembly's name when empty
	Language string `json:"language,omitempty"` // en when empty
	// Fields are what is told of the items beside number, quantity and name: designation, finish, mass, remark. The
	// first two when left out.
	Fields []string `json:"fields,omitempty"`
	// Colour is the accent, such as #b5311b.
	Colour string `json:"colour,omitempty"`
	// Until is the day after which the page says that it is old, such as 2027-06-30.
	Until string `json:"until,omitempty"`
	// Simplify is how far surfaces may lie from what they are, mm, so that the page is smaller and tells less of how the
	// product is made; 0 for as they are.
	Simplify float64       `json:"simplify,omitempty"`
	List     item.Settings `json:"list"`
}

const (
	// maxField bounds the words that are taken.
	maxField = 120
	// maxSimplify is how far surfaces may lie from what they are, mm.
	maxSimplify = 100
)

var (
	fields = []string{"designation", "finish", "mass", "remark"}
	colour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)
)

// Fill completes the settings and checks them.
func (s *Settings) Fill() error {
	if s.Fields == nil {
		s.Fields = []string{"designation", "finish"}
	}
	for _, f := range s.Fields {
		if !slices.Contains(fields, f) {
			return fmt.Errorf("a parts list has no field %q; there are %v", f, fields)
		}
	}
	var err error
	if s.Language, err = paper.Language(s.Language); err != nil {
		return err
	}
	if s.Colour != "" && !colour.MatchString(s.Colour) {
		return fmt.Errorf("%q is no colour like #b5311b", s.Colour)
	}
	if !(s.Simplify >= 0 && s.Simplify <= maxSimplify) {
		return fmt.Errorf("surfaces can be simplified by up to %d mm, not by %g", maxSimplify, s.Simplify)
	}
	if s.Until != "" {
		if _, err := time.Parse(time.DateOnly, s.Until); err != nil {
			return fmt.Errorf("%q is no day like 2027-06-30", s.Until)
		}
	}
	if len([]rune(s.Title)) > maxField || len([]rune(s.Subtitle)) > maxField {
		return fmt.Errorf("the title has more than %d characters", maxField)
	}
	return nil
}
