package main

import (
	"errors"
	"fmt"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"slowreveal/core/reveal"
)

// number is a flag that is a finite number.
type number float64

// UnmarshalText reads a number; NaN and infinities are none.
func (n *number) UnmarshalText(text []byte) error {
	v, err := strconv.ParseFloat(string(text), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return fmt.Errorf("%q is no number", text)
	}
	*n = number(v)
	return nil
}

// seconds is a flag that is a time, or a length of time, which may lie before zero.
type seconds float64

// longest bounds times in seconds; a reveal is shorter.
const longest = 1e6

// UnmarshalText reads a time.
func (s *seconds) UnmarshalText(text []byte) error {
	var n number
	if err := n.UnmarshalText(text); err != nil {
		return fmt.Errorf("%q is no time in seconds", text)
	}
	if math.Abs(float64(n)) > longest {
		return fmt.Errorf("%q is no time in seconds: it is longer than %.0f", text, longest)
	}
	*s = seconds(n)
	return nil
}

func (s seconds) micros() reveal.Micros { return reveal.Micros(math.Round(float64(s) * 1e6)) }

// moment is a flag that is a time from the beginning on.
type moment struct{ seconds }

// UnmarshalText reads a time that is not negative.
func (m *moment) UnmarshalText(text []byte) error {
	if err := m.seconds.UnmarshalText(text); err != nil {
		return err
	}
	if m.seconds < 0 {
		return fmt.Errorf("%q lies before the beginning: times are counted from 0 s", text)
	}
	return nil
}

// replaceable refuses to write where something lies that is no ordinary file: a device, a folder, a
// link.
func replaceable(path string) error {
	if filepath.Base(path) == "-" {
		return errors.New("--out - is not understood: outputs are written to files, not to the standard output")
	}
	info, err := os.Lstat(path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return nil
	case err != nil:
		return fmt.Errorf("looking at %s: %w", path, err)
	case info.IsDir():
		return fmt.Errorf("%s is a folder; name a file in it", path)
	case !info.Mode().IsRegular():
		return fmt.Errorf("%s is no ordinary file and is not replaced; choose another name", path)
	}
	return nil
}

// fitting refuses a file name whose ending says something else than what will be in it.
func fitting(path, extension string) error {
	given := strings.ToLower(strings.TrimPrefix(filepath.Ext(path), "."))
	same := [][]string{{"jpg", "jpeg"}, {"tif", "tiff"}}
	if given == extension ||
		slices.ContainsFunc(
			same,
			func(s []string) bool { return slices.Contains(s, given) && slices.Contains(s, extension) },
		) {
		return nil
	}
	name := strings.TrimSuffix(path, filepath.Ext(path)) + "." + extension
	return fmt.Errorf(
		"%s does not end like what is made, which is .%s: call it %s, or choose another --format",
		path,
		extension,
		name,
	)
}
