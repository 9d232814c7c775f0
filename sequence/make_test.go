package sequence_test

import (
	"context"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/film"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/encode"
	"slowreveal/render"
	"slowreveal/sequence"
)

func teardown(t *testing.T) (*film.Film, *render.Scene) {
	t.Helper()
	m := demo.Pump()
	scene, err := render.NewScene(m.Assembly, m.Shapes)
	require.NoError(t, err)
	return film.Compile(m.Assembly, demo.Teardown(m.Assembly)), scene
}

type probe struct {
	Streams []struct {
		Codec     string `json:"codec_name"`
		Profile   string `json:"profile"`
		Width     int    `json:"width"`
		Height    int    `json:"height"`
		Rate      string `json:"r_frame_rate"`
		Frames    string `json:"nb_read_frames"`
		Pixels    string `json:"pix_fmt"`
		Range     string `json:"color_range"`
		Space     string `json:"color_space"`
		Primaries string `json:"color_primaries"`
		Transfer  string `json:"color_transfer"`
		Duration  string `json:"duration"`
	} `json:"streams"`
	Format struct {
		Tags map[string]string `json:"tags"`
	} `json:"format"`
}

// The reference is ffprobe.
func TestAFilmIsWhatWasOrdered(t *testing.T) {
	f, scene := teardown(t)
	out := filepath.Join(t.TempDir(), "film.mp4")
	told := 0
	o := sequence.Order{Width: 192, Height: 108, From: 2 * reveal.Second, To: 4*reveal.Second + 50_000, Captions: true}
	require.NoError(
		t,
		sequence.Film(context.Background(), f, scene, o, encode.Whole{}, out, func(done int, last *render.Picture) {
			told++
			assert.Equal(t, told, done)
			assert.Equal(t, 192, last.Width)
		}),
	)
	assert.Equal(t, 62, told)
	text, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_streams", "-show_format", "-of", "json", out).
		Output()
	require.NoError(t, err)
	var p probe
	require.NoError(t, json.Unmarshal(text, &p))
	require.Len(t, p.Streams, 2, "pictures, and the chapters' titles")
	v := p.Streams[0]
	assert.Equal(
		t,
		[]any{"h264", 192, 108, "30/1", "62", "yuv420p"},
		[]any{v.Codec, v.Width, v.Height, v.Rate, v.Frames, v.Pixels},
	)
	assert.Equal(t, []string{"tv", "bt709", "bt709", "bt709"}, []string{v.Range, v.Space, v.Primaries, v.Transfer})
	assert.Equal(t, "2.066667", v.Duration)
	assert.Equal(t, "Service teardown", p.Format.Tags["title"])
	head := make([]byte, 64)
	file, err := os.Open(out)
	require.NoError(t, err)
	defer file.Close()
	_, err = file.Read(head)
	require.NoError(t, err)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Less(t, indexOf(data, "moov"), indexOf(data, "mdat"), "faststart: the index stands before the pictures")
	left, err := os.ReadDir(filepath.Dir(out))
	require.NoError(t, err)
	assert.Len(t, left, 1, "no half-written file is left")
}

func indexOf(data []byte, word string) int {
	for i := range data {
		if i+len(word) <= len(data) && string(data[i:i+len(word)]) == word {
			return i
		}
	}
	return -1
}

// A decoded frame is the rendered one within the codec's error (PSNR ≥ 35 dB:
// common practice for visually lossless, no source).
func TestDecodedFramesAreTheRenderedOnes(t *testing.T) {
	f, scene := teardown(t)
	out := filepath.Join(t.TempDir(), "film.mp4")
	at := 8 * reveal.Second
	o := sequence.Order{Width: 320, Height: 180, From: at, To: at + 100_000}
	require.NoError(t, sequence.Film(context.Background(), f, scene, o, encode.Whole{}, out, nil))
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", out, "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "yuv420p", "-").
		Output()
	require.NoError(t, err)
	p, err := sequence.Still(f, scene, o, at)
	require.NoError(t, err)
	want := render.NewYUV(320, 180)
	want.From(p)
	require.Len(t, raw, len(want))
	sum := 0.0
	for i := range 320 * 180 {
		d := float64(raw[i]) - float64(want[i])
		sum += d * d
	}
	assert.Less(t, sum/(320*180), 20.6, "mean square error of luma: PSNR below 35 dB")
}

func TestOrdersThatCannotBe(t *testing.T) {
	f, scene := teardown(t)
	for want, o := range map[string]sequence.Order{
		"odd": {Width: 641, Height: 360}, "between 16": {Width: 8, Height: 8}, "rate": {Rate: 1000}, "0 frames": {From: reveal.Second, To: reveal.Second},
		"does not lie within": {From: 9 * reveal.Second, To: 5 * reveal.Second}, "span": {To: 900 * reveal.Second},
	} {
		err := sequence.Film(
			context.Background(),
			f,
			scene,
			o,
			encode.Whole{},
			filepath.Join(t.TempDir(), "x.mp4"),
			nil,
		)
		require.Error(t, err, want)
		assert.Contains(t, err.Error(), want)
	}
}

func TestBadDays(t *testing.T) {
	f, scene := teardown(t)
	o := sequence.Order{Width: 64, Height: 36, To: reveal.Second}
	t.Run("no ffmpeg", func(t *testing.T) {
		t.Setenv("PATH", t.TempDir())
		assert.ErrorIs(
			t,
			sequence.Film(context.Background(), f, scene, o, encode.Whole{}, filepath.Join(t.TempDir(), "x.mp4"), nil),
			encode.ErrNoFFmpeg,
		)
	})
	t.Run("ffmpeg dies in the middle", func(t *testing.T) {
		fake := t.TempDir()
		require.NoError(
			t,
			os.WriteFile(
				filepath.Join(fake, "ffmpeg"),
				[]byte(
					"#!/bin/sh\ncase \"$*\" in *-encoders*) echo ' V..... libx264 H.264'; exit 0;; esac\nhead -c 9000 >/dev/null\necho 'No space left on device' >&2\nexit 1\n",
				),
				0o755,
			),
		)
		t.Setenv("PATH", fake+":/usr/bin:/bin")
		folder := t.TempDir()
		err := sequence.Film(context.Background(), f, scene, o, encode.Whole{}, filepath.Join(folder, "x.mp4"), nil)
		require.Error(t, err)
		assert.Contains(t, err.Error(), "the disk is full")
		left, _ := os.ReadDir(folder)
		assert.Empty(t, left)
	})
	t.Run("no folder", func(t *testing.T) {
		err := sequence.Film(context.Background(), f, scene, o, encode.Whole{}, "/no/such/folder/x.mp4", nil)
		require.Error(t, err)
		assert.Contains(t, err.Error(), "/no/such/folder")
	})
	t.Run("cancelled", func(t *testing.T) {
		ctx, cancel := context.WithCancel(context.Background())
		folder := t.TempDir()
		err := sequence.Film(
			ctx,
			f,
			scene,
			o,
			encode.Whole{},
			filepath.Join(folder, "x.mp4"),
			func(done int, _ *render.Picture) {
				if done == 5 {
					cancel()
				}
			},
		)
		assert.ErrorIs(t, err, context.Canceled)
		left, _ := os.ReadDir(folder)
		assert.Empty(t, left)
	})
}

// A picture that stands alone has the words of its step in full, also where the film is just changing them; the film's
// frame there still has those of the step before.
func TestAStillHasItsOwnWords(t *testing.T) {
	f, scene := teardown(t)
	at := f.Schedule.Steps[1].Start
	o := sequence.Order{Width: 320, Height: 180, Captions: true}
	words := func(captions bool, at reveal.Micros) []byte {
		o := o
		o.Captions = captions
		p, err := sequence.Still(f, scene, o, at)
		require.NoError(t, err)
		return slices.Clone(p.RGB)
	}
	alone, bare := words(true, at), words(false, at)
	assert.NotEqual(t, alone, bare)
	o.From, o.To, o.Rate = at, at+reveal.Second, 10
	p, err := o.Plan(f)
	require.NoError(t, err)
	frame, err := p.Alone(f, scene).Picture(0)
	require.NoError(t, err)
	unlike := 0
	for i := range 320 * 180 {
		if frame.Pix[4*i] != alone[3*i] {
			unlike++
			assert.Greater(t, i/320, 90, "in the words alone")
		}
	}
	assert.Greater(t, unlike, 200)
}
