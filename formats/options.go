package formats

import (
	"fmt"
	"strings"
)

// MaxFile is the largest file that is read, in bytes.
const MaxFile = 1 << 30

// Options are what a person can say about a file that it does not say itself,
// or says wrongly.
type Options struct {
	// Name names the assembly where the file does not.
	Name string `json:"name,omitempty"`
	// Unit is the symbol of the file's unit of length; empty takes its own.
	Unit string `json:"unit,omitempty"`
	// Up is the axis that points up, "y" or "z"; empty takes the format's.
	Up string `json:"up,omitempty"`
	// Detail says how finely curved surfaces of exact models become triangles;
	// empty is "normal".
	Detail string `json:"detail,omitempty"`

	// Progress, when set, is told the stage and how far it is, 0…1.
	Progress func(stage string, share float64) `json:"-"`
}

// Tell reports progress to whoever listens.
func (o *Options) Tell(stage string, share float64) {
	if o.Progress != nil {
		o.Progress(stage, share)
	}
}

// Check returns an error for a word that is not known.
func (o *Options) Check() error {
	if _, ok := unitBySymbol(o.Unit); !ok && o.Unit != "" {
		return fmt.Errorf("the unit %q is not known; known are %s", o.Unit, symbols())
	}
	if o.Up != "" && o.Up != "y" && o.Up != "z" {
		return fmt.Errorf("the axis %q cannot point up; y and z can", o.Up)
	}
	if _, ok := Details[o.Detail]; !ok {
		return fmt.Errorf("the detail %q is not known; known are coarse, normal and fine", o.Detail)
	}
	return nil
}

// Detail is how far triangles may lie from a curved surface.
type Detail struct {
	Share float64 // of the part's diagonal, but at most 0.5 mm
	Angle float64 // between neighbouring facets, rad
	Words string
}

// Details are the choices by name; the empty name is the default.
var Details = map[string]Detail{
	"":       normal,
	"coarse": {0.003, 0.6, "coarse: within 0.3 % of each part's size, at most 0.5 mm, and 34° between facets"},
	"normal": normal,
	"fine":   {0.0003, 0.18, "fine: within 0.03 % of each part's size, at most 0.5 mm, and 10° between facets"},
}

var normal = Detail{0.001, 0.35, "normal: within 0.1 % of each part's size, at most 0.5 mm, and 20° between facets"}

// Unit is a unit of length.
type Unit struct {
	Name, Symbol string
	Millimetres  float64
}

// Units are the units that files use. Source: the metric ones by definition;
// inch and foot by the international yard of 1959 (from memory).
var Units = []Unit{
	{
		"millimetre",
		"mm",
		1,
	}, {"centimetre", "cm", 10}, {"metre", "m", 1000}, {"micrometre", "µm", 0.001}, {"inch", "in", 25.4}, {"foot", "ft", 304.8},
}

// Millimetre is the unit of everything inside.
var Millimetre = Units[0]

func unitBySymbol(symbol string) (Unit, bool) {
	for _, u := range Units {
		if u.Symbol == symbol {
			return u, true
		}
	}
	return Unit{}, false
}

// UnitOf returns the unit with so many millimetres, under the file's own name
// where it is none of the usual ones.
func UnitOf(millimetres float64, name string) Unit {
	for _, u := range Units {
		if d := u.Millimetres - millimetres; d*d < 1e-12*millimetres*millimetres {
			return u
		}
	}
	return Unit{strings.ToLower(name), name, millimetres}
}

func symbols() string {
	var s []string
	for _, u := range Units {
		s = append(s, u.Symbol)
	}
	return strings.Join(s, ", ")
}

// Often is after how many lines of a text file a reader asks whether it is still wanted.
const Often = 4096
