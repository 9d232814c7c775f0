// Package quantity reads the numbers that an author types: with a unit, a sign,
// and as a small sum ("2*35", "1080°", "3 turns", "0:07.5").
package quantity

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Kind says what a number stands for.
type Kind string

// The quantities, with the unit that a bare number has and the result is in.
const (
	Length  Kind = "length"  // mm; also cm, m, µm, in, "
	Angle   Kind = "angle"   // degrees; also °, rad, turns, rev
	Time    Kind = "time"    // seconds; also ms, s, min, m:ss
	Percent Kind = "percent" // percent; also %
	Plain   Kind = "plain"   // no unit
)

var units = map[Kind]map[string]float64{
	Length:  {"": 1, "mm": 1, "cm": 10, "m": 1000, "µm": 0.001, "um": 0.001, "in": 25.4, "\"": 25.4},
	Angle:   {"": 1, "°": 1, "deg": 1, "rad": 180 / math.Pi, "turn": 360, "turns": 360, "rev": 360},
	Time:    {"": 1, "s": 1, "ms": 0.001, "min": 60},
	Percent: {"": 1, "%": 1},
	Plain:   {"": 1},
}

const maxText = 100

// Parse reads text as a quantity: a sum of products of numbers with units and
// brackets. Decimal points and commas are both understood.
func Parse(q Kind, text string) (float64, error) {
	known, ok := units[q]
	if !ok {
		return 0, fmt.Errorf("there is no quantity %q", q)
	}
	if len(text) > maxText {
		return 0, fmt.Errorf("that is longer than %d characters", maxText)
	}
	if q == Time {
		if v, ok := clock(text); ok {
			return v, nil
		}
	}
	p := &parser{
		rest:  strings.NewReplacer("−", "-", "×", "*", "·", "*", "÷", "/", ",", ".").Replace(text),
		units: known,
	}
	v, err := p.sum(0)
	if err == nil && p.peek() != 0 {
		err = fmt.Errorf("%q is not understood", strings.TrimSpace(p.rest))
	}
	if err == nil && !finite(v) {
		err = errNotFinite
	}
	if err != nil {
		return 0, err
	}
	return v, nil
}

var errNotFinite = errors.New("that is not a finite number")

func finite(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }

// clock reads m:ss.s.
func clock(text string) (float64, bool) {
	m, s, ok := strings.Cut(strings.TrimSpace(text), ":")
	if !ok {
		return 0, false
	}
	minutes, err1 := strconv.ParseUint(m, 10, 16)
	seconds, err2 := strconv.ParseFloat(strings.Replace(s, ",", ".", 1), 64)
	if err1 != nil || err2 != nil || !(seconds >= 0 && seconds < 60) {
		return 0, false
	}
	return float64(minutes)*60 + seconds, true
}

type parser struct {
	rest  string
	units map[string]float64
}

func (p *parser) peek() rune {
	p.rest = strings.TrimLeft(p.rest, " \t\u00a0")
	if p.rest == "" {
		return 0
	}
	r, _ := utf8.DecodeRuneInString(p.rest)
	return r
}

func (p *parser) take(r rune) bool {
	if p.peek() != r {
		return false
	}
	p.rest = p.rest[utf8.RuneLen(r):]
	return true
}

const deepest = 20

func (p *parser) sum(depth int) (float64, error) {
	if depth > deepest {
		return 0, errors.New("there are too many brackets")
	}
	v, err := p.product(depth)
	for err == nil {
		var w float64
		switch {
		case p.take('+'):
			w, err = p.product(depth)
			v += w
		case p.take('-'):
			w, err = p.product(depth)
			v -= w
		default:
			return v, nil
		}
	}
	return 0, err
}

func (p *parser) product(depth int) (float64, error) {
	v, err := p.value(depth)
	for err == nil {
		var w float64
		switch {
		case p.take('*'):
			w, err = p.value(depth)
			v *= w
		case p.take('/'):
			w, err = p.value(depth)
			if err == nil && w == 0 {
				err = errors.New("that divides by zero")
			}
			v /= w
		default:
			return v, nil
		}
	}
	return 0, err
}

func (p *parser) value(depth int) (float64, error) {
	if depth > deepest {
		return 0, errors.New("there are too many signs")
	}
	switch {
	case p.take('-'):
		v, err := p.value(depth + 1)
		return -v, err
	case p.take('+'):
		return p.value(depth + 1)
	case p.take('('):
		v, err := p.sum(depth + 1)
		if err == nil && !p.take(')') {
			err = errors.New("a bracket is not closed")
		}
		return p.unit(v, err)
	}
	p.peek()
	n := 0
	for n < len(p.rest) && (p.rest[n] >= '0' && p.rest[n] <= '9' || p.rest[n] == '.') {
		n++
	}
	v, err := strconv.ParseFloat(p.rest[:n], 64)
	if err != nil {
		return 0, errors.New("Type a number, such as 2*35 or 1.5 s")
	}
	p.rest = p.rest[n:]
	return p.unit(v, nil)
}

// unit takes the longest unit that follows.
func (p *parser) unit(v float64, err error) (float64, error) {
	if err != nil {
		return 0, err
	}
	p.peek()
	best := ""
	for u := range p.units {
		if len(u) > len(best) && strings.HasPrefix(p.rest, u) {
			best = u
		}
	}
	p.rest = p.rest[len(best):]
	return v * p.units[best], nil
}
