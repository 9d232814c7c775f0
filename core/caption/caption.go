package caption

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"slowreveal/core/reveal"
	"slowreveal/core/typeset"
)

// Cue is one caption: what is read between two times of the film.
type Cue struct {
	From, To reveal.Micros
	Title    string
	Text     string
	// Notice and Tools are what has to be known before the step is begun.
	Notice *reveal.Notice
	Tools  []string
	// Step is the one whose words they are, empty for a card's.
	Step reveal.StepID
}

// The speed of reading that is asked for at most. Broadcast practice, no source: 17 to 20
// characters a second, 160 to 180 words a minute.
const (
	MaxCharacters = 20.0 // a second
	MaxWords      = 180.0 / 60
)

// TooFast is a caption that stands too short to be read.
type TooFast struct {
	Cue int `json:"cue"`
	// Characters and Words are what would have to be read a second.
	Characters float64 `json:"characters"`
	Words      float64 `json:"words"`
	// Needs is how long it ought to stand.
	Needs reveal.Micros `json:"needs"`
}

// Check returns the captions for which there is too little time.
func Check(cues []Cue) []TooFast {
	var list []TooFast
	for i, c := range cues {
		text := c.Words()
		length := float64(c.To-c.From) / float64(reveal.Second)
		if needs := Needs(text); float64(needs) > length*float64(reveal.Second) {
			letters, words := size(text)
			list = append(list, TooFast{i, letters / length, words / length, needs})
		}
	}
	return list
}

// Needs is how long a text takes to read.
func Needs(text string) reveal.Micros {
	letters, words := size(text)
	return reveal.Micros(max(letters/MaxCharacters, words/MaxWords) * float64(reveal.Second))
}

func size(text string) (letters, words float64) {
	return float64(utf8.RuneCountInString(text)), float64(len(strings.Fields(text)))
}

// Words are all that is read in a caption, what is dangerous first.
func (c *Cue) Words() string {
	text := c.Title + "\n" + c.Text
	if n := c.Notice; n != nil { // first what is dangerous
		text = string(n.Signal) + ": " + n.Text + "\n" + text
	}
	if len(c.Tools) > 0 {
		text = strings.TrimSpace(text) + "\nTools: " + strings.Join(c.Tools, ", ")
	}
	return strings.TrimSpace(text)
}

// The most that a caption shows at a time (common practice, no source): two lines of 42 characters, or of 16 where
// these are as wide as they are high, as in Chinese, Japanese and Korean.
const (
	MaxLines   = 2
	LineLength = 42
	wideLength = 16
)

// extent is the share of a line that a text takes.
func extent(text string) float64 {
	sum := 0.0
	for _, r := range text {
		if typeset.Wide(r) {
			sum += 1.0 / wideLength
		} else {
			sum += 1.0 / LineLength
		}
	}
	return sum
}

// lines breaks a caption into lines, none of them empty.
func (c *Cue) lines() []string {
	const whole = 1 + 1e-9
	return slices.DeleteFunc(typeset.Lines(c.Words(), whole, extent), func(l string) bool { return l == "" })
}

// shown is what stands at a time: a few lines of a caption.
type shown struct {
	from, to reveal.Micros
	lines    []string
}

// split lets a caption of many lines stand as several, one after the other, each as long as its share of the
// letters.
func (c *Cue) split() []shown {
	lines := c.lines()
	letters := 0
	for _, l := range lines {
		letters += utf8.RuneCountInString(l)
	}
	var out []shown
	passed := 0
	at := func(letter int) reveal.Micros {
		return c.From + reveal.Micros(float64(c.To-c.From)*float64(letter)/float64(max(1, letters)))
	}
	for len(lines) > 0 {
		n := min(MaxLines, len(lines))
		from := passed
		for _, l := range lines[:n] {
			passed += utf8.RuneCountInString(l)
		}
		out = append(out, shown{at(from), at(passed), lines[:n]})
		lines = lines[n:]
	}
	return out
}

// clean takes out what no caption shows and would end one.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return -1
		}
		return r
	}, s)
}

// webVTT escapes text after W3C WebVTT, 4.2.2 "WebVTT cue text": & and < and > are written
// as references, so that no line can hold the arrow of a timing.
var webVTT = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;")

// WebVTT writes captions after W3C WebVTT: The Web Video Text Tracks Format.
func WebVTT(cues []Cue) string {
	var b strings.Builder
	b.WriteString("WEBVTT\n")
	n := 0
	for i := range cues {
		for _, s := range cues[i].split() {
			n++
			fmt.Fprintf(&b, "\n%d\n%s --> %s\n", n, stamp(s.from, "."), stamp(s.to, "."))
			for _, line := range s.lines {
				b.WriteString(webVTT.Replace(clean(line)) + "\n")
			}
		}
	}
	return b.String()
}

// SubRip writes captions as SRT (common practice, no published source).
func SubRip(cues []Cue) string {
	var b strings.Builder
	n := 0
	for i := range cues {
		for _, s := range cues[i].split() {
			n++
			if n > 1 {
				b.WriteString("\n")
			}
			fmt.Fprintf(&b, "%d\n%s --> %s\n", n, stamp(s.from, ","), stamp(s.to, ","))
			for _, line := range s.lines {
				b.WriteString(strings.ReplaceAll(clean(line), "-->", "→") + "\n")
			}
		}
	}
	return b.String()
}

// stamp writes a time as hours, minutes, seconds and thousandths.
func stamp(t reveal.Micros, point string) string {
	ms := (int64(t) + 500) / 1000
	return fmt.Sprintf("%02d:%02d:%02d%s%03d", ms/3_600_000, ms/60_000%60, ms/1000%60, point, ms%1000)
}
