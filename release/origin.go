package release

import (
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	"image/png"
	"io"
	"strings"

	"slowreveal/core/product"
	"slowreveal/core/reveal"
)

// Origin is where the assembly and the reveal of an output come from. What is made says so itself, since files travel
// further than the list in which they were made.
type Origin struct {
	File string // the assembly's file, without its folder
	// Revision counts the assembly's revisions in its project, Version the reveal's edits; 0 outside a project.
	Revision int
	Version  int64
	// Proof says in words what a proof has found in a reveal of a model; nil where none is asked for. Not for several
	// goroutines at once.
	Proof func(*product.Model, *reveal.Reveal) string
}

// MadeOf says in words what an output was made of: the assembly with its file and revision, the variant, the reveals.
func (w *Work) MadeOf() string {
	of := w.model.Assembly.Name
	if w.Origin.File != "" {
		of += " (" + w.Origin.File + ")"
	}
	if w.Origin.Revision > 0 {
		of += fmt.Sprintf(", revision %d", w.Origin.Revision)
	}
	if w.variant != nil {
		of += ", variant " + w.variant.Name
	}
	of += "; reveal " + w.doc.Title
	if w.Origin.Revision > 0 {
		of += fmt.Sprintf(", version %d", w.Origin.Version)
	}
	of += w.proven(w.reels[0])
	for _, r := range w.reels[1:] {
		of += ", then " + r.doc.Title + w.proven(r)
	}
	return "Made of " + of
}

// proven says what a proof has found in one of the reveals.
func (w *Work) proven(r *reel) string {
	if w.Origin.Proof == nil {
		return ""
	}
	w.preparing.Lock()
	defer w.preparing.Unlock()
	return "; proof: " + w.Origin.Proof(r.model, r.doc)
}

// comment is what a film says of itself: what it was made of, and what is to be minded in it.
func (w *Work) comment() string {
	if minded := w.warnings(); minded != "" {
		return w.MadeOf() + " | " + minded
	}
	return w.MadeOf()
}

// writePNG writes a picture that says what it was made of: in international text with the keyword Comment (PNG, third
// edition, W3C 2025, section 11.3.3.4), which stands behind the header.
func writePNG(to io.Writer, p image.Image, comment string) error {
	chunk := append([]byte("iTXtComment\x00\x00\x00\x00\x00"), strings.ReplaceAll(comment, "\x00", "")...)
	text := binary.BigEndian.AppendUint32(nil, uint32(len(chunk)-4))
	text = append(text, chunk...)
	text = binary.BigEndian.AppendUint32(text, crc32.ChecksumIEEE(chunk))
	const header = 8 + 4 + 4 + 13 + 4 // the signature; the header's length, type, data and check
	e := png.Encoder{CompressionLevel: png.BestSpeed}
	return e.Encode(&inserter{to: to, at: header, text: text}, p)
}

// inserter passes on what is written and puts a text in at a place of it: pictures are too large to be kept beside.
type inserter struct {
	to   io.Writer
	at   int // how much comes before the text
	text []byte
}

func (i *inserter) Write(p []byte) (n int, err error) {
	if i.text != nil && len(p) >= i.at {
		if n, err = i.to.Write(p[:i.at]); err != nil {
			return n, err
		}
		if _, err = i.to.Write(i.text); err != nil {
			return n, err
		}
		i.text, p = nil, p[i.at:]
	}
	i.at -= len(p)
	rest, err := i.to.Write(p)
	return n + rest, err
}
