package server

import (
	"context"
	"slices"
	"sync"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/core/variant"
	"slowreveal/store"
)

// staged is a stored reveal and what it presents, as a page shows them in one of the product's variants: nodes, steps
// and cues have the places that they have in the whole.
type staged struct {
	stored  store.StoredReveal
	variant assembly.VariantID // empty for the whole product
	whole   *assembly.Assembly
	model   *product.Model
	written *reveal.Reveal // as it is stored
	doc     *reveal.Reveal // as the variant has it
}

// stage returns a stored reveal in the variant that a page asks for, by its id; "-" is the whole product, and nothing
// the variant that the reveal is for.
func (s *Server) stage(ctx context.Context, key, asked string) (out staged, err error) {
	if out.stored, err = s.store.Reveal(ctx, key); err != nil {
		return out, err
	}
	if out.model, err = s.authoring.Model(ctx, out.stored.RevisionID, true); err != nil {
		return out, err
	}
	if out.written, err = reveal.Parse([]byte(out.stored.Document)); err != nil {
		return out, err
	}
	out.whole = out.model.Assembly
	if err := reveal.Validate(out.written, out.whole); err != nil {
		return out, &store.Refused{Cause: err}
	}
	if out.variant, err = variant.Find(out.whole, out.written, asked); err != nil {
		return out, &store.Refused{Cause: err}
	}
	shown := variant.Of(out.whole, out.written, out.variant)
	out.doc = shown.Reveal
	if shown.Variant != nil {
		out.model = s.dressed.model(out.model, out.variant, shown.Assembly)
	}
	return out, nil
}

// dressed keeps models as variants have them: who has prepared one to be drawn finds the same again.
type dressed struct {
	mu   sync.Mutex
	kept []dressedModel // the one that was used last is the last
}

type dressedModel struct {
	of    *assembly.Assembly
	as    assembly.VariantID
	model *product.Model
}

// mostDressed is how many are kept.
const mostDressed = 6

func (d *dressed) model(m *product.Model, as assembly.VariantID, a *assembly.Assembly) *product.Model {
	d.mu.Lock()
	defer d.mu.Unlock()
	for i, k := range d.kept {
		if k.of == m.Assembly && k.as == as && len(k.model.Shapes) == len(m.Shapes) {
			d.kept = append(slices.Delete(d.kept, i, i+1), k)
			return k.model
		}
	}
	own := *m
	own.Assembly = a
	if d.kept = append(d.kept, dressedModel{m.Assembly, as, &own}); len(d.kept) > mostDressed {
		d.kept = d.kept[1:]
	}
	return &own
}
