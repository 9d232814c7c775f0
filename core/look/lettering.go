package look

import "slowreveal/core/film"

// Lettering says how large words are set and where, in shares of the unit: the frame's shorter side.
// Widths and places are shares of the frame.
type Lettering struct {
	Title     float64 `json:"title"`
	TitleLead float64 `json:"titleLead"` // from baseline to baseline
	Text      float64 `json:"text"`
	TextLead  float64 `json:"textLead"`
	// Column is the width of a caption's lines, Safe the empty border on each side
	// (common practice, no source).
	Column float64 `json:"column"`
	Safe   float64 `json:"safe"`
	// Of a card: its title stands above CardAt, its text below.
	CardTitle  float64 `json:"cardTitle"`
	CardText   float64 `json:"cardText"`
	CardAt     float64 `json:"cardAt"`
	CardColumn float64 `json:"cardColumn"`
	// Backing is how far a caption's backing reaches beyond its words, BackingAlpha how much of what lies
	// behind it hides: the soft ink has a contrast of more than 4.5 : 1 on it, whatever is behind (WCAG 2.2, 1.4.3).
	Backing      float64 `json:"backing"`
	BackingAlpha float64 `json:"backingAlpha"`
	// Tools is the size of the line that names a step's tools.
	Tools     float64 `json:"tools"`
	ToolsLead float64 `json:"toolsLead"`
	// Of a note: its letters, and how far its plate goes beyond them; the dot on what is meant is so wide.
	Note      float64 `json:"note"`
	NoteLead  float64 `json:"noteLead"`
	NoteAside float64 `json:"noteAside"`
	NoteAbove float64 `json:"noteAbove"`
	NoteAlpha float64 `json:"noteAlpha"`
	NoteDot   float64 `json:"noteDot"`
	// What lies NoteSlack mm and NoteSlackOf of the distance before what is noted hides it: the point lies in the
	// facets of its surface, or a little below.
	NoteSlack   float64 `json:"noteSlack"`
	NoteSlackOf float64 `json:"noteSlackOf"`
	// Lines is how many lines of an instruction are shown; the rest is for the
	// manual.
	Lines int `json:"lines"`
}

// Words is the lettering of the reveal.
var Words = Lettering{
	Title: 38.0 / 1080, TitleLead: 46.0 / 1080, Text: 29.0 / 1080, TextLead: 41.0 / 1080, Column: 0.6, Safe: 0.05,
	CardTitle: 84.0 / 1080, CardText: 36.0 / 1080, CardAt: 0.5, CardColumn: 0.8, Backing: 16.0 / 1080, BackingAlpha: 0.9, Tools: 25.0 / 1080, ToolsLead: 36.9 / 1080, Lines: 3,
	Note: film.NoteSize, NoteLead: film.NoteLeading, NoteAside: film.NoteAside, NoteAbove: film.NoteAbove, NoteAlpha: 0.92, NoteDot: 9.0 / 1080, NoteSlack: 0.5, NoteSlackOf: 1.0 / 400,
}
