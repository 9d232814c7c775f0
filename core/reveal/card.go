package reveal

// Card is a text over the whole picture for as long as the cue lasts.
type Card struct {
	Title string `json:"title"`
	Text  string `json:"text,omitempty"`
	// Clear leaves the picture to be seen behind the words.
	Clear bool `json:"clear,omitempty"`
}

// Label is the title.
func (c *Card) Label() string { return c.Title }

func (c *Card) clone() Settings { own := *c; return &own }

func (c *Card) validate(v *validator, path string) {
	v.text(path+".title", c.Title, 1, MaxTitle)
	v.text(path+".text", c.Text, 0, MaxNote)
}
