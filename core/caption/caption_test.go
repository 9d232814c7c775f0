package caption

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/core/typeset"
)

var two = []Cue{
	{To: 3500 * 1000, Title: "Loosen the cover", Text: "Four screws, M5 -->, <hex> & key"},
	{From: 3600 * reveal.Second, To: 3601 * reveal.Second},
	{
		From:  61 * reveal.Second,
		To:    63*reveal.Second + 499,
		Title: "Поднимите крышку",
		Text:  strings.Repeat("word ", 20),
	},
}

// The form is that of W3C WebVTT: the signature, a blank line before each cue, an
// identifier, timings with three decimals, & < > as references.
func TestWebVTT(t *testing.T) {
	got := WebVTT(two)
	assert.True(
		t,
		strings.HasPrefix(
			got,
			"WEBVTT\n\n1\n00:00:00.000 --> 00:00:03.500\nLoosen the cover\nFour screws, M5 --&gt;, &lt;hex&gt; &amp; key\n",
		),
		got,
	)
	assert.Equal(
		t,
		3,
		strings.Count(got, " --> "),
		"a caption without words is left out, one of four lines stands as two",
	)
	for _, line := range strings.Split(got, "\n") {
		assert.LessOrEqual(t, len([]rune(strings.ReplaceAll(line, "&gt;", ">"))), LineLength+10)
	}
}

// The reference is ffprobe: both files are read, with their times and their words.
func TestAReaderReadsThem(t *testing.T) {
	for format, text := range map[string]string{"webvtt": WebVTT(two), "srt": SubRip(two)} {
		c := exec.Command(
			"ffprobe",
			"-v",
			"error",
			"-f",
			format,
			"-show_entries",
			"packet=pts_time,duration_time",
			"-of",
			"csv=p=0",
			"-i",
			"pipe:0",
		)
		c.Stdin = strings.NewReader(text)
		out, err := c.CombinedOutput()
		require.NoError(t, err, string(out))
		assert.Equal(
			t,
			"0.000000,3.500000 61.000000,0.974000 61.974000,1.026000",
			strings.Join(strings.Fields(strings.ReplaceAll(string(out), ",\n", "\n")), " "),
			format,
		)
		back := exec.Command("ffmpeg", "-v", "error", "-f", format, "-i", "pipe:0", "-f", "srt", "-")
		back.Stdin = strings.NewReader(text)
		said, err := back.Output()
		require.NoError(t, err)
		assert.Contains(t, string(said), "Поднимите крышку", format)
		assert.Contains(t, string(said), "& key", format)
	}
}

func TestTooLittleTimeToRead(t *testing.T) {
	list := Check(two)
	require.Len(t, list, 1)
	assert.Equal(t, 2, list[0].Cue)
	assert.InDelta(
		t,
		22/3.0,
		float64(list[0].Needs)/1e6,
		0.01,
		"22 words at 3 a second; fewer characters than that takes",
	)
	assert.Empty(t, Check([]Cue{{To: 10 * reveal.Second, Title: "Short", Text: "enough"}}))
}

// What is dangerous is said first, the tools last; both are counted where it is asked whether there is time to read.
func TestNoticesAndToolsAreSaid(t *testing.T) {
	c := Cue{
		To:     2 * reveal.Second,
		Title:  "Undo the screws",
		Notice: &reveal.Notice{Signal: reveal.Caution, Text: "The tube is under pressure."},
		Tools:  []string{"Hex key", "Tray"},
	}
	assert.Equal(
		t,
		"WEBVTT\n\n1\n00:00:00.000 --> 00:00:01.437\nCAUTION: The tube is under pressure.\nUndo the screws\n\n2\n00:00:01.437 --> 00:00:02.000\nTools: Hex key, Tray\n",
		WebVTT([]Cue{c}),
	)
	assert.Len(t, Check([]Cue{c}), 1)
	c.Notice, c.Tools = nil, nil
	assert.Empty(t, Check([]Cue{c}))
}

// Two lines stand at a time, of 42 letters or of 16 signs that are as wide as they are high; one after the other they
// fill the whole time, and say everything.
func TestAtMostTwoLinesStandAtATime(t *testing.T) {
	for _, text := range []string{strings.Repeat("Loosen them crosswise and take them out. ", 5), strings.Repeat("カバーのねじを対角に緩めてから外してください。", 4), strings.Repeat("x", 300)} {
		c := Cue{From: 3 * reveal.Second, To: 12 * reveal.Second, Text: text}
		last, said := c.From, ""
		for _, s := range c.split() {
			assert.LessOrEqual(t, len(s.lines), 2)
			assert.Equal(t, last, s.from)
			assert.Greater(t, s.to, s.from)
			last = s.to
			for _, l := range s.lines {
				most := 42
				if strings.ContainsFunc(l, typeset.Wide) {
					most = 16
				}
				assert.LessOrEqual(t, len([]rune(l)), most, l)
				said += l
			}
		}
		assert.Equal(t, c.To, last)
		assert.Equal(t, strings.ReplaceAll(text, " ", ""), strings.ReplaceAll(said, " ", ""))
	}
}
