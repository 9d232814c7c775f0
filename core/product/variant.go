package product

import (
	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/variant"
)

// In returns the model and a reveal of it as a variant has them, with nothing in them of what is not in it, and which
// variant that is: the one that is asked for by id or name, or else the reveal's own. For the whole assembly, which "-"
// asks for in any case, it is nil. The reveal may be nil. Neither the model nor the reveal is changed.
func (m *Model) In(doc *reveal.Reveal, asked string) (*Model, *reveal.Reveal, *assembly.Variant, error) {
	id, err := variant.Find(m.Assembly, doc, asked)
	if err != nil {
		return nil, nil, nil, err
	}
	shown := variant.Of(m.Assembly, doc, id)
	if shown.Variant == nil {
		return m, shown.Reveal, nil, nil
	}
	own := *m
	own.Assembly, doc = shown.Reduced()
	return &own, doc, shown.Variant, nil
}
