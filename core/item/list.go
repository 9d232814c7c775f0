package item

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"

	"slowreveal/core/assembly"
	"slowreveal/core/fastener"
	"slowreveal/core/survey"
)

// Item is a line of a parts list (ISO 7573): parts that are alike.
type Item struct {
	// Number is its item reference.
	Number int `json:"item"`
	// Quantity is how many parts it is of.
	Quantity int    `json:"quantity"`
	Name     string `json:"name"`
	// Designation is the standard and size of a fastener that was recognised, such as "ISO 4762 – M4 × 16".
	Designation string `json:"designation,omitempty"`
	// Finish is the finish of its surfaces, in words.
	Finish string `json:"finish,omitempty"`
	// Mass is that of one part in grams; 0 where it is not known.
	Mass   float64 `json:"mass,omitempty"`
	Remark string  `json:"remark,omitempty"`
	// Key names the item as long as its first part is there: what is said by hand of an item is kept under it.
	Key assembly.NodeID `json:"key"`
	// Parts are all of its parts.
	Parts []assembly.NodeID `json:"parts"`
	// Nodes are the same as indices.
	Nodes []int `json:"-"`
}

// Sorting is how the items of a list follow one another.
type Sorting string

// The sortings.
const (
	ByTree     Sorting = "tree" // as they stand in the assembly, fasteners last
	ByName     Sorting = "name"
	ByQuantity Sorting = "quantity" // few first
)

// Settings say how a list is made.
type Settings struct {
	Order Sorting `json:"order,omitempty"`
	// Densities are those of finishes by name, g/cm³: of the parts that wear them alone the mass is told.
	Densities map[string]float64 `json:"densities,omitempty"`
	// Remarks are by the key of the item.
	Remarks map[assembly.NodeID]string `json:"remarks,omitempty"`
}

// kindOf says which parts are one item.
type kindOf struct {
	like     int
	mirrored bool
	finishes string
}

// List returns the items of the parts among nodes; nil nodes are all of the assembly.
func List(a *assembly.Assembly, facts []survey.Facts, nodes []int, s Settings) []Item {
	index := map[kindOf]int{}
	var items []Item
	var guesses []*fastener.Guess
	if nodes == nil {
		for i := range a.Nodes {
			nodes = append(nodes, i)
		}
	}
	names := []map[string]int{}
	for _, i := range nodes {
		n := &a.Nodes[i]
		if !n.IsPart() {
			continue
		}
		f := &facts[n.Shape]
		kind := kindOf{f.Like, f.Mirrored, finishesOf(a, n)}
		k, known := index[kind]
		if !known {
			k = len(items)
			index[kind] = k
			items = append(
				items,
				Item{Key: n.ID, Finish: kind.finishes, Mass: massOf(a, n, f, s.Densities), Remark: s.Remarks[n.ID]},
			)
			guesses, names = append(guesses, f.Fastener), append(names, map[string]int{})
		}
		it := &items[k]
		it.Quantity++
		it.Parts, it.Nodes = append(it.Parts, n.ID), append(it.Nodes, i)
		names[k][Plain(n.Name)]++
	}
	for k := range items {
		items[k].Name = naming(names[k])
		items[k].Designation = designation(guesses[k])
	}
	sortItems(items, guesses, s.Order)
	for k := range items {
		items[k].Number = k + 1
	}
	return items
}

func sortItems(items []Item, guesses []*fastener.Guess, order Sorting) {
	type row struct {
		item  Item
		guess *fastener.Guess
	}
	rows := make([]row, len(items))
	for i := range items {
		rows[i] = row{items[i], guesses[i]}
	}
	slices.SortStableFunc(rows, func(x, y row) int {
		switch order {
		case ByName:
			return cmp.Or(
				strings.Compare(strings.ToLower(x.item.Name), strings.ToLower(y.item.Name)),
				strings.Compare(x.item.Designation, y.item.Designation),
			)
		case ByQuantity:
			return cmp.Compare(x.item.Quantity, y.item.Quantity)
		}
		standard := func(r row) int { // made parts before bought ones (common practice)
			if r.item.Designation != "" {
				return 1
			}
			return 0
		}
		return cmp.Compare(standard(x), standard(y))
	})
	for i := range rows {
		items[i] = rows[i].item
	}
}

// numbered is what files put behind the names of parts that are there more than once.
var numbered = regexp.MustCompile(`(?:[ _.:#~-]+\d+|\s*\(\d+\)|\s*<\d+>)$`)

// measured are names whose last number is a measure, such as "Screw M4 × 16" or "Clamp 40 mm".
var measured = regexp.MustCompile(
	`(?i)(?:[mø]\d+(?:[.,]\d+)?\s*[x×-]\s*\d+(?:[.,]\d+)?|\d\s*[x×]\s*\d+(?:[.,]\d+)?|\d-\d+)$`,
)

// Plain is a part's name without the number that tells it from others of its kind.
func Plain(name string) string {
	name = strings.TrimSpace(name)
	if measured.MatchString(name) {
		return name
	}
	if short := strings.TrimSpace(numbered.ReplaceAllString(name, "")); short != "" {
		return short
	}
	return name
}

// mostNames is how many names an item has at most.
const mostNames = 3

// naming returns the names that the parts of an item have, the commonest first: parts that are alike may be called
// otherwise where they are used otherwise.
func naming(names map[string]int) string {
	list := slices.Collect(maps.Keys(names))
	slices.SortFunc(
		list,
		func(a, b string) int { return cmp.Or(cmp.Compare(names[b], names[a]), strings.Compare(a, b)) },
	)
	var different []string
	for _, n := range list {
		if !slices.ContainsFunc(different, func(d string) bool { return stem(d) == stem(n) }) {
			different = append(different, n)
		}
	}
	if len(different) > mostNames {
		return strings.Join(different[:mostNames], " / ") + " …"
	}
	return strings.Join(different, " / ")
}

// stem is a name without the digits at its end: names that a program gave differ in these alone.
func stem(name string) string {
	return strings.ToLower(strings.TrimRight(name, "0123456789 "))
}

// finishesOf are the finishes that a part wears, in words, each once.
func finishesOf(a *assembly.Assembly, n *assembly.Node) string {
	var list []string
	for _, f := range n.Finishes {
		if name := a.Finishes[f].Name; name != "" && !slices.Contains(list, name) {
			list = append(list, name)
		}
	}
	return strings.Join(list, ", ")
}

// massOf is the mass of a closed part of one finish whose density is known, g.
func massOf(a *assembly.Assembly, n *assembly.Node, f *survey.Facts, densities map[string]float64) float64 {
	density := 0.0
	for _, k := range n.Finishes {
		d := densities[a.Finishes[k].Name]
		if d <= 0 || density != 0 && d != density {
			return 0
		}
		density = d
	}
	const cubicCentimetre = 1000 // mm³
	return f.Volume / cubicCentimetre * density
}

// surely is how sure a guess has to be for a list to say it.
const surely = 0.7

// designation is the standard and size of a fastener.
func designation(g *fastener.Guess) string {
	if g == nil || g.Standard == "" || g.Confidence < surely {
		return ""
	}
	size := g.Size
	if g.Kind == fastener.Screw {
		size += fmt.Sprintf(" × %g", math.Round(g.Length*2)/2)
	}
	return g.Standard + " – " + size
}
