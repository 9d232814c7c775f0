package assembly

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
)

// Says tells in a few words how a coupling ties a joint of it to the other one: by teeth, sizes or a ratio, the joint's
// own first.
func (c *Coupling) Says(joint JointID) string {
	own, other := c.Sizes[0], c.Sizes[1]
	if c.Joint != joint {
		own, other = other, own
	}
	also := func(is bool, what string) string {
		if is {
			return ", " + what
		}
		return ""
	}
	switch c.Kind {
	case Gear:
		return fmt.Sprintf("%s : %s teeth%s", whole(own), whole(other), also(c.Inner, "inner"))
	case Belt:
		return fmt.Sprintf("belt %s : %s%s", whole(own), whole(other), also(c.Crossed, "crossed"))
	case Rack:
		return fmt.Sprintf("rack, pinion Ø %s mm", whole(c.Sizes[1]))
	case Screw:
		return whole(c.Ratio) + " mm a turn"
	case Cam:
		return fmt.Sprintf("cam, %d rows", len(c.Table))
	}
	if c.Joint == joint {
		return "× " + brief(c.Ratio)
	}
	return "× " + brief(1/c.Ratio)
}

// whole writes a number with all that it has, brief to four places.
func whole(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

func brief(v float64) string {
	rounded, _ := strconv.ParseFloat(strconv.FormatFloat(v, 'g', 4, 64), 64) // it was written just now
	return whole(rounded)
}

// Fits reports whether a joint whose value is mm (slides), or degrees, can follow another one by a coupling of the kind.
func (k CouplingKind) Fits(slides bool) bool {
	switch k {
	case Rack, Screw:
		return slides
	case Gear, Belt:
		return !slides
	}
	return true
}

// ParseTable reads the rows of a cam's table: two numbers on each line, apart by spaces, a comma or a semicolon.
func ParseTable(text string) (rows [][2]float64, err error) {
	for line := range strings.Lines(text) {
		fields := strings.FieldsFunc(line, func(r rune) bool { return unicode.IsSpace(r) || r == ',' || r == ';' })
		if len(fields) == 0 {
			continue
		}
		if len(rows) == MaxTable {
			return nil, fmt.Errorf("the cam’s table has more than %d rows", MaxTable)
		}
		var row [2]float64
		good := len(fields) == 2
		for i := 0; good && i < 2; i++ {
			row[i], err = strconv.ParseFloat(fields[i], 64)
			good = err == nil && !math.IsNaN(row[i]) && !math.IsInf(row[i], 0)
		}
		if !good {
			return nil, fmt.Errorf("row %d of the cam’s table is not two numbers", len(rows)+1)
		}
		rows = append(rows, row)
	}
	return rows, nil
}
