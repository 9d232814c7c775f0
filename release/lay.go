package release

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/paper"
)

// Laid is a sheet as it would be made, to be arranged by hand.
type Laid struct {
	// SVG is the sheet without its item references, Width and Height its size, mm.
	SVG    string  `json:"svg"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	// References are the item references in the order of their numbers.
	References []LaidReference `json:"references"`
}

// LaidReference is an item reference on a sheet; lengths are mm from the sheet's upper left corner.
type LaidReference struct {
	Key    assembly.NodeID `json:"key"`
	Number int             `json:"number"`
	Name   string          `json:"name"`
	From   [2]float64      `json:"from"` // where its leader begins, on the part
	Centre [2]float64      `json:"centre"`
	Radius float64         `json:"radius"`
	// ByHand says that its place was given by hand.
	ByHand bool `json:"byHand,omitempty"`
}

// Lay draws the sheet of the work, and says where its item references stand.
func (w *Work) Lay(ctx context.Context) (Laid, error) {
	if w.Settings.Kind != Sheet {
		return Laid{}, fmt.Errorf("only sheets have item references that are placed by hand, not %s", w.Settings.Kind)
	}
	fonts, err := paper.NewFonts(w.plan.Fonts...)
	if err != nil {
		return Laid{}, err
	}
	set := *w.Settings.Sheet
	set.Undrawn = true
	drawn, err := w.drawSheet(ctx, fonts, set)
	if err != nil {
		return Laid{}, err
	}
	svg, err := drawn.Page.SVG()
	if err != nil {
		return Laid{}, err
	}
	out := Laid{SVG: string(svg), References: []LaidReference{}}
	out.Width, out.Height, err = set.Size.Of(set.Upright)
	for i, r := range drawn.References {
		it := &drawn.Items[r.Item]
		_, byHand := set.Places[it.Key]
		out.References = append(out.References, LaidReference{
			Key:    it.Key,
			Number: it.Number,
			Name:   it.Name,
			From:   [2]float64{r.From.X, r.From.Y},
			Centre: [2]float64{r.Centre.X, r.Centre.Y},
			Radius: drawn.Radii[i],
			ByHand: byHand,
		})
	}
	slices.SortFunc(out.References, func(a, b LaidReference) int { return cmp.Compare(a.Number, b.Number) })
	return out, err
}
