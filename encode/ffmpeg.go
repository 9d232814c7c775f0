package encode

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"slowreveal/core/timecode"
)

// Settings say what film is made of the frames.
type Settings struct {
	Format        *Format
	Width, Height int // pixels
	Rate          timecode.Rate
	Purpose       Purpose
}

// Segment is a running ffmpeg that takes frames: a segment of a film. Its file appears under
// the final name only when Close has returned nil.
type Segment struct {
	format    *Format
	out, part string
	process   *exec.Cmd
	stdin     io.WriteCloser
	said      tail
}

// ErrNoFFmpeg says that there is no ffmpeg on this machine.
var ErrNoFFmpeg = errors.New("ffmpeg is not installed; install Debian's package ffmpeg (apt-get install ffmpeg)")

// Start starts ffmpeg to write a segment of a film to out. Frames go to Write as the format
// takes them: raw 4:2:0 with BT.709 colours, or 4 bytes (R, G, B, alpha) a pixel. When ctx
// ends, ffmpeg is stopped.
func Start(ctx context.Context, out string, s Settings) (*Segment, error) {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return nil, ErrNoFFmpeg
	}
	f := &Segment{out: out, format: s.Format}
	if f.part, err = reserve(out); err != nil {
		return nil, err
	}
	f.process = exec.CommandContext(ctx, program, arguments(f.part, &s)...)
	// A frame's memory is kept for the next one, which saves 3 % of the encoder's time (glibc).
	f.process.Env = append(os.Environ(), "MALLOC_MMAP_THRESHOLD_=268435456", "MALLOC_TRIM_THRESHOLD_=536870912")
	f.process.Stderr = &f.said
	f.process.WaitDelay = 5 * time.Second
	if f.stdin, err = f.process.StdinPipe(); err != nil {
		os.Remove(f.part)
		return nil, fmt.Errorf("starting ffmpeg: %w", err)
	}
	if err = f.process.Start(); err != nil {
		os.Remove(f.part)
		return nil, fmt.Errorf("starting ffmpeg: %w", err)
	}
	return f, nil
}

// reserve makes an empty file beside out, under a name that no other process
// uses.
func reserve(out string) (string, error) {
	file, err := os.CreateTemp(filepath.Dir(out), filepath.Base(out)+".*.part")
	if err != nil {
		return "", fmt.Errorf("the film cannot be written to %s: %w", filepath.Dir(out), err)
	}
	if err := file.Chmod(0o644); err != nil { // a film is no secret
		file.Close()
		os.Remove(file.Name())
		return "", fmt.Errorf("preparing the film's file: %w", err)
	}
	return file.Name(), file.Close()
}

// Common are arguments of every ffmpeg that is started.
var common = []string{"-hide_banner", "-loglevel", "error", "-nostdin", "-y"}

func arguments(out string, s *Settings) []string {
	in := []string{
		"-f",
		"rawvideo",
		"-pixel_format",
		s.Format.pixels,
		"-video_size",
		fmt.Sprintf("%dx%d", s.Width, s.Height),
		"-framerate",
		s.Rate.String(),
	}
	if s.Format.pixels == "yuv420p" {
		in = append(in, bt709...)
	}
	in = append(in, "-i", "pipe:0")
	last := []string{"-fflags", "+bitexact", "-f", s.Format.segment, out}
	if s.Format.segment == "mp4" || s.Format.segment == "mov" {
		last = append([]string{"-movflags", "+write_colr", "-video_track_timescale", timescale(s.Rate)}, last...)
	}
	return slices.Concat(common, in, s.Format.args(s), last)
}

// Write hands over one frame.
func (f *Segment) Write(frame []byte) error {
	if _, err := f.stdin.Write(frame); err != nil {
		return f.fail(err)
	}
	return nil
}

// Close waits for the film to be complete and gives it its name.
func (f *Segment) Close() error {
	f.stdin.Close()
	if err := f.process.Wait(); err != nil {
		os.Remove(f.part)
		return explain(&f.said, f.format, err)
	}
	if err := os.Rename(f.part, f.out); err != nil {
		os.Remove(f.part)
		return fmt.Errorf("naming the finished film: %w", err)
	}
	return nil
}

// Abort stops ffmpeg and removes what it wrote.
func (f *Segment) Abort() {
	f.stdin.Close()
	f.process.Process.Kill()
	f.process.Wait()
	os.Remove(f.part)
}

func (f *Segment) fail(cause error) error {
	f.stdin.Close()
	if err := f.process.Wait(); err != nil {
		cause = err
	}
	os.Remove(f.part)
	return explain(&f.said, f.format, cause)
}

// explain puts ffmpeg's end into words: what is wrong, and what to do about it.
func explain(said *tail, format *Format, cause error) error {
	words := said.String()
	switch {
	case strings.Contains(words, "No space left on device"):
		return errors.New("the disk is full: free some space and make the film again")
	case strings.Contains(words, "Unknown encoder"):
		return fmt.Errorf(
			"this ffmpeg has no encoder %s, which %s needs: choose another format, or install Debian's package ffmpeg",
			format.encoder,
			format.Title,
		)
	case words != "":
		return fmt.Errorf("ffmpeg stopped: %s", words)
	}
	return fmt.Errorf("ffmpeg stopped: %w", cause)
}

// tail keeps the end of what a process says.
type tail struct {
	mu   sync.Mutex
	text []byte
}

const tailSize = 2000

func (t *tail) Write(p []byte) (int, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.text = append(t.text, p...)
	if n := len(t.text); n > tailSize {
		t.text = t.text[n-tailSize:]
	}
	return len(p), nil
}

func (t *tail) String() string {
	t.mu.Lock()
	defer t.mu.Unlock()
	return string(bytes.TrimSpace(t.text))
}
