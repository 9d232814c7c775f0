package encode

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/timecode"
)

var h264, _ = Lookup("mp4-h264")

// A frame of one grey, as raw 4:2:0.
func grey(w, h int, level byte) []byte {
	frame := make([]byte, w*h*3/2)
	for i := range frame {
		frame[i] = 128
		if i < w*h {
			frame[i] = level
		}
	}
	return frame
}

func TestAFilmAppearsOnlyWhenItIsComplete(t *testing.T) {
	out := filepath.Join(t.TempDir(), "f.mp4")
	f, err := Start(
		context.Background(),
		out,
		Settings{Format: h264, Width: 32, Height: 16, Rate: timecode.Rate{Num: 25, Den: 1}},
	)
	require.NoError(t, err)
	for k := range 10 {
		require.NoError(t, f.Write(grey(32, 16, byte(20*k+20))))
		assert.NoFileExists(t, out)
	}
	require.NoError(t, f.Close())
	info, err := os.Stat(out)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o644), info.Mode().Perm())
}

// A decoded solid colour has the level that went in, within a step of the codec.
func TestASolidColourComesBack(t *testing.T) {
	out := filepath.Join(t.TempDir(), "f.mp4")
	f, err := Start(
		context.Background(),
		out,
		Settings{Format: h264, Width: 64, Height: 64, Rate: timecode.Rate{Num: 30, Den: 1}},
	)
	require.NoError(t, err)
	for range 5 {
		require.NoError(t, f.Write(grey(64, 64, 173)))
	}
	require.NoError(t, f.Close())
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", out, "-f", "rawvideo", "-pix_fmt", "yuv420p", "-").Output()
	require.NoError(t, err)
	require.Len(t, raw, 5*64*64*3/2)
	for i := range 64 * 64 {
		require.InDelta(t, 173, raw[i], 1)
	}
	require.InDelta(t, 128, raw[64*64+5], 1)
}

func TestDraftsAreRougher(t *testing.T) {
	rate := timecode.Rate{Num: 30, Den: 1}
	full := strings.Join(arguments("x", &Settings{Format: h264, Rate: rate}), " ")
	draft := strings.Join(arguments("x", &Settings{Format: h264, Rate: rate, Purpose: Draft}), " ")
	assert.Contains(t, full, "-crf 17")
	assert.Contains(t, draft, "ultrafast")
	for _, a := range []string{full, draft} {
		assert.Contains(t, a, "-colorspace bt709")
	}
}

func TestWhatIsMissingIsSaid(t *testing.T) {
	fake := t.TempDir()
	require.NoError(
		t,
		os.WriteFile(filepath.Join(fake, "ffmpeg"), []byte("#!/bin/sh\necho ' V....D libx264 x'\n"), 0o755),
	)
	t.Setenv("PATH", fake)
	vp9, err := Lookup("webm-vp9")
	require.NoError(t, err)
	err = Check(context.Background(), vp9)
	require.ErrorContains(t, err, "libvpx-vp9")
	assert.ErrorContains(t, err, "it can make MP4, H.264")
	assert.NoError(t, Check(context.Background(), h264))
	_, err = Lookup("mpeg-7")
	assert.ErrorContains(t, err, "there are mp4-h264")
}

func TestAbortLeavesNothing(t *testing.T) {
	folder := t.TempDir()
	f, err := Start(
		context.Background(),
		filepath.Join(folder, "f.mp4"),
		Settings{Format: h264, Width: 32, Height: 16, Rate: timecode.Rate{Num: 25, Den: 1}},
	)
	require.NoError(t, err)
	require.NoError(t, f.Write(grey(32, 16, 100)))
	f.Abort()
	left, err := os.ReadDir(folder)
	require.NoError(t, err)
	assert.Empty(t, left)
	assert.NotNil(t, f.process.ProcessState, "the process has ended")
}

func TestAKilledEncoderIsReported(t *testing.T) {
	folder := t.TempDir()
	f, err := Start(
		context.Background(),
		filepath.Join(folder, "f.mp4"),
		Settings{Format: h264, Width: 64, Height: 64, Rate: timecode.Rate{Num: 25, Den: 1}},
	)
	require.NoError(t, err)
	require.NoError(t, f.process.Process.Kill())
	var failure error
	for deadline := time.Now().Add(10 * time.Second); failure == nil && time.Now().Before(deadline); {
		failure = f.Write(grey(64, 64, 50))
	}
	require.ErrorContains(t, failure, "ffmpeg stopped")
	left, err := os.ReadDir(folder)
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestTheTailKeepsTheEnd(t *testing.T) {
	var said tail
	for range 100 {
		said.Write([]byte(strings.Repeat("x", 99) + "\n"))
	}
	said.Write([]byte("the last word\n"))
	assert.LessOrEqual(t, len(said.String()), tailSize)
	assert.True(t, strings.HasSuffix(said.String(), "the last word"))
}

func TestTheFormatFollowsFromTheEnding(t *testing.T) {
	for file, want := range map[string]string{"film.mp4": "mp4-h264", "a/b.WEBM": "webm-vp9", "x.mov": "mov-prores", "x.avi": "avi-mjpeg", "x.gif": "gif", "x.webp": "webp"} {
		got, err := FormatOf(file)
		require.NoError(t, err, file)
		assert.Equal(t, want, got, file)
	}
	for _, file := range []string{"film", "film.doc"} {
		_, err := FormatOf(file)
		assert.ErrorContains(t, err, "--format")
	}
}

// For cutting every frame stands alone: all samples are sync samples, in every format that has others. The reference is
// ffprobe.
func TestForCuttingEveryFrameStandsAlone(t *testing.T) {
	for _, name := range []string{"mp4-h264", "mp4-h265", "mp4-av1", "webm-vp9"} {
		f, err := Lookup(name)
		require.NoError(t, err)
		require.NoError(t, Check(context.Background(), f), name)
		path := filepath.Join(t.TempDir(), "segment")
		p, err := Start(
			context.Background(),
			path,
			Settings{Format: f, Width: 64, Height: 64, Rate: timecode.RateOf(10, false), Purpose: Edit},
		)
		require.NoError(t, err)
		for k := range 12 {
			require.NoError(t, p.Write(grey(64, 64, byte(20*k))), name)
		}
		require.NoError(t, p.Close(), name)
		said, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "packet=flags", "-of", "csv=p=0", path).
			Output()
		require.NoError(t, err, name)
		flags := strings.Fields(string(said))
		assert.Len(t, flags, 12, name)
		for _, f := range flags {
			assert.Contains(t, f, "K", name)
		}
	}
}
