package stl

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/solid"
	"slowreveal/core/space"
	"slowreveal/formats"
)

const (
	header = 84 // bytes before the first triangle of a binary file
	record = 50 // bytes a triangle
)

// Read reads an STL file. Errors name the line or triangle at fault.
func Read(ctx context.Context, data []byte, o formats.Options) (*product.Model, error) {
	b := formats.NewBuilder(ctx, o, "STL")
	mm := b.Unit(formats.Unit{}, "")
	b.Up("z", "usual for STL")
	bodies, err := Bodies(ctx, data)
	if err != nil {
		return nil, err
	}
	finish := b.Finish(formats.DefaultFinish)
	root := -1
	if len(bodies) != 1 {
		root = b.Node(-1, assembly.Node{Name: o.Name, Shape: -1, Pose: assembly.PoseOf(space.Identity)})
	}
	for i, body := range bodies {
		name := body.Name
		if name == "" || len(bodies) == 1 && o.Name != "" {
			name = o.Name
		}
		if err := Add(b, root, name, body, mm, finish); err != nil {
			return nil, fmt.Errorf("solid %d: %w", i+1, err)
		}
	}
	return b.Model()
}

// Add adds a body as a part below parent; mm is its unit.
func Add(b *formats.Builder, parent int, name string, body Body, mm float64, finish int) error {
	for i := range body.Positions {
		body.Positions[i] = float32(float64(body.Positions[i]) * mm)
	}
	shape, err := b.Mesh(
		fmt.Sprintf("%q", name),
		solid.Mesh{Positions: body.Positions, Triangles: counted(len(body.Positions) / 3)},
	)
	if errors.Is(err, formats.ErrNothing) {
		b.Ignored("%q has no triangles", name)
		return nil
	}
	if err != nil {
		return err
	}
	b.Node(
		parent,
		assembly.Node{Name: name, Shape: shape, Finishes: []int{finish}, Pose: assembly.PoseOf(space.Identity)},
	)
	return nil
}

// Body is one solid of a file: nine numbers a triangle, in the file's unit.
type Body struct {
	Name      string
	Positions []float32
}

// Bodies returns the solids of a file.
func Bodies(ctx context.Context, data []byte) ([]Body, error) {
	switch {
	case binaryFits(data):
		return readBinary(data)
	case bytes.HasPrefix(bytes.TrimLeft(data, " \t\r\n"), []byte("solid")):
		return readText(ctx, data)
	case len(data) >= header:
		n := uint64(binary.LittleEndian.Uint32(data[80:]))
		return nil, fmt.Errorf(
			"the file says that it has %d triangles, which take %d bytes, but it has %d: it may be cut off",
			n,
			header+record*n,
			len(data),
		)
	}
	return nil, errors.New("the file is no STL: it neither begins with «solid» nor has the length of a binary file")
}

// binaryFits reports whether the length is that of a binary file. Some binary
// files begin with «solid», so this counts first.
func binaryFits(data []byte) bool {
	return len(data) >= header && uint64(len(data)) == header+record*uint64(binary.LittleEndian.Uint32(data[80:]))
}

func readBinary(data []byte) ([]Body, error) {
	n := int(binary.LittleEndian.Uint32(data[80:]))
	if n > solid.MaxTriangles {
		return nil, fmt.Errorf("the file has %d triangles; the limit is %d", n, solid.MaxTriangles)
	}
	p := make([]float32, 0, 9*n)
	for t := range n {
		at := data[header+record*t+12:] // behind the normal, which follows from the corners
		for k := range 9 {
			p = append(p, math.Float32frombits(binary.LittleEndian.Uint32(at[4*k:])))
		}
	}
	return []Body{{Positions: p}}, nil
}

func readText(ctx context.Context, data []byte) ([]Body, error) {
	var bodies []Body
	var body *Body
	lines := bufio.NewScanner(bytes.NewReader(data))
	corners, closed := 0, true
	for n := 1; lines.Scan(); n++ {
		if n%formats.Often == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		words := strings.Fields(lines.Text())
		if len(words) == 0 {
			continue
		}
		switch strings.ToLower(words[0]) {
		case "solid":
			bodies = append(bodies, Body{Name: formats.Clipped(strings.ToValidUTF8(strings.Join(words[1:], " "), "�"))})
			body, closed = &bodies[len(bodies)-1], false
			if len(bodies) > assembly.MaxNodes {
				return nil, fmt.Errorf("line %d: the file has more than %d solids", n, assembly.MaxNodes)
			}
		case "vertex":
			if body == nil || len(words) != 4 {
				return nil, fmt.Errorf("line %d: a vertex needs three numbers inside a solid", n)
			}
			for _, w := range words[1:] {
				v, err := strconv.ParseFloat(w, 32)
				if err != nil && !errors.Is(err, strconv.ErrRange) {
					return nil, fmt.Errorf("line %d: %q is not a number", n, formats.Clipped(w))
				}
				body.Positions = append(body.Positions, float32(v))
			}
			corners++
		case "endloop":
			if corners != 3 {
				return nil, fmt.Errorf("line %d: a facet has %d corners; only triangles are read", n, corners)
			}
			corners = 0
		case "endsolid":
			closed = true
		case "facet", "outer", "endfacet":
		default:
			return nil, fmt.Errorf("line %d: %q does not belong into an STL file", n, formats.Clipped(words[0]))
		}
	}
	switch {
	case lines.Err() != nil:
		return nil, fmt.Errorf("reading the lines: %w", lines.Err())
	case !closed || corners != 0:
		return nil, errors.New("the file ends before its last solid does: it may be cut off")
	}
	return bodies, nil
}

func counted(n int) []uint32 {
	t := make([]uint32, n)
	for i := range t {
		t[i] = uint32(i)
	}
	return t
}
