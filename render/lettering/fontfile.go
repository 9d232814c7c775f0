package lettering

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"

	"github.com/go-text/typesetting/font"
)

// maxFontTables bounds the tables of a font and what they take, unpacked: the largest fonts that are
// made have some sixty tables and 50 MB.
const (
	maxFontTables = 256
	maxFontBytes  = 128 << 20
)

// ReadFont reads a font file: TrueType, OpenType or WOFF, or the first font of a
// collection.
func ReadFont(data []byte) (f *Font, err error) {
	defer func() { // a file may be anything
		if p := recover(); p != nil {
			f, err = nil, fmt.Errorf("the font is damaged: %v", p)
		}
	}()
	if err := checkTables(data); err != nil {
		return nil, err
	}
	faces, err := font.ParseTTC(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("this is no font that can be read (TrueType, OpenType, WOFF): %w", err)
	}
	return &Font{faces[0], data}, nil
}

// Try uses the font for everything that it can be used for: every sign is set, every outline read.
func (f *Font) Try() (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("the font is damaged: %v", p)
		}
	}()
	signs := f.face.Cmap.Iter()
	var text []rune
	t := &typeface{faces: []*font.Face{f.face}}
	for n := 0; signs.Next() && n < 1<<17; n++ {
		r, glyph := signs.Char()
		f.face.GlyphData(glyph)
		if text = append(text, r); len(text) == 200 {
			t.wrap(text, 40, 1<<16)
			text = text[:0]
		}
	}
	t.wrap(text, 40, 1<<16)
	return nil
}

// checkTables holds the directory of a font against the file, before anything is made as large as it
// says (OpenType 1.9, “Organization of an OpenType Font”; W3C WOFF 1.0, section 4).
func checkTables(data []byte) error {
	be := binary.BigEndian
	if len(data) < 12 {
		return errors.New("this is no font: the file is too short")
	}
	at := 0
	switch string(data[:4]) {
	case "\x00\x01\x00\x00", "OTTO", "true", "typ1":
		return checkDirectory(data, 12, int(be.Uint16(data[4:])), 16)
	case "wOFF":
		return checkDirectory(data, 44, int(be.Uint16(data[12:])), 20)
	case "wOF2":
		return errors.New("fonts in WOFF 2 are not read; save it as WOFF, TrueType or OpenType")
	case "ttcf":
		fonts := be.Uint32(data[8:])
		if fonts == 0 || fonts > 1024 || uint64(len(data)) < 12+4*uint64(fonts) {
			return errors.New("the font is damaged: its collection is longer than the file")
		}
		for i := range int(fonts) {
			at = int(be.Uint32(data[12+4*i:]))
			if at > len(data)-12 {
				return errors.New("the font is damaged: a font of its collection lies behind the end of the file")
			}
			if err := checkDirectory(data, at+12, int(be.Uint16(data[at+4:])), 16); err != nil {
				return err
			}
		}
		return nil
	}
	return errors.New("this is no font that can be read (TrueType, OpenType, WOFF)")
}

// checkDirectory looks at count records of 16 bytes (tag, sum, offset, length) or of 20 (WOFF: tag,
// offset, packed length, length, sum) from a place on.
func checkDirectory(data []byte, at, count, size int) error {
	be := binary.BigEndian
	if count > maxFontTables || at+count*size > len(data) {
		return errors.New("the font is damaged: its directory is longer than the file")
	}
	whole := uint64(0)
	for i := range count {
		r := data[at+i*size:]
		offset, length := uint64(be.Uint32(r[8:])), uint64(be.Uint32(r[12:]))
		unpacked := length
		if size == 20 {
			offset, length, unpacked = uint64(be.Uint32(r[4:])), uint64(be.Uint32(r[8:])), uint64(be.Uint32(r[12:]))
		}
		if whole += unpacked; offset+length > uint64(len(data)) || whole > maxFontBytes {
			return fmt.Errorf("the font is damaged: its table %q is longer than the file", r[:4])
		}
	}
	return nil
}
