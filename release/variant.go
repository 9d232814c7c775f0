package release

import (
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/variant"
)

// InVariants are outputs in each of some variants of the product, by id or name, "-" for the whole assembly; their names
// tell them apart. Without variants they are those of the reveals.
func InVariants(list []Settings, variants []string) (all []Settings) {
	if len(variants) == 0 {
		return list
	}
	for _, v := range variants {
		for _, s := range list {
			s.Variant = v
			switch told := s.Name == "" || len(variants) == 1 || strings.Contains(s.Name, variant.Mention); {
			case told:
			case v == "-":
				s.Name += ", all parts"
			default:
				s.Name += ", " + variant.Mention
			}
			all = append(all, s)
		}
	}
	return all
}

// say notes which variant an output shows, so that it stays that one whatever the reveal is for later, and puts its name
// where the output's own mentions it.
func (s *Settings) say(v *assembly.Variant) {
	name := ""
	if s.Variant = "-"; v != nil {
		s.Variant, name = string(v.ID), v.Name
	}
	if v == nil { // nothing is said where the name would stand, nor of a comma before it
		s.Name = strings.ReplaceAll(s.Name, ", "+variant.Mention, "")
	}
	s.Name = strings.TrimSpace(strings.ReplaceAll(s.Name, variant.Mention, name))
}

// Variant is the product's variant that the output shows, nil for the whole assembly.
func (w *Work) Variant() *assembly.Variant { return w.variant }
