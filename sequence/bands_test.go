package sequence_test

import (
	"context"
	"math"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	paper "slowreveal/core/look"
	"slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/sequence"
)

// The background runs from one colour to another without bands: in a decoded film its mean over 16 × 16 pixels
// is what it should be, within half a step of 8 bits of each plane, and no step runs across the picture
// (Y′CbCr of ITU-R BT.709, limited range, written out once more).
func TestPaperHasNoBandsInFilms(t *testing.T) {
	f, scene := teardown(t)
	const w, h = 640, 360
	for _, purpose := range []encode.Purpose{encode.Web, encode.Archive} {
		out := filepath.Join(t.TempDir(), "film.mp4")
		at := 2 * reveal.Second
		o := sequence.Order{Width: w, Height: h, From: at, To: at + 700_000, Purpose: purpose}
		require.NoError(t, sequence.Film(context.Background(), f, scene, o, encode.Whole{}, out, nil))
		raw, err := exec.Command("ffmpeg", "-v", "error", "-i", out, "-vf", "select=eq(n\\,18)", "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "yuv420p", "-").
			Output()
		require.NoError(t, err)
		require.Len(t, raw, w*h*3/2)
		planes := []struct {
			name          string
			first, across int // of its bytes, and pixels
			of            func(rgb [3]float64) float64
		}{
			{"Y", 0, w, func(c [3]float64) float64 { return 16 + 219*luma(c) }},
			{"Cb", w * h, w / 2, func(c [3]float64) float64 { return 128 + 224*(c[2]-luma(c))/1.8556 }},
			{"Cr", w * h * 5 / 4, w / 2, func(c [3]float64) float64 { return 128 + 224*(c[0]-luma(c))/1.5748 }},
		}
		for _, p := range planes {
			side := 16 * p.across / w
			worst, squares, blocks := 0.0, 0.0, 0
			for top := 0; top+side <= h*p.across/w; top += side {
				for left := p.across - 4*side; left < p.across; left += side {
					off := 0.0
					for i := range side * side {
						y := top + i/side
						is := float64(raw[p.first+y*p.across+left+i%side])
						off += is - p.of(paperAt((float64(y)+0.5)/float64(h*p.across/w)))
					}
					off /= float64(side * side)
					worst, squares, blocks = max(worst, math.Abs(off)), squares+off*off, blocks+1
				}
			}
			t.Logf(
				"%s %s: at most %.2f, root of the mean square %.2f",
				purpose,
				p.name,
				worst,
				math.Sqrt(squares/float64(blocks)),
			)
			assert.Less(t, worst, 0.5, "%s %s", purpose, p.name)
		}
	}
}

func luma(c [3]float64) float64 { return 0.2126*c[0] + 0.7152*c[1] + 0.0722*c[2] }

// paperAt is the background's colour a share of the way down.
func paperAt(down float64) (c [3]float64) {
	for k := range c {
		c[k] = paper.Default.BackgroundTop[k] + (paper.Default.BackgroundBottom[k]-paper.Default.BackgroundTop[k])*down
	}
	return c
}

// Formats with more than 8 bits get them: the background of a ProRes film has about four times as many grades of luma as 8
// bits have on its way, which lie within one of 1,023 of what they should be in the mean.
func TestTenBitsWhereTheFormatHasThem(t *testing.T) {
	f, scene := teardown(t)
	const w, h = 640, 360
	out := filepath.Join(t.TempDir(), "film.mov")
	o := sequence.Order{Width: w, Height: h, From: 2 * reveal.Second, To: 2_100_000, Format: "mov-prores"}
	require.NoError(t, sequence.Film(context.Background(), f, scene, o, encode.Whole{}, out, nil))
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", out, "-vf", "format=yuva444p10le,extractplanes=y", "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "gray10le", "-").
		Output()
	require.NoError(t, err)
	require.Len(t, raw, 2*w*h)
	grades, off := map[int]bool{}, 0.0
	for y := range h {
		at := 2 * (y*w + w - 8) // nothing but background
		v := int(raw[at]) | int(raw[at+1])<<8
		grades[v] = true
		off += math.Abs(float64(v)-(64+876*luma(paperAt((float64(y)+0.5)/h)))) / h
	}
	first, last := 876*luma(paperAt(0.5/h)), 876*luma(paperAt(1-0.5/h))
	t.Logf(
		"%d grades where 8 bits have %.0f; %.2f of 1,023 beside in the mean",
		len(grades),
		math.Abs(first-last)/4,
		off,
	)
	assert.Greater(t, float64(len(grades)), 0.8*math.Abs(first-last))
	assert.Less(t, off, 1.0, "the encoder loses a little, too")
}
