package reveal

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
)

// MaxDocument is the largest document that is read, in bytes.
const MaxDocument = 32 << 20

// Parse reads a document of this format or of the former one. Unknown fields, another format and anything behind
// the document are refused. It does not validate what the document says.
func Parse(data []byte) (*Reveal, error) {
	if len(data) > MaxDocument {
		return nil, fmt.Errorf("the reveal has %d bytes; the limit is %d", len(data), MaxDocument)
	}
	r := &Reveal{}
	err := strictly(data, r)
	if (err != nil || r.Format == former) && isFormer(data) {
		if data, err = Upgrade(data); err != nil {
			return nil, err
		}
		r = &Reveal{}
		err = strictly(data, r)
	}
	if err != nil {
		return nil, fmt.Errorf("reading the reveal: %w", err)
	}
	if r.Format != Format {
		return nil, fmt.Errorf("the reveal's format is %q; this version reads %q", r.Format, Format)
	}
	return r, nil
}

// isFormer reports whether a document says that it is of the former format.
func isFormer(data []byte) bool {
	var begins struct {
		Format string `json:"format"`
	}
	return json.Unmarshal(data, &begins) == nil && begins.Format == former
}

// strictly decodes one JSON value into v and refuses fields that v lacks.
func strictly(data []byte, v any) error {
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(v); err != nil {
		return err
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return errors.New("there is something behind the end of the document")
	}
	return nil
}

// Write returns the document as JSON: always the same bytes for the same
// reveal.
func Write(r *Reveal) []byte {
	b, err := json.Marshal(r)
	if err != nil { // only a NaN could do that, and validation refuses it
		panic("reveal: writing a document that was never validated: " + err.Error())
	}
	return b
}

// Clone returns a deep copy, also of a document that Validate would refuse:
// a command may bring one.
func Clone(r *Reveal) *Reveal {
	c := &Reveal{}
	if err := strictly(Write(r), c); err != nil {
		panic("reveal: a document does not read back: " + err.Error())
	}
	return c
}

// New returns an empty reveal with the given title, seen by camera.
func New(title string, camera Camera) *Reveal {
	return &Reveal{
		Format:  Format,
		Title:   title,
		Frame:   Frame{Width: 1920, Height: 1080, Rate: 30},
		Opening: Opening{Camera: camera},
		Steps:   []Step{},
	}
}

// FindStep returns the index of a step, −1 when there is none.
func (r *Reveal) FindStep(id StepID) int {
	for i := range r.Steps {
		if r.Steps[i].ID == id {
			return i
		}
	}
	return -1
}

// FindCue returns the indices of a cue's step and of the cue in it, −1 and −1
// when there is none.
func (r *Reveal) FindCue(id CueID) (step, cue int) {
	for i := range r.Steps {
		for k := range r.Steps[i].Cues {
			if r.Steps[i].Cues[k].ID == id {
				return i, k
			}
		}
	}
	return -1, -1
}
