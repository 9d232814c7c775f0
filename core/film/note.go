package film

import (
	"math"
	"slices"
	"strings"
	"unicode"

	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/core/typeset"
)

// Note is a text with its leader, in the frame: x runs from 0 at the left to 1 at
// the right, y from 0 at the top to 1 at the foot.
type Note struct {
	Lines []string `json:"lines"`
	// AnchorX, AnchorY is what it points at; X, Y the upper left corner of the
	// text, Width and Height its size.
	AnchorX float64 `json:"anchorX"`
	AnchorY float64 `json:"anchorY"`
	X       float64 `json:"x"`
	Y       float64 `json:"y"`
	Width   float64 `json:"width"`
	Height  float64 `json:"height"`
	Opacity float64 `json:"opacity"`
	// At is what it points at, in the world, mm, a point of Node. Whoever draws the parts says whether something else
	// hides it: then the leader is dashed and ends in an open ring.
	At     space.Vec3      `json:"at"`
	Node   assembly.NodeID `json:"node"`
	Hidden bool            `json:"hidden,omitempty"`
}

// Plate is what the note's plate covers in a frame of an aspect.
func (n *Note) Plate(aspect float64) Area {
	across, down := unit(aspect)
	return Area{
		n.X - NoteAside*across, n.Y - NoteAbove*down, n.X + n.Width + NoteAside*across, n.Y + n.Height + NoteAbove*down,
	}
}

// Same reports whether two notes look the same, but for what hides them.
func (n Note) Same(o Note) bool {
	lines := slices.Equal(n.Lines, o.Lines)
	return lines && n.AnchorX == o.AnchorX && n.AnchorY == o.AnchorY && n.X == o.X && n.Y == o.Y &&
		n.Opacity == o.Opacity
}

// How notes are set, in shares of the unit (look.Lettering).
const (
	NoteSize    = 0.026 // of the letters
	NoteLeading = 0.034 // from line to line
	noteColumn  = 13.8  // the longest line, in sizes of the letters
	// NoteAside and NoteAbove are how far a note's plate goes beyond its text, noteApart how far plates stay apart.
	NoteAside = 0.013
	NoteAbove = 0.0091
	noteApart = 0.008
	noteSoft  = 250_000
	safe      = 0.05 // of each side (common practice, no source)
)

type note struct {
	cue   *reveal.Cue
	node  int
	start reveal.Micros
	lines []string
	// broad and high are those of the text; dx, dy lead from what is pointed at to the middle of the text. All in
	// shares of the unit.
	broad, high, dx, dy float64
}

// HasNotes reports whether notes are seen anywhere in the film.
func (f *Film) HasNotes() bool { return len(f.notes) > 0 }

// size is that of the text in shares of a frame.
func (n *note) size(aspect float64) (width, height float64) {
	across, down := unit(aspect)
	return n.broad * across, n.high * down
}

// placeNotes breaks the notes into lines and finds a place for each beside what
// it points at, as the frame is in the middle of its time. There it stays: a text
// that jumps cannot be read.
func (f *Film) placeNotes() {
	if len(f.notes) == 0 {
		return
	}
	fr := f.NewFrame()
	across, down := unit(f.aspect)
	for i := range f.notes {
		n := &f.notes[i]
		n.lines = typeset.Lines(n.cue.Note.Text, noteColumn, extent)
		longest := 0.0
		for _, l := range n.lines {
			longest = max(longest, extent(l))
		}
		n.broad, n.high = longest*NoteSize, float64(len(n.lines))*NoteLeading
	}
	for i := range f.notes {
		n := &f.notes[i]
		f.evaluateScene(n.start+n.cue.Duration/2, fr)
		dx, dy := f.place(i, fr)
		n.dx, n.dy = dx/across, dy/down
	}
}

// KeptFree returns the film with its notes beside a rectangle of the frame in which something else stands, such as a
// logo: shares of the frame, from its upper left corner.
func (f *Film) KeptFree(left, top, right, bottom float64) *Film {
	g := *f
	g.notes = slices.Clone(f.notes)
	g.taken = append(slices.Clone(f.taken), Note{X: left, Y: top, Width: right - left, Height: bottom - top})
	g.placeNotes()
	return &g
}

// extent is about how long a line is, in sizes of the letters: at least as long as the shipped face sets it
// (render's tests hold it against the face).
func extent(line string) float64 {
	sum := 0.0
	for _, r := range line {
		switch {
		case typeset.Wide(r):
			sum++
		case strings.ContainsRune("iljtfrI.,:;'|!()[] -·", r):
			sum += 0.36
		case strings.ContainsRune("mwMW@%—–…", r):
			sum += 0.98
		case unicode.IsUpper(r):
			sum += 0.74
		case r < 0x250:
			sum += 0.6
		default:
			sum += 0.72
		}
	}
	return sum
}

// area is a rectangle in the frame.
// Area is a place in a frame, in shares of its sides from the upper left corner.
type Area struct{ Left, Top, Right, Bottom float64 }

func (a Area) overlap(b Area) float64 {
	return max(0, min(a.Right, b.Right)-max(a.Left, b.Left)) * max(0, min(a.Bottom, b.Bottom)-max(a.Top, b.Top))
}

// wordsArea is where the words of the steps may stand: their notice, title, instruction and tools.
func (f *Film) wordsArea() Area {
	style := f.Reveal.CaptionStyle()
	_, down := unit(f.aspect)
	high := 0.25 * style.Size * down
	switch style.Place {
	case reveal.UpperLeft:
		return Area{0, 0, 0.66, high}
	case reveal.LowerMiddle:
		return Area{0.17, 1 - high, 0.83, 1}
	}
	return Area{0, 1 - high, 0.66, 1}
}

// place weighs places around the point for note i: it should cover no part, no
// other note and not the words at the foot, and stay inside the safe area.
func (f *Film) place(i int, fr *Frame) (dx, dy float64) {
	n, aspect := &f.notes[i], f.aspect
	width, height := n.size(aspect)
	across, down := unit(aspect)
	sight := ProjectionOf(fr.Camera, aspect)
	ax, ay, _ := sight.Project(f.anchor(n, fr))
	parts, words := f.onScreen(fr, &sight), f.wordsArea()
	best := math.Inf(1)
	for _, far := range [3]float64{0.11, 0.18, 0.27} {
		for k := range 16 {
			s, c := math.Sincos(2*math.Pi*float64(k)/16 + 0.2)
			x, y := c*far*across*1.2, -s*far*down
			x += math.Copysign(width/2, x)
			a := Area{ax + x - width/2, ay + y - height/2, ax + x + width/2, ay + y + height/2}
			cost := far * 0.15
			out := max(0, safe-a.Left) + max(0, a.Right-1+safe) + max(0, safe-a.Top) + max(0, a.Bottom-1+safe)
			cost += 40 * out
			cost += 60 * a.overlap(words)
			for _, t := range f.taken {
				cost += 200 * a.overlap(Area{t.X, t.Y, t.X + t.Width, t.Y + t.Height})
			}
			for _, p := range parts {
				cost += 3 * a.overlap(p)
			}
			for k := range f.notes {
				o := &f.notes[k]
				if k == i || o.start > n.start+n.cue.Duration || n.start > o.start+o.cue.Duration || k > i {
					continue
				}
				ox, oy, _ := sight.Project(f.anchor(o, fr))
				ox, oy = ox+o.dx*across, oy+o.dy*down
				w, h := o.size(aspect)
				w, h = w+4*NoteAside*across, h+4*NoteAbove*down
				cost += 200 * a.overlap(Area{ox - w/2, oy - h/2, ox + w/2, oy + h/2})
			}
			if cost < best {
				best, dx, dy = cost, x, y
			}
		}
	}
	return dx, dy
}

func (f *Film) anchor(n *note, fr *Frame) space.Vec {
	return fr.World[n.node].Apply(n.cue.Note.At.Vec())
}

// onScreen returns what the visible parts cover of the frame, box by box.
func (f *Film) onScreen(fr *Frame, sight *Projection) []Area {
	var areas []Area
	for i := range f.Assembly.Nodes {
		if !f.Assembly.Nodes[i].IsPart() || fr.Opacity[i] <= 0 {
			continue
		}
		b := f.partBox(i)
		a := Area{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
		for k := range 8 {
			x, y, front := sight.Project(fr.World[i].Apply(b.Corner(k)))
			if front {
				a = Area{min(a.Left, x), min(a.Top, y), max(a.Right, x), max(a.Bottom, y)}
			}
		}
		if a.Left < a.Right {
			areas = append(areas, a)
		}
	}
	return areas
}

// NotesFor returns the notes of the frame as another camera sees them, the
// author's own eye for one.
func (f *Film) NotesFor(fr *Frame, c reveal.Camera, aspect float64) []Note {
	shot := fr.Camera
	fr.Camera = c
	f.evaluateNotes(fr, aspect)
	notes := slices.Clone(fr.Notes)
	fr.Camera = shot
	f.evaluateNotes(fr, f.aspect)
	return notes
}

// evaluateNotes fills in the notes that are seen.
func (f *Film) evaluateNotes(fr *Frame, aspect float64) {
	fr.Notes = fr.Notes[:0]
	if len(f.notes) == 0 {
		return
	}
	sight := ProjectionOf(fr.Camera, aspect)
	across, down := unit(aspect)
	for i := range f.notes {
		n := &f.notes[i]
		width, height := n.size(aspect)
		since, left := float64(fr.Time-n.start), float64(n.start+n.cue.Duration-fr.Time)
		o := min(since, left) / min(noteSoft, float64(n.cue.Duration)/2)
		at := f.anchor(n, fr)
		x, y, front := sight.Project(at)
		if o <= 0 || !front || width == 0 {
			continue
		}
		edge := max(safe, min(x+n.dx*across-width/2, 1-safe-width))
		top := max(safe, min(y+n.dy*down-height/2, 1-safe-height))
		if x > edge && x < edge+width && y > top && y < top+height {
			// The edge of the frame has pushed it over its point: above or below it.
			if top = y - height - 0.03*down; top < safe {
				top = y + 0.03*down
			}
		}
		said := Note{
			Lines:   n.lines,
			AnchorX: x,
			AnchorY: y,
			X:       edge,
			Y:       top,
			Width:   width,
			Height:  height,
			Opacity: min(o, 1),
			At:      space.Vec3Of(at),
			Node:    f.Assembly.Nodes[n.node].ID,
		}
		said.makeWay(fr.Notes, f.taken, (2*NoteAside+noteApart)*across, (2*NoteAbove+noteApart)*down)
		fr.Notes = append(fr.Notes, said)
	}
}

// makeWay moves a note below those that its plate would lie on, and what else is taken, or above where the
// frame ends: parts that move may bring notes together that were apart.
func (n *Note) makeWay(others, taken []Note, beside, gap float64) {
	for range len(others) + len(taken) {
		for i := range len(others) + len(taken) {
			var o *Note
			if i < len(others) {
				o = &others[i]
			} else {
				o = &taken[i-len(others)]
			}
			mine, theirs := Area{
				n.X,
				n.Y,
				n.X + n.Width,
				n.Y + n.Height,
			}, Area{
				o.X - beside,
				o.Y - gap + 1e-9,
				o.X + o.Width + beside,
				o.Y + o.Height + gap - 1e-9,
			}
			if mine.overlap(theirs) == 0 {
				continue
			}
			if n.Y = o.Y + o.Height + gap; n.Y+n.Height > 1-safe {
				n.Y = o.Y - n.Height - gap
			}
		}
	}
}
