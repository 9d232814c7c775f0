package sequence_test

import (
	"context"
	"encoding/json"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/render"
	"slowreveal/sequence"
)

// apart and together are two clips of 2 s: forwards, and backwards after a card.
func apartAndTogether(
	t *testing.T,
	format string,
	fade reveal.Micros,
) (c *sequence.Sequence, apart, together *sequence.Sequence) {
	t.Helper()
	f, scene := teardown(t)
	plan := func(backwards bool) *sequence.Plan {
		p, err := sequence.Order{
			Width:    96,
			Height:   54,
			Rate:     10,
			From:     5 * reveal.Second,
			To:       7 * reveal.Second,
			Reverse:  backwards,
			Format:   format,
			Captions: true,
			Purpose:  encode.Draft,
		}.Plan(f)
		require.NoError(t, err)
		return p
	}
	a, b := plan(false), plan(true)
	reels := []*sequence.Clip{
		{Plan: a, Film: f, Scene: scene},
		{
			Plan:  b,
			Film:  f,
			Scene: scene,
			Card:  &sequence.TitleCard{Title: "Together again", Duration: 3 * reveal.Second / 2},
		},
	}
	c, err := sequence.NewSequence(reels, fade)
	require.NoError(t, err)
	return c, a.Alone(f, scene), b.Alone(f, scene)
}

// decoded returns a film's frames, 3 bytes a pixel.
func decoded(t *testing.T, file string, bytes int) (frames [][]byte) {
	t.Helper()
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", file, "-f", "rawvideo", "-pix_fmt", "rgb24", "-").Output()
	require.NoError(t, err)
	require.Zero(t, len(raw)%bytes)
	for ; len(raw) > 0; raw = raw[bytes:] {
		frames = append(frames, raw[:bytes])
	}
	return frames
}

// In a joined film every frame is that of its clip, and in a cross-fade of n frames frame i
// of it is the mean of both, the new one counting i of n+1 parts. Decoded by ffmpeg.
func TestReelsAreJoinedAndCrossFade(t *testing.T) {
	c, apart, together := apartAndTogether(t, "mov-png", reveal.Second/2)
	const n, size = 5, 96 * 54 // frames of a fade, pixels
	assert.Equal(t, 20+15+20-2*n, c.Frames)
	out := filepath.Join(t.TempDir(), "film.mov")
	require.NoError(t, c.Make(context.Background(), encode.Whole{}, out, nil))
	frames := decoded(t, out, 3*size)
	require.Len(t, frames, c.Frames)
	frame := func(of *sequence.Sequence, k int) []byte {
		p, err := of.Picture(k)
		require.NoError(t, err)
		rgb := make([]byte, 0, 3*size)
		for i := range size {
			rgb = append(rgb, p.Pix[4*i:4*i+3]...)
		}
		return rgb
	}
	assert.Equal(t, frame(apart, 7), frames[7])
	assert.Equal(t, frame(together, 19), frames[c.Frames-1])
	card := frames[22] // 15 … 29 are the card, the fades' frames 15 … 19 and 25 … 29
	assert.Equal(t, card, frames[20])
	assert.NotEqual(t, card, frame(apart, 19))
	for i := 1; i <= n; i++ {
		gone, come := frame(apart, 15+i-1), frame(together, i-1)
		for k := range card {
			require.InDelta(
				t,
				(float64(gone[k])*float64(n+1-i)+float64(card[k])*float64(i))/(n+1),
				float64(frames[14+i][k]),
				0.51,
			)
			require.InDelta(
				t,
				(float64(card[k])*float64(n+1-i)+float64(come[k])*float64(i))/(n+1),
				float64(frames[24+i][k]),
				0.51,
			)
		}
	}
	chapters := c.Chapters()
	require.GreaterOrEqual(t, len(chapters), 3)
	for i, ch := range chapters[1:] {
		assert.Equal(t, chapters[i].To, ch.From, "chapters follow one another")
	}
	assert.Equal(t, c.Duration(), chapters[len(chapters)-1].To)
	titles := []string{}
	for _, ch := range chapters {
		titles = append(titles, ch.Title)
	}
	assert.Contains(t, titles, "Together again")
}

// Segments of a joined film do not depend on each other.
func TestAJoinedFilmIsTheSameHoweverItWasMade(t *testing.T) {
	c, _, _ := apartAndTogether(t, "", reveal.Second/2)
	folder := t.TempDir()
	one, other := filepath.Join(folder, "one.mp4"), filepath.Join(folder, "other.mp4")
	require.NoError(
		t,
		c.Make(
			context.Background(),
			encode.Whole{},
			one,
			func(_ int, last *render.Picture) { assert.Equal(t, 54, last.Height) },
		),
	)
	require.Len(t, c.Segments(), 2)
	for _, i := range []int{1, 0} {
		require.NoError(t, c.Segment(context.Background(), folder, i, nil))
	}
	require.NoError(t, c.Join(context.Background(), encode.Whole{}, folder, other))
	sameBytes(t, one, other)
}

func TestWhatCannotBeJoined(t *testing.T) {
	f, scene := teardown(t)
	p, err := sequence.Order{Width: 96, Height: 54, To: reveal.Second}.Plan(f)
	require.NoError(t, err)
	reel := func(card *sequence.TitleCard) *sequence.Clip {
		return &sequence.Clip{Plan: p, Film: f, Scene: scene, Card: card}
	}
	for want, reels := range map[string][]*sequence.Clip{
		"longer than half of":    {reel(nil), reel(nil)},
		"needs a title":          {reel(&sequence.TitleCard{Duration: reveal.Second})},
		"stands for 100.00 s":    {reel(&sequence.TitleCard{Title: "Pump", Duration: 100 * reveal.Second})},
		"at least 1 and at most": {},
	} {
		_, err := sequence.NewSequence(reels, 2*reveal.Second)
		assert.ErrorContains(t, err, want)
	}
}

// A poster lies in an MP4 as its cover picture. The reference is ffprobe.
func TestAPosterIsTheFilmsCover(t *testing.T) {
	c, _, _ := apartAndTogether(t, "mp4-h264", 0)
	folder := t.TempDir()
	poster := filepath.Join(folder, "poster.jpg")
	require.NoError(
		t,
		exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "color=red:s=96x54", "-frames:v", "1", poster).Run(),
	)
	out := filepath.Join(folder, "film.mp4")
	sound := tone(t, 2)
	require.NoError(
		t,
		c.Make(
			context.Background(),
			encode.Whole{Poster: poster, Sound: &encode.Sound{File: sound}, Timecode: "00:00:00:00"},
			out,
			nil,
		),
	)
	text, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_streams", "-of", "json", out).Output()
	require.NoError(t, err)
	var p struct {
		Streams []struct {
			Type        string `json:"codec_type"`
			Codec       string `json:"codec_name"`
			Tag         string `json:"codec_tag_string"`
			Frames      string `json:"nb_read_frames"`
			Disposition map[string]int
			Tags        map[string]string
		}
	}
	require.NoError(t, json.Unmarshal(text, &p))
	kinds := map[string]int{}
	for i, s := range p.Streams {
		kinds[s.Type+" "+s.Codec+" "+s.Tag] = i
	}
	film := p.Streams[kinds["video h264 avc1"]]
	assert.Equal(t, "55", film.Frames, "the film's frames are as they were")
	assert.Equal(t, "00:00:00:0", film.Tags["timecode"], "one digit is enough for 10 frames a second")
	cover, ok := -1, false
	for i, s := range p.Streams {
		if s.Disposition["attached_pic"] == 1 {
			cover, ok = i, true
		}
	}
	require.True(t, ok)
	assert.Equal(t, "mjpeg", p.Streams[cover].Codec)
}

// A sound that ends before the film does fades: its last moments are soft, and then there is silence.
func TestASoundThatEndsSoonerFades(t *testing.T) {
	f, scene := teardown(t)
	out := filepath.Join(t.TempDir(), "film.mp4")
	p, err := sequence.Order{Width: 64, Height: 36, Rate: 5, To: 4 * reveal.Second, Purpose: encode.Draft}.Plan(f)
	require.NoError(t, err)
	require.NoError(
		t,
		p.Alone(f, scene).Make(context.Background(), encode.Whole{Sound: &encode.Sound{File: tone(t, 2)}}, out, nil),
	)
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", out, "-f", "s16le", "-ac", "1", "-ar", "48000", "-").
		Output()
	require.NoError(t, err)
	loudest := func(from, to float64) (most int16) {
		for i := int(from * 48000); i < int(to*48000) && 2*i+1 < len(raw); i++ {
			v := int16(uint16(raw[2*i]) | uint16(raw[2*i+1])<<8)
			most = max(most, v, -v)
		}
		return most
	}
	middle := loudest(0.5, 1.4)
	assert.Greater(t, middle, int16(2000))
	assert.Less(t, loudest(1.97, 2), middle/8)
	assert.Less(t, loudest(2.1, 4), int16(60))
}
