package main

import (
	"context"

	"slowreveal/core/assembly"
	"slowreveal/core/contact"
	"slowreveal/core/fastener"
	"slowreveal/core/joint"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/core/survey"
)

type inspectCommand struct {
	reading
	File []string `arg:"" type:"path" help:"Assembly file, or several that belong together."`
}

// inspection is everything that is known of a file.
type inspection struct {
	Report product.Report `json:"report"`
	Bounds [2]space.Vec3  `json:"bounds"` // mm, +Y up
	// Volume is that of all closed parts, mm³; Open counts the parts without one.
	Volume   float64           `json:"volume"`
	Open     int               `json:"open"`
	Tree     []assembly.Node   `json:"tree"`
	Finishes []assembly.Finish `json:"finishes"`
	Shapes   []inspectedShape  `json:"shapes"`
	Sets     []survey.Set      `json:"sets"`
	Contacts []contact.Contact `json:"contacts"`
	// Joints and Couplings are what the file says itself, Found what its shapes offer.
	Joints    []assembly.Joint    `json:"joints"`
	Couplings []assembly.Coupling `json:"couplings"`
	Found     joint.Found         `json:"found"`
}

// inspectedShape is one distinct shape.
type inspectedShape struct {
	assembly.ShapeRef
	solid.Mass
	// Parts are the parts that have exactly this shape; Like and Mirrored count
	// those whose shape is the same or its mirror image under any motion.
	Parts    []assembly.NodeID `json:"parts"`
	Like     int               `json:"like"`
	Mirrored int               `json:"mirrored"`
	Bodies   int               `json:"bodies"` // connected surfaces
	Fastener *fastener.Guess   `json:"fastener,omitempty"`
}

// Run prints what a file holds.
func (c *inspectCommand) Run(ctx context.Context) error {
	m, err := c.model(ctx, "", c.File...)
	if err != nil {
		return err
	}
	known, err := survey.Of(ctx, m.Assembly, m.Shapes)
	if err != nil {
		return err
	}
	b := m.Assembly.Bounds()
	out := inspection{Report: m.Report, Bounds: [2]space.Vec3{space.Vec3Of(b.Min), space.Vec3Of(b.Max)},
		Tree: m.Assembly.Nodes, Finishes: m.Assembly.Finishes, Sets: known.Ready, Contacts: known.Contacts,
		Joints:    append([]assembly.Joint{}, m.Assembly.Joints...),
		Couplings: append([]assembly.Coupling{}, m.Assembly.Couplings...), Found: known.Mechanism}
	for i, ref := range m.Assembly.Shapes {
		pieces, _ := m.Shapes[i].Pieces()
		out.Shapes = append(
			out.Shapes,
			inspectedShape{
				ShapeRef: ref,
				Mass:     known.Shapes[i].Mass,
				Bodies:   len(pieces),
				Fastener: known.Shapes[i].Fastener,
			},
		)
	}
	for i := range m.Assembly.Nodes {
		n := &m.Assembly.Nodes[i]
		if !n.IsPart() {
			continue
		}
		mine := &known.Shapes[n.Shape]
		out.Shapes[n.Shape].Parts = append(out.Shapes[n.Shape].Parts, n.ID)
		out.Volume += mine.Volume
		if !mine.Closed {
			out.Open++
		}
		for k := range known.Shapes {
			switch other := &known.Shapes[k]; {
			case other.Like != mine.Like:
			case other.Mirrored == mine.Mirrored:
				out.Shapes[k].Like++
			default:
				out.Shapes[k].Mirrored++
			}
		}
	}
	return printJSON(out)
}
