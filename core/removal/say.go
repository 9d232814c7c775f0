package removal

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"gonum.org/v1/gonum/spatial/r3"

	"slowreveal/core/fastener"
	"slowreveal/core/plan"
	"slowreveal/core/space"
)

// sayOne gives a move its words: plain imperatives, made from kinds, names, counts, sizes and sides.
func (s *search) sayOne(r *removal) {
	m := &r.move
	g := s.kindOf(r)
	what, short := s.called(r)
	if g != nil {
		m.Fastener = string(g.Kind)
	}
	verb, how := s.verb(r, g)
	m.Title = capital(fmt.Sprintf("%s %s", verb, short))
	text := capital(fmt.Sprintf("%s %s", verb, what))
	if g != nil && g.Lead > 0 {
		if side := s.sides(r); side != "" {
			text += " " + side
		}
		if g.Tool != "" {
			m.Tools = []string{g.Tool}
			text += " with a " + lower(swapped(g.Tool))
		}
		if len(r.units) > 3 {
			text += ", crosswise"
		}
		m.Instruction = text + "."
		m.Thread = s.thread(r, g)
		return
	}
	m.Instruction = text + how + "."
}

// kindOf is the fastener that all units of a move are, nil for other parts.
func (s *search) kindOf(r *removal) *fastener.Guess {
	if len(r.units[0].parts) != 1 {
		return nil
	}
	return s.fastener(r.units[0].parts[0])
}

var numbers = []string{
	"no",
	"",
	"two",
	"three",
	"four",
	"five",
	"six",
	"seven",
	"eight",
	"nine",
	"ten",
	"eleven",
	"twelve",
}

// called names what a move takes off, in full and without its size.
func (s *search) called(r *removal) (full, short string) {
	u := &r.units[0]
	name := plain(s.nodes[u.node].Name)
	g := s.kindOf(r)
	n := len(r.units)
	if n > 1 && s.counted(r) {
		name = numbered.ReplaceAllString(name, "")
	}
	sized := size(g)
	if g != nil && !mentions(name, g.Kind) && useless.MatchString(name) {
		name = string(g.Kind)
		if sized != "" {
			name = sized + " " + name
		}
	}
	if i := strings.Index(name, ", "); i > 0 && strings.ContainsAny(name[i:], "0123456789") {
		name = name[:i] // "Ring gear, 48 teeth"
	}
	if g == nil && len(u.nodes) > 1 && 2*len(u.parts) < len(s.below[u.node]) {
		name = "Rest of the " + lower(name)
	}
	short = strings.TrimSpace(sizes.ReplaceAllString(name, ""))
	if short == "" {
		short = name
	}
	if n > 1 {
		count := fmt.Sprint(n)
		if n < len(numbers) {
			count = numbers[n]
		}
		return fmt.Sprintf("the %s %s", count, plural(lower(name), g)),
			fmt.Sprintf("the %s %s", count, plural(lower(short), g))
	}
	if len(u.nodes) > 1 && s.nodes[u.node].Parent < 0 {
		var names []string
		for _, node := range u.nodes[:min(3, len(u.nodes))] {
			names = append(names, "the "+lower(plain(s.nodes[node].Name)))
		}
		if more := len(u.nodes) - len(names); more > 0 {
			names = append(names, fmt.Sprintf("%d more parts", more))
		}
		list := strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
		return list, list
	}
	return "the " + lower(name), "the " + lower(short)
}

// counted reports whether the number at the end of a name only tells a part from others: they have the same name but
// for it, or it is a small one behind a mark that files put there.
func (s *search) counted(r *removal) bool {
	first := s.nodes[r.units[0].node].Name
	for _, u := range r.units[1:] {
		if s.nodes[u.node].Name != first {
			return true
		}
	}
	return marked.MatchString(first)
}

var marked = regexp.MustCompile(`[_:]\d{1,2}$`)

// sizes matches sizes in names: "M3 × 12", "608", "6.4 × 9".
var sizes = regexp.MustCompile(`\s+(M\d+(\.\d+)?|Ø?\d+(\.\d+)?)(\s*[×x]\s*\d+(\.\d+)?)*\s*(mm)?$`)

// useless matches names that say nothing: "Body12", "Part 3".
var useless = regexp.MustCompile(
	`(?i)^(body|part|solid|component|shape|node|mesh|object|product|no name)?[\s_.:-]*\d*$`,
)

// size is that of a fastener as people write it, empty where it is unknown.
func size(g *fastener.Guess) string {
	if g == nil || g.Size == "" {
		return ""
	}
	if g.Kind == fastener.Screw && g.Length > 0 {
		return fmt.Sprintf("%s × %.0f", g.Size, g.Length)
	}
	return g.Size
}

var kindWords = map[fastener.Kind][]string{
	fastener.Screw:   {"screw", "bolt"},
	fastener.Nut:     {"nut"},
	fastener.Washer:  {"washer"},
	fastener.Pin:     {"pin", "dowel", "shaft", "axle"},
	fastener.Bearing: {"bearing"},
}

func mentions(name string, kind fastener.Kind) bool {
	return slices.ContainsFunc(
		kindWords[kind],
		func(w string) bool { return strings.Contains(strings.ToLower(name), w) },
	)
}

// plural makes several of a name: of the word for its kind, or of its last word before a size.
func plural(name string, g *fastener.Guess) string {
	if g != nil {
		for _, w := range kindWords[g.Kind] {
			if i := strings.Index(strings.ToLower(name), w); i >= 0 {
				return name[:i+len(w)] + "s" + name[i+len(w):]
			}
		}
	}
	tail := sizes.FindString(name)
	head := strings.TrimSuffix(name, tail)
	if i := strings.Index(head, ", "); i > 0 {
		head, tail = head[:i], head[i:]+tail
	}
	switch {
	case head == "" || unicode.IsDigit(rune(head[len(head)-1])) || strings.HasSuffix(head, "teeth"):
		return name + " (several)"
	case strings.HasSuffix(head, "foot"):
		head = strings.TrimSuffix(head, "foot") + "feet"
	case strings.HasSuffix(head, "s") || strings.HasSuffix(head, "x") || strings.HasSuffix(head, "sh") || strings.HasSuffix(head, "ch"):
		head += "es"
	case strings.HasSuffix(head, "y") && len(head) > 1 && !strings.ContainsRune("aeiou", rune(head[len(head)-2])):
		head = head[:len(head)-1] + "ies"
	default:
		head += "s"
	}
	return head + tail
}

// verb is what is done with the units of a move, and how: which way, and how far until they are clear.
func (s *search) verb(r *removal, g *fastener.Guess) (verb, how string) {
	first := r.ways[0].legs[0]
	last := r.ways[0].legs[len(r.ways[0].legs)-1]
	own := first.along
	where := s.towards(own, 1)
	for _, w := range r.ways {
		if r3.Dot(w.legs[0].along, first.along) < 0.99 {
			where = s.towards(own, 2)
		}
	}
	if r.swing != nil && r.swing.After > 0 {
		return "Lead", fmt.Sprintf(
			" out%s: turn %s by %.0f° on the way, then take %s off%s",
			where, it(r), math.Abs(r.swing.Degrees), it(r), s.towards(last.along, 1),
		)
	}
	if r.swing != nil {
		return "Turn", fmt.Sprintf(" by %.0f° and take %s off%s", math.Abs(r.swing.Degrees), it(r), where)
	}
	if len(r.ways[0].legs) > 1 {
		var legs []string
		for _, l := range r.ways[0].legs[:len(r.ways[0].legs)-1] {
			legs = append(legs, fmt.Sprintf("%.0f mm%s", l.need, s.towards(l.along, 1)))
		}
		return "Move", fmt.Sprintf(" %s, and then%s", strings.Join(legs, ", then "), s.towards(last.along, 1))
	}
	clear := ""
	if first.need >= 10 {
		clear = fmt.Sprintf(
			": after %.0f mm %s clear",
			math.Ceil(first.need),
			map[bool]string{true: "they are", false: "it is"}[len(r.units) > 1],
		)
	}
	switch {
	case g != nil && g.Lead > 0:
		return "Undo", ""
	case g != nil && g.Kind == fastener.Pin:
		return "Draw out", where + clear
	case g != nil && g.Kind == fastener.Bearing:
		return "Draw off", where + clear
	case own.Y > 0.999:
		return "Lift off", " straight up" + clear
	case own.Y < -0.999:
		return "Take off", " downwards" + clear
	}
	return "Pull off", where + clear
}

func it(r *removal) string {
	if len(r.units) > 1 {
		return "them"
	}
	return "it"
}

// towards says which way a direction of the world goes: +Y is up, +Z to the front.
func (s *search) towards(own space.Vec, units int) string {
	switch {
	case units > 1:
		return " to the sides"
	case own.Y > 0.999:
		return " up"
	case own.Y < -0.999:
		return " down"
	case own.Z > 0.999:
		return " to the front"
	case own.Z < -0.999:
		return " to the back"
	case own.X > 0.999:
		return " to the right"
	case own.X < -0.999:
		return " to the left"
	}
	return " along its axis"
}

// sides says on which sides of the assembly fasteners sit, by the directions in which they leave.
func (s *search) sides(r *removal) string {
	var list []string
	for _, w := range r.ways {
		own := w.legs[0].along
		side := ""
		switch {
		case own.Z > 0.9:
			side = "at the front"
		case own.Z < -0.9:
			side = "at the back"
		case own.Y > 0.9:
			side = "from above"
		case own.Y < -0.9:
			side = "from below"
		case own.X > 0.9:
			side = "on the right"
		case own.X < -0.9:
			side = "on the left"
		}
		if side != "" && !slices.Contains(list, side) {
			list = append(list, side)
		}
	}
	if len(list) > 2 {
		return ""
	}
	slices.Sort(list)
	return strings.Replace(strings.Join(list, " and "), "on the left and on the right", "at the sides", 1)
}

// thread is how a fastener is screwed out: by what it holds, at most mostTurns.
func (s *search) thread(r *removal, g *fastener.Guess) *plan.Thread {
	const mostTurns, engaged = 16, 0.75
	need := r.ways[0].legs[0].need
	length := g.Length
	if length == 0 { // a nut
		length = g.Diameter
	}
	turns := math.Round(min(engaged*length, need) / g.Lead)
	return &plan.Thread{Turns: max(2, min(turns, mostTurns)), Lead: g.Lead, Along: g.Out, Pivot: g.Origin}
}

func capital(text string) string {
	for i, r := range text {
		return string(unicode.ToUpper(r)) + text[i+len(string(r)):]
	}
	return text
}

// numbered matches the number at the end of a name that only tells it from others of its kind: "nut_3".
var numbered = regexp.MustCompile(`[\s_.:-]+\d+$`)

func unnumbered(name string) string {
	if sizes.MatchString(name) {
		return name
	}
	return numbered.ReplaceAllString(name, "")
}

// plain is a name as people would say it: without the underscores and capitals of a file.
func plain(name string) string {
	words := strings.Fields(strings.NewReplacer("_", " ", "::", " ").Replace(name))
	for i, w := range words {
		known := false
		for _, list := range kindWords {
			known = known || slices.Contains(list, strings.ToLower(w))
		}
		if strings.ToUpper(w) == w && strings.ToLower(w) != w &&
			(known || len([]rune(w)) > 3 && !strings.ContainsAny(w, "0123456789-")) {
			words[i] = strings.ToLower(w)
		}
	}
	return shortened(strings.Join(words, " "))
}

// longest is how many letters of a name are said.
const longest = 60

func shortened(name string) string {
	if letters := []rune(name); len(letters) > longest {
		return strings.TrimSpace(string(letters[:longest])) + "…"
	}
	return name
}

// lower begins a name in lower case, unless it begins with an abbreviation.
func lower(name string) string {
	letters := []rune(name)
	if len(letters) > 1 && (unicode.IsUpper(letters[1]) || unicode.IsDigit(letters[1])) {
		return name
	}
	if len(letters) == 0 {
		return name
	}
	return string(unicode.ToLower(letters[0])) + string(letters[1:])
}

// swapped says "2.5 mm hex key" of "Hex key 2.5 mm".
func swapped(tool string) string {
	i := strings.IndexFunc(tool, unicode.IsDigit)
	if i <= 0 {
		return tool
	}
	return strings.TrimSpace(tool[i:]) + " " + lower(strings.TrimSpace(tool[:i]))
}
