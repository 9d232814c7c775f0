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
	"strconv"
	"strings"
	"sync"
	"time"
)

// Settings say what film is made of the frames.
type Settings struct {
	Width, Height int // pixels, even
	Rate          int // frames a second
	Title         string
	// Draft asks for speed: a rougher picture at the same size.
	Draft bool
}

// Film is a running ffmpeg that takes frames. Its file appears under the final
// name only when Close has returned nil.
type Film struct {
	out, part string
	process   *exec.Cmd
	stdin     io.WriteCloser
	said      tail
}

// ErrNoFFmpeg says that there is no ffmpeg on this machine.
var ErrNoFFmpeg = errors.New("ffmpeg is not installed; install Debian's package ffmpeg (apt-get install ffmpeg)")

// Start starts ffmpeg to write an H.264 film in MP4 to out. Frames go to Write
// as raw 4:2:0 with BT.709 colours. When ctx ends, ffmpeg is stopped.
func Start(ctx context.Context, out string, s Settings) (*Film, error) {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return nil, ErrNoFFmpeg
	}
	f := &Film{out: out}
	if f.part, err = reserve(out); err != nil {
		return nil, err
	}
	f.process = exec.CommandContext(ctx, program, arguments(f.part, s)...)
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

func arguments(out string, s Settings) []string {
	preset, crf := "veryfast", "17"
	if s.Draft {
		preset, crf = "ultrafast", "26"
	}
	return []string{
		"-hide_banner", "-loglevel", "error", "-nostdin", "-y",
		"-f", "rawvideo", "-pixel_format", "yuv420p", "-video_size", fmt.Sprintf("%dx%d", s.Width, s.Height),
		"-framerate", strconv.Itoa(s.Rate),
		"-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709", "-i", "pipe:0",
		"-c:v", "libx264", "-preset", preset, "-crf", crf, "-pix_fmt", "yuv420p", "-profile:v", "high",
		"-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709",
		"-video_track_timescale", strconv.Itoa(s.Rate * 1000),
		"-metadata", "title=" + strings.ReplaceAll(s.Title, "\x00", ""),
		"-movflags", "+faststart", "-f", "mp4", out,
	}
}

// Write hands over one frame.
func (f *Film) Write(frame []byte) error {
	if _, err := f.stdin.Write(frame); err != nil {
		return f.fail(err)
	}
	return nil
}

// Close waits for the film to be complete and gives it its name.
func (f *Film) Close() error {
	f.stdin.Close()
	if err := f.process.Wait(); err != nil {
		os.Remove(f.part)
		return f.explain(err)
	}
	if err := os.Rename(f.part, f.out); err != nil {
		os.Remove(f.part)
		return fmt.Errorf("naming the finished film: %w", err)
	}
	return nil
}

// Abort stops ffmpeg and removes what it wrote.
func (f *Film) Abort() {
	f.stdin.Close()
	f.process.Process.Kill()
	f.process.Wait()
	os.Remove(f.part)
}

func (f *Film) fail(cause error) error {
	f.stdin.Close()
	if err := f.process.Wait(); err != nil {
		cause = err
	}
	os.Remove(f.part)
	return f.explain(cause)
}

func (f *Film) explain(cause error) error {
	words := f.said.String()
	switch {
	case strings.Contains(words, "No space left on device"):
		return errors.New("the disk is full: free some space and make the film again")
	case strings.Contains(words, "Unknown encoder"):
		return errors.New("this ffmpeg has no libx264; install Debian's package ffmpeg")
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
