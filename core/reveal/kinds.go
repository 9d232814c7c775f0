package reveal

import (
	"math"
	"strconv"

	"slowreveal/core/assembly"
	"slowreveal/core/space"
)

// Settings are what a cue has beside what all cues have: a type for each kind, in a file of its own. A kind is that file
// and its entry in kinds; what moves parts is a Movement, what changes how they look a Look.
type Settings interface {
	// Label says in a few characters what the cue does: "58 mm", "8 × 0.5 mm".
	Label() string
	// clone returns a copy that shares nothing with the settings.
	clone() Settings
	validate(v *validator, path string)
}

// Movement are the settings of what moves parts.
type Movement interface {
	Settings
	// Motion is what it does to a part when it is complete.
	Motion() Motion
	// TurnedRound leads the other way: a pull with what goes aside, a route leg by leg from its other end.
	TurnedRound() Settings
	axes() *Axes
}

// Look are the settings of what changes how parts look.
type Look interface {
	Settings
	// AtOpening is a change to what the opening says of a node.
	AtOpening(o *Opening, node assembly.NodeID) Settings
}

// Motion is what a movement does to a part when it is complete, in the axes that it names. On the way, both the way and
// the angle are multiplied by the progress.
type Motion struct {
	Axes Axes
	// Way is how far it goes, mm; Route in its place where that is not straight.
	Way   space.Vec
	Route *Route
	// Degrees is how far it turns about an axis (of unit length) through Pivot, mm.
	Degrees     float64
	Axis, Pivot space.Vec
}

// Number writes v with at most two decimals and a true minus sign.
func Number(v float64) string {
	r := math.Round(v*100) / 100
	if r == 0 { // also where it is less than nothing by rounding
		return "0"
	}
	if r < 0 {
		return "−" + strconv.FormatFloat(-r, 'f', -1, 64)
	}
	return strconv.FormatFloat(r, 'f', -1, 64)
}

// acts says what cues of a kind act on.
type acts int

const (
	onParts  acts = iota
	onOne         // on exactly one part
	onJoint       // on the one that a joint moves
	onCamera      // on the camera
	onAll         // on the whole picture
)

// kind is an entry of the table of kinds.
type kind struct {
	name  Kind
	acts  acts
	moves bool
	words bool
	// passes says that it is there for as long as it lasts, and leaves nothing behind.
	passes bool
	get    func(*Cue) Settings
	set    func(*Cue, Settings)
}

// kinds is the table of all kinds of cue, in the order in which they are listed.
var kinds = []kind{
	kindOf(KindPull, onParts, func(c *Cue) **Pull { return &c.Pull }),
	kindOf(KindTurn, onParts, func(c *Cue) **Turn { return &c.Turn }),
	kindOf(KindUnscrew, onParts, func(c *Cue) **Unscrew { return &c.Unscrew }),
	kindOf(KindRoute, onParts, func(c *Cue) **Route { return &c.Route }),
	kindOf(KindDrive, onJoint, func(c *Cue) **Drive { return &c.Drive }),
	kindOf(KindFade, onParts, func(c *Cue) **Fade { return &c.Fade }),
	kindOf(KindTint, onParts, func(c *Cue) **Tint { return &c.Tint }),
	kindOf(KindSurface, onParts, func(c *Cue) **Surface { return &c.Surface }),
	kindOf(KindArrow, onParts, func(c *Cue) **Arrow { return &c.Arrow }),
	kindOf(KindNote, onOne, func(c *Cue) **Note { return &c.Note }),
	kindOf(KindCard, onAll, func(c *Cue) **Card { return &c.Card }),
	kindOf(KindShot, onCamera, func(c *Cue) **Shot { return &c.Shot }),
	kindOf(KindOrbit, onCamera, func(c *Cue) **Orbit { return &c.Orbit }),
}

// kindOf makes an entry of a kind whose settings lie in a field of a cue.
func kindOf[T any, P interface {
	*T
	Settings
}](name Kind, acts acts, field func(*Cue) **T) kind {
	_, moves := any(P(nil)).(Movement)
	_, passing := any(P(nil)).(interface{ passes() })
	return kind{
		name: name, acts: acts, moves: moves, words: acts == onOne || acts == onAll,
		passes: acts == onOne || acts == onAll || passing,
		get: func(c *Cue) Settings {
			if at := *field(c); at != nil {
				return P(at)
			}
			return nil
		},
		set: func(c *Cue, s Settings) { *field(c) = (*T)(s.(P)) },
	}
}

// Kinds lists all kinds of cue.
var Kinds = func() (list []Kind) {
	for i := range kinds {
		list = append(list, kinds[i].name)
	}
	return list
}()

// entry is the kind's in the table, nil for one that is not known.
func (k Kind) entry() *kind {
	for i := range kinds {
		if kinds[i].name == k {
			return &kinds[i]
		}
	}
	return nil
}

// Camera reports whether cues of the kind move the camera.
func (k Kind) Camera() bool { e := k.entry(); return e != nil && e.acts == onCamera }

// Targeted reports whether cues of the kind act on nodes.
func (k Kind) Targeted() bool {
	e := k.entry()
	return e == nil || e.acts == onParts || e.single()
}

// Single reports whether cues of the kind act on exactly one node.
func (k Kind) Single() bool { e := k.entry(); return e != nil && e.single() }

func (e *kind) single() bool { return e.acts == onOne || e.acts == onJoint }

// Moves reports whether cues of the kind move parts.
func (k Kind) Moves() bool { e := k.entry(); return e != nil && e.moves }

// Passes reports whether what cues of the kind show is there for as long as they last, and leaves nothing behind.
func (k Kind) Passes() bool { e := k.entry(); return e != nil && e.passes }

// Words reports whether cues of the kind say something.
func (k Kind) Words() bool { e := k.entry(); return e != nil && e.words }

// Settings are those of the cue's kind, nil where it has none: in a twin.
func (c *Cue) Settings() Settings {
	if e := c.Kind.entry(); e != nil {
		return e.get(c)
	}
	return nil
}

// SetSettings gives the cue other settings of its kind.
func (c *Cue) SetSettings(s Settings) { c.Kind.entry().set(c, s) }

// Label says in a few characters what the cue does, "" for a twin.
func (c *Cue) Label() string {
	if s := c.Settings(); s != nil {
		return s.Label()
	}
	return ""
}
