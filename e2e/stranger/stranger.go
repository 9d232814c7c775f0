// Package stranger makes assemblies that nobody has thought of: parts of the example, strewn by chance, without
// groups, with the names that files really come with, some mirrored, some drawn in inches by mistake.
package stranger

import (
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"

	lib "github.com/qmuntal/gltf"

	"slowreveal/demo"
	"slowreveal/formats/gltf"
)

// names are as they come; the same one stands for many parts.
var names = []string{
	"",
	"Part",
	"Solid1",
	"Körper 12",
	"部品-03",
	"деталь",
	"bolt_1",
	"bolt_1",
	"nut\n(copy)",
	"a <b> & \"c\"",
	"=1+1",
	" ",
	"NAUO217",
	"DIN 912 M3x12 - A2 - 70 (Kopie) (Kopie) (Kopie) von Zylinderschraube mit Innensechskant",
	strings.Repeat("x", 180),
	"⬡",
	"\u202eabc",
}

// GLB returns a file with so many parts, the same for the same seed, as glTF 2.0 binary.
func GLB(parts int, seed uint64) ([]byte, error) {
	pump, err := gltf.Write(demo.Pump())
	if err != nil {
		return nil, err
	}
	doc := new(lib.Document)
	if err := lib.NewDecoder(bytes.NewReader(pump)).Decode(doc); err != nil {
		return nil, fmt.Errorf("reading the example: %w", err)
	}
	random := rand.New(rand.NewPCG(seed, 11))
	doc.Nodes, doc.Scenes[0].Nodes = nil, nil
	side := int(math.Ceil(math.Cbrt(float64(parts))))
	for i := range parts {
		mesh := random.IntN(len(doc.Meshes))
		scale := [3]float64{1, 1, 1}
		switch random.IntN(8) {
		case 0:
			scale[0] = -1
		case 1:
			scale = [3]float64{1 / 25.4, 1 / 25.4, 1 / 25.4}
		}
		at := func(k int) float64 { return 0.09*float64(k) + 0.03*random.Float64() } // m
		doc.Nodes = append(
			doc.Nodes,
			&lib.Node{Name: names[random.IntN(len(names))], Mesh: &mesh, Scale: scale, Rotation: turn(random),
				Translation: [3]float64{at(i % side), at(i / side % side), at(i / side / side)}},
		)
		doc.Scenes[0].Nodes = append(doc.Scenes[0].Nodes, i)
	}
	var b bytes.Buffer
	if err := lib.NewEncoder(&b).Encode(doc); err != nil {
		return nil, fmt.Errorf("writing: %w", err)
	}
	return b.Bytes(), nil
}

// turn is a quarter turn about an axis, or none, or any turn.
func turn(random *rand.Rand) [4]float64 {
	var q [4]float64
	switch random.IntN(3) {
	case 0:
		return [4]float64{0, 0, 0, 1}
	case 1:
		q[random.IntN(3)], q[3] = math.Sqrt2/2, math.Sqrt2/2
		return q
	}
	sum := 0.0
	for k := range q {
		q[k] = random.NormFloat64()
		sum += q[k] * q[k]
	}
	for k := range q {
		q[k] /= math.Sqrt(sum)
	}
	return q
}
