package sequence_test

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/core/space"
	"slowreveal/encode"
	"slowreveal/sequence"
)

// tone makes a sound of a length with ffmpeg.
func tone(t *testing.T, seconds int) string {
	t.Helper()
	out := filepath.Join(t.TempDir(), "tone.wav")
	require.NoError(
		t,
		exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", fmt.Sprintf("sine=f=440:d=%d", seconds), out).Run(),
	)
	return out
}

type chapters struct {
	Chapters []struct {
		Start string            `json:"start_time"`
		Tags  map[string]string `json:"tags"`
	} `json:"chapters"`
	Streams []struct {
		Type     string `json:"codec_type"`
		Codec    string `json:"codec_name"`
		Pixels   string `json:"pix_fmt"`
		Width    int    `json:"width"`
		Rate     string `json:"r_frame_rate"`
		Frames   string `json:"nb_read_frames"`
		Duration string `json:"duration"`
		Space    string `json:"color_space"`
	} `json:"streams"`
}

func look(t *testing.T, file string) (c chapters) {
	t.Helper()
	text, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_chapters", "-show_streams", "-of", "json", file).
		Output()
	require.NoError(t, err, file)
	require.NoError(t, json.Unmarshal(text, &c))
	return c
}

// Every format that this ffmpeg can encode, made of two segments. The reference is ffprobe.
func TestEveryFormatIsWhatItSays(t *testing.T) {
	f, scene := teardown(t)
	want := map[string]string{
		"mp4-h264":   "h264",
		"mp4-h265":   "hevc",
		"mp4-av1":    "av1",
		"webm-vp9":   "vp9",
		"mov-prores": "prores",
		"mov-png":    "png",
		"avi-mjpeg":  "mjpeg",
		"gif":        "gif",
		"webp":       "webp",
	}
	list, err := encode.Available(context.Background())
	require.NoError(t, err)
	require.Greater(t, len(list), 4)
	sound := tone(t, 2)
	for _, format := range list {
		t.Run(format.Name, func(t *testing.T) {
			out := filepath.Join(t.TempDir(), "film."+format.Extension)
			o := sequence.Order{
				Format:   format.Name,
				Width:    128,
				Height:   72,
				Rate:     10,
				To:       5 * reveal.Second,
				Purpose:  encode.Draft,
				Captions: true,
			}
			o.Background.Transparent = format.Alpha
			w := encode.Whole{Sound: &encode.Sound{File: sound, Start: reveal.Second, FadeOut: reveal.Second / 2}}
			require.NoError(t, sequence.Film(context.Background(), f, scene, o, w, out, nil))
			if format.Name == "webp" { // ffprobe of this version does not read animations
				data, err := os.ReadFile(out)
				require.NoError(t, err)
				assert.Equal(t, "RIFF", string(data[:4]))
				assert.Equal(t, "WEBPVP8X", string(data[8:16]))
				assert.Greater(t, indexOf(data, "ANMF"), 0)
				return
			}
			p := look(t, out)
			v := p.Streams[0]
			assert.Equal(t, []any{want[format.Name], 128, "50", "10/1"}, []any{v.Codec, v.Width, v.Frames, v.Rate})
			if format.Raw() == "yuv420p" || format.Name == "mov-prores" {
				assert.Equal(t, "bt709", v.Space)
			}
			if format.Alpha {
				assert.Regexp(t, "rgba|yuva444p", v.Pixels)
			}
			if !format.Sound {
				return
			}
			require.GreaterOrEqual(t, len(p.Streams), 2) // chapters may be a stream of their own
			assert.Equal(t, "audio", p.Streams[1].Type)
			if format.Extension != "avi" { // AVI has no chapters
				require.NotEmpty(t, p.Chapters)
				assert.Equal(t, f.Reveal.Steps[0].Title, p.Chapters[0].Tags["title"])
			}
			if v.Duration != "" {
				assert.Equal(t, "5.000000", v.Duration)
			}
		})
	}
}

// Rates of 1000/1001 keep every frame on its tick, across the joints of segments.
func TestSlowedRatesAreExact(t *testing.T) {
	f, scene := teardown(t)
	out := filepath.Join(t.TempDir(), "film.mp4")
	o := sequence.Order{Width: 64, Height: 36, Rate: 24, NTSC: true, To: 9 * reveal.Second, Purpose: encode.Draft}
	require.NoError(t, sequence.Film(context.Background(), f, scene, o, encode.Whole{}, out, nil))
	p := look(t, out)
	assert.Equal(t, "24000/1001", p.Streams[0].Rate)
	assert.Equal(t, "216", p.Streams[0].Frames)
	text, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "packet=duration", "-of", "csv=p=0", out).
		Output()
	require.NoError(t, err)
	ticks := map[string]int{}
	for _, line := range splitLines(string(text)) {
		ticks[line]++
	}
	assert.Equal(t, map[string]int{"1001": 216}, ticks)
}

func splitLines(s string) (out []string) {
	for len(s) > 0 {
		i := 0
		for i < len(s) && s[i] != '\n' {
			i++
		}
		if i > 0 {
			out = append(out, s[:i])
		}
		s = s[min(i+1, len(s)):]
	}
	return out
}

// The segments do not depend on who makes them, when, and with how many threads: the film
// comes out the same to the byte.
func TestAFilmIsTheSameHoweverItWasMade(t *testing.T) {
	f, scene := teardown(t)
	one := filepath.Join(t.TempDir(), "one.mp4")
	o := sequence.Order{
		Width:    160,
		Height:   90,
		Rate:     6,
		From:     10 * reveal.Second,
		To:       21 * reveal.Second,
		Captions: true,
		Threads:  1,
	}
	require.NoError(t, sequence.Film(context.Background(), f, scene, o, encode.Whole{}, one, nil))
	o.Threads = 2
	p, err := o.Plan(f)
	require.NoError(t, err)
	cut := p.Alone(f, scene)
	require.Len(t, cut.Segments(), 3)
	folder := t.TempDir()
	for _, i := range []int{2, 0, 1} { // each by a camera of its own, out of order
		require.NoError(t, cut.Segment(context.Background(), folder, i, nil))
	}
	other := filepath.Join(folder, "other.mp4")
	require.NoError(t, cut.Join(context.Background(), encode.Whole{}, folder, other))
	sameBytes(t, one, other)
}

func sameBytes(t *testing.T, one, other string) {
	t.Helper()
	a, err := os.ReadFile(one)
	require.NoError(t, err)
	b, err := os.ReadFile(other)
	require.NoError(t, err)
	assert.Equal(t, a, b)
}

func TestWhatIsShownWhen(t *testing.T) {
	f, _ := teardown(t)
	steps := f.Schedule.Steps
	last := reveal.Micros(0)
	plan := func(o sequence.Order) *sequence.Plan {
		p, err := o.Plan(f)
		require.NoError(t, err)
		return p
	}
	p := plan(sequence.Order{From: reveal.Second, To: 5 * reveal.Second, Speed: 2})
	assert.Equal(t, 60, p.Frames)
	assert.Equal(t, 2*reveal.Second, p.Shown(reveal.Second/2))
	p = plan(sequence.Order{From: reveal.Second, To: 5 * reveal.Second, Reverse: true})
	assert.Equal(t, 5*reveal.Second, p.Shown(0))
	assert.Equal(t, 2*reveal.Second, p.Shown(3*reveal.Second))
	p = plan(sequence.Order{Steps: []reveal.StepID{steps[3].Step, steps[1].Step}})
	require.Len(t, p.Spans, 2, "steps come in the reveal's order")
	assert.Equal(t, steps[1].Start, p.Shown(0))
	assert.Equal(t, steps[3].Start+5, p.Shown(steps[1].Duration+5))
	assert.Equal(t, steps[1].Duration+steps[3].Duration, p.Duration())
	list := p.Alone(f, nil).Chapters()
	require.Len(t, list, 2)
	for _, c := range list {
		assert.Equal(t, last, c.From)
		last = c.To
	}
	assert.Equal(t, p.Duration(), last)
	_, err := sequence.Order{Steps: []reveal.StepID{"gone"}}.Plan(f)
	assert.ErrorContains(t, err, "not in the reveal")
	_, err = sequence.Order{Format: "gif", Rate: 60}.Plan(f)
	assert.ErrorContains(t, err, "at most 50")
	_, err = sequence.Order{Background: sequence.Background{Transparent: true}}.Plan(f)
	assert.ErrorContains(t, err, "transparent")
}

// A frame before nothing, laid over a colour by hand, is the frame before that colour.
func TestATransparentFrameLaidOverAColourIsThatFrame(t *testing.T) {
	f, scene := teardown(t)
	at := 31 * reveal.Second // see-through covers over one another
	o := sequence.Order{Width: 240, Height: 136, Format: "mov-png"}
	o.Background.Transparent = true
	clear, err := sequence.StillRGBA(f, scene, o, at)
	require.NoError(t, err)
	colour := [3]float64{0.2, 0.6, 0.9}
	o.Background = sequence.Background{Top: &space.Vec3{0.2, 0.6, 0.9}, Foot: &space.Vec3{0.2, 0.6, 0.9}}
	want, err := sequence.Still(f, scene, o, at)
	require.NoError(t, err)
	sum := 0.0
	for i := range 240 * 136 {
		alpha := float64(clear[4*i+3]) / 255
		for k := range 3 {
			got := alpha*float64(clear[4*i+k]) + (1-alpha)*colour[k]*255
			d := got - float64(want.RGB[3*i+k])
			assert.InDelta(t, 0, d, 4)
			sum += d * d
		}
	}
	assert.Less(t, sum/(240*136*3), 0.6, "mean square error, of 255²")
	assert.Equal(t, byte(0), clear[3], "the corner is empty")
}

// A blurred frame is the mean of its moments, the shutter open for half of the frame's time;
// one in which nothing moves is as it is.
func TestABlurredFrameIsTheMeanOfItsMoments(t *testing.T) {
	f, scene := teardown(t)
	fr, at := f.NewFrame(), 5_000_000
	for f.At(reveal.Micros(at), fr); len(fr.Notes)+len(fr.Cards) > 0; f.At(reveal.Micros(at), fr) {
		at += 250_000 // words are those of the middle: here are none
	}
	frame := func(o sequence.Order, t0 reveal.Micros) []byte {
		out := filepath.Join(t.TempDir(), "one.mov")
		o.Width, o.Height, o.Rate, o.Format, o.From, o.To = 96, 54, 10, "mov-png", t0, t0+reveal.Second/10
		require.NoError(t, sequence.Film(context.Background(), f, scene, o, encode.Whole{}, out, nil))
		raw, err := exec.Command("ffmpeg", "-v", "error", "-i", out, "-f", "rawvideo", "-pix_fmt", "rgb24", "-").
			Output()
		require.NoError(t, err)
		require.Len(t, raw, 96*54*3)
		return raw
	}
	got := frame(sequence.Order{ShutterSamples: 4}, reveal.Micros(at))
	sum := make([]float64, len(got))
	for i := range 4 { // the first frame's moments cannot lie before the film's beginning
		offset := 50_000 * ((float64(i)+0.5)/4 - 0.5)
		p, err := sequence.Still(
			f,
			scene,
			sequence.Order{Width: 96, Height: 54},
			reveal.Micros(float64(at)+max(0, offset)),
		)
		require.NoError(t, err)
		for k := range sum {
			sum[k] += float64(p.RGB[k]) / 4
		}
	}
	for k := range sum {
		require.InDelta(t, sum[k], float64(got[k]), 1)
	}
	_, err := sequence.Order{ShutterSamples: 99}.Plan(f)
	assert.ErrorContains(t, err, "motion blur")
}
