package reveal

// Arrow shows for as long as it lasts which way its targets go from its beginning on: a line with a head along the way of
// a point of each, straight or curved, as long as the motion.
type Arrow struct {
	// Ahead is over what time the motion is shown, from the cue's beginning on; 0 is the cue's own length.
	Ahead Micros `json:"ahead,omitempty"`
}

// Label is empty: what it shows is what moves.
func (a *Arrow) Label() string { return "" }

// passes says that an arrow leaves nothing behind.
func (a *Arrow) passes() {}

func (a *Arrow) clone() Settings { own := *a; return &own }

func (a *Arrow) validate(v *validator, path string) {
	v.want(a.Ahead >= 0 && a.Ahead <= MaxDuration, path+".ahead", "%d µs is not between 0 and 4 hours", a.Ahead)
}
