package film

import "slowreveal/core/reveal"

// Card is a text over the whole picture.
type Card struct {
	Title string `json:"title"`
	Text  string `json:"text,omitempty"`
	// Clear says that the picture is seen behind the words.
	Clear   bool    `json:"clear,omitempty"`
	Opacity float64 `json:"opacity"`
}

// cardSoft is how long a card takes to come and to go.
const cardSoft = 400_000

type card struct {
	cue   *reveal.Cue
	start reveal.Micros
}

// cardEnd is when a card is gone: before another one comes, for two titles over each other cannot be read.
func (f *Film) cardEnd(c *card) reveal.Micros {
	end := c.start + c.cue.Duration
	for i := range f.cards {
		if o := &f.cards[i]; o.start > c.start && o.start < end {
			end = o.start
		}
	}
	return end
}

// evaluateCards fills in the cards that are seen.
func (f *Film) evaluateCards(fr *Frame) {
	fr.Cards = fr.Cards[:0]
	for _, c := range f.cards {
		since, left := float64(fr.Time-c.start), float64(f.cardEnd(&c)-fr.Time)
		soft := min(cardSoft, float64(c.cue.Duration)/2)
		o := min(since, left) / soft
		if c.start <= 0 { // a film that opens with a card opens with it in full
			o = left / soft
		}
		if o > 0 && since >= 0 {
			fr.Cards = append(fr.Cards, Card{c.cue.Card.Title, c.cue.Card.Text, c.cue.Card.Clear, min(o, 1)})
		}
	}
}
