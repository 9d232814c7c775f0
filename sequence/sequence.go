package sequence

import (
	"fmt"
	"sync"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/render"
)

// TitleCard is a text alone before the background, for a time.
type TitleCard struct {
	Title    string        `json:"title"`
	Text     string        `json:"text,omitempty"`
	Duration reveal.Micros `json:"duration"`
}

// Check says what is wrong with a card.
func (c *TitleCard) Check() error {
	switch {
	case c.Title == "" || len(c.Title) > reveal.MaxTitle || len(c.Text) > reveal.MaxNote:
		return fmt.Errorf(
			"a title card needs a title of at most %d characters; its text may have %d",
			reveal.MaxTitle,
			reveal.MaxNote,
		)
	case c.Duration < reveal.Second/10 || c.Duration > 60*reveal.Second:
		return fmt.Errorf(
			"the title card %q stands for %.2f s; between 0.1 and 60 are possible",
			c.Title,
			seconds(c.Duration),
		)
	}
	return nil
}

// Clip is a stretch of a film: a card, when there is one, and what a plan shows of a reveal.
type Clip struct {
	Plan *Plan
	Film *film.Film
	// Scene may come later, before the first frame is made.
	Scene *render.Scene
	Card  *TitleCard
}

// Sequence is a film as it is edited together: clips one after the other, with cross-fades
// where they and their cards meet. Most films have one clip and no card.
type Sequence struct {
	// Plan is the first clip's: its size, rate, format and background are the film's.
	Plan   *Plan
	Frames int
	clips  []placedClip
	fade   int       // frames
	spare  sync.Pool // of tables at which no segment is made
}

// placedClip is a card or a clip's plan in the frames of a film. Neighbours overlap by the
// cross-fade.
type placedClip struct {
	clip          *Clip
	card          bool
	first, frames int
}

// MaxClips is the largest number of reveals that are joined.
const MaxClips = 50

// NewSequence edits clips together; fade is how long they cross-fade.
func NewSequence(reels []*Clip, fade reveal.Micros) (*Sequence, error) {
	if len(reels) == 0 || len(reels) > MaxClips {
		return nil, fmt.Errorf("a film is joined of at least 1 and at most %d reveals, not %d", MaxClips, len(reels))
	}
	c := &Sequence{Plan: reels[0].Plan}
	if fade < 0 || fade > 10*reveal.Second {
		return nil, fmt.Errorf("a cross-fade of %.2f s is not between 0 and 10", seconds(fade))
	}
	c.fade = c.Plan.Rate.Count(fade)
	for _, r := range reels {
		if r.Card != nil {
			if err := r.Card.Check(); err != nil {
				return nil, err
			}
			c.add(placedClip{clip: r, card: true, frames: c.Plan.Rate.Count(r.Card.Duration)})
		}
		c.add(placedClip{clip: r, frames: r.Plan.Frames})
	}
	if len(c.clips) > 1 {
		for _, s := range c.clips {
			if s.frames < 2*c.fade {
				return nil, fmt.Errorf(
					"the cross-fade of %.2f s is longer than half of %q, which lasts %.2f s: choose a shorter one",
					seconds(fade),
					s.name(),
					seconds(c.Plan.Rate.Time(s.frames)),
				)
			}
		}
	}
	if c.Frames > MaxFrames {
		return nil, fmt.Errorf("the film would have %d frames; it can have %d", c.Frames, MaxFrames)
	}
	return c, nil
}

func (c *Sequence) add(s placedClip) {
	s.first = max(0, c.Frames-c.fade)
	c.Frames = s.first + s.frames
	c.clips = append(c.clips, s)
}

func (s *placedClip) name() string {
	if s.card {
		return s.clip.Card.Title
	}
	return s.clip.Film.Reveal.Title
}

// Alone is a film of one plan.
func (p *Plan) Alone(f *film.Film, scene *render.Scene) *Sequence {
	c := &Sequence{Plan: p}
	c.add(placedClip{clip: &Clip{Plan: p, Film: f, Scene: scene}, frames: p.Frames})
	return c
}

// Duration is how long the film lasts.
func (c *Sequence) Duration() reveal.Micros {
	if len(c.clips) == 1 {
		return c.Plan.Duration()
	}
	return c.Plan.Rate.Time(c.Frames)
}

// SegmentDuration is how long the segments are about in which a film is made.
const SegmentDuration = 4 * reveal.Second

// Segments returns how many frames each segment of the film has.
func (c *Sequence) Segments() []int {
	each := max(1, c.Plan.Rate.Count(SegmentDuration))
	var list []int
	for k := 0; k < c.Frames; k += each {
		list = append(list, min(each, c.Frames-k))
	}
	return list
}

// bounds returns between which times of the film a stretch is seen: it ends where what
// follows it begins to come.
func (c *Sequence) bounds(i int) (from, to reveal.Micros) {
	from, to = c.Plan.Rate.Time(c.clips[i].first), c.Duration()
	if i+1 < len(c.clips) {
		to = c.Plan.Rate.Time(c.clips[i+1].first)
	}
	return from, to
}

func (c *Sequence) passages(i int) []Passage {
	s := &c.clips[i]
	from, to := c.bounds(i)
	var list []Passage
	for _, p := range s.clip.Plan.passages(s.clip.Film) {
		p.Film, p.From, p.To = s.clip.Film, p.From+from, min(p.To+from, to)
		if p.From < p.To {
			list = append(list, p)
		}
	}
	return list
}

// Passages returns the steps as they follow one another in the film.
func (c *Sequence) Passages() []Passage {
	var list []Passage
	for i := range c.clips {
		if !c.clips[i].card {
			list = append(list, c.passages(i)...)
		}
	}
	return list
}

// Chapters are the passages by their steps' titles, and the cards by theirs.
func (c *Sequence) Chapters() []encode.Chapter {
	var list []encode.Chapter
	for i := range c.clips {
		if s := &c.clips[i]; s.card {
			from, to := c.bounds(i)
			list = append(list, encode.Chapter{Title: s.name(), From: from, To: to})
			continue
		}
		for _, q := range c.passages(i) {
			list = append(list, encode.Chapter{Title: titleOf(q.Film, q.Step), From: q.From, To: q.To})
		}
	}
	return list
}
