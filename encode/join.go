package encode

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"slowreveal/core/timecode"

	"golang.org/x/sys/unix"

	"slowreveal/core/reveal"
)

// Whole says how the segments of a film become one file.
type Whole struct {
	Format *Format
	Rate   timecode.Rate
	// Segments are their files, and Frames how many frames each has.
	Segments      []string
	Frames        []int
	Title, Author string
	Chapters      []Chapter
	// Comment is what else is to be known of it, in words.
	Comment string
	Sound   *Sound
	// Timecode is that of the first frame, for MOV and MP4 that are to be cut; empty for none.
	Timecode string
	// Poster is a JPEG that stands for the film, for formats that can hold one.
	Poster string

	soundEnds reveal.Micros // on the film's time
}

// Chapter is a stretch of a film with a name.
type Chapter struct {
	Title    string
	From, To reveal.Micros
}

// Sound is what is heard beside a film.
type Sound struct {
	File string `json:"-"`
	// Start is the film's time at which it begins; before zero its beginning is left out.
	Start reveal.Micros `json:"start"`
	// Gain is in dB.
	Gain float64 `json:"gain"`
	// FadeOut is how long it takes to fade before the film's end.
	FadeOut reveal.Micros `json:"fadeOut"`
}

// MaxGain bounds the gain of sound in dB, up and down.
const MaxGain = 40

// Length is how long the film is.
func (w *Whole) Length() reveal.Micros {
	n := 0
	for _, f := range w.Frames {
		n += f
	}
	return w.Rate.Time(n)
}

// Join makes one film of its segments: they are not encoded again, but for formats that are
// made of all frames together. The film appears under the name out when it is complete.
func Join(ctx context.Context, w *Whole, out string) error {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return ErrNoFFmpeg
	}
	folder, err := os.MkdirTemp(filepath.Dir(w.Segments[0]), "join-")
	if err != nil {
		return fmt.Errorf("preparing to join the film: %w", err)
	}
	defer os.RemoveAll(folder)
	list, about := filepath.Join(folder, "segments"), filepath.Join(folder, "about")
	if err := os.WriteFile(list, []byte(w.list()), 0o600); err != nil {
		return fmt.Errorf("preparing to join the film: %w", err)
	}
	if err := os.WriteFile(about, []byte(w.about()), 0o600); err != nil {
		return fmt.Errorf("preparing to join the film: %w", err)
	}
	if err := w.listen(ctx); err != nil {
		return err
	}
	part, err := reserve(out)
	if err != nil {
		return err
	}
	var said tail
	c := exec.CommandContext(ctx, program, w.arguments(list, about, part)...)
	c.Stderr = &said
	c.WaitDelay = 5 * time.Second
	if err := c.Run(); err != nil {
		os.Remove(part)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return explain(&said, w.Format, err)
	}
	if err := os.Rename(part, out); err != nil {
		os.Remove(part)
		return fmt.Errorf("naming the finished film: %w", err)
	}
	return nil
}

// list names the segments, with their lengths: what containers say of those is rounded.
func (w *Whole) list() string {
	var b strings.Builder
	b.WriteString("ffconcat version 1.0\n")
	for i, p := range w.Segments {
		fmt.Fprintf(
			&b,
			"file '%s'\nduration %.6f\n",
			strings.ReplaceAll(p, "'", `'\''`),
			seconds(w.Rate.Time(w.Frames[i])),
		)
	}
	return b.String()
}

var special = strings.NewReplacer("\\", "\\\\", "=", "\\=", ";", "\\;", "#", "\\#", "\n", " ", "\r", " ", "\x00", "")

// about is the film's metadata in ffmpeg's own form.
func (w *Whole) about() string {
	var b strings.Builder
	b.WriteString(";FFMETADATA1\n")
	fmt.Fprintf(&b, "title=%s\n", special.Replace(w.Title))
	if w.Comment != "" {
		fmt.Fprintf(&b, "comment=%s\n", special.Replace(w.Comment))
	}
	if w.Author != "" {
		fmt.Fprintf(&b, "artist=%s\n", special.Replace(w.Author))
	}
	for _, c := range w.Chapters {
		fmt.Fprintf(
			&b,
			"[CHAPTER]\nTIMEBASE=1/1000000\nSTART=%d\nEND=%d\ntitle=%s\n",
			c.From,
			c.To,
			special.Replace(c.Title),
		)
	}
	return b.String()
}

func (w *Whole) arguments(list, about, out string) []string {
	a := slices.Concat(common, []string{"-f", "concat", "-safe", "0", "-i", list, "-i", about})
	var codec []string
	sound := w.Sound != nil && w.Format.Sound
	if sound {
		a = append(a, w.Sound.input()...)
		codec = w.soundCodec()
	}
	cover := w.Poster != "" && w.Format.Cover
	if cover {
		a = append(a, "-i", w.Poster)
	}
	switch {
	case w.Format.again != nil:
		a = append(a, w.Format.again...)
	default:
		a = append(a, "-map", "0:v", "-c:v", "copy")
		if w.Format.Name == "mp4-h265" {
			a = append(a, "-tag:v", "hvc1")
		}
	}
	input := 2
	if sound {
		a = append(a, "-map", "2:a:0")
		a = append(a, codec...)
		input++
	}
	if cover {
		a = append(a, "-map", strconv.Itoa(input)+":v", "-c:v:1", "copy", "-disposition:v:1", "attached_pic")
	}
	a = append(
		a,
		"-map_metadata",
		"1",
		"-map_chapters",
		"1",
		"-t",
		fmt.Sprintf("%.6f", seconds(w.Length())),
		"-fflags",
		"+bitexact",
	)
	switch w.Format.Extension {
	case "mp4", "mov":
		a = append(a, "-video_track_timescale", timescale(w.Rate), "-movflags", "+faststart+write_colr")
		if w.Timecode != "" {
			a = append(a, "-timecode", w.Timecode)
		}
	}
	return append(
		a,
		"-f",
		map[string]string{"mp4": "mp4", "mov": "mov", "webm": "webm", "avi": "avi", "gif": "gif", "webp": "webp"}[w.Format.Extension],
		out,
	)
}

func (s *Sound) input() (a []string) {
	if s.Start < 0 {
		a = append(a, "-ss", fmt.Sprintf("%.6f", seconds(-s.Start)))
	}
	return append(a, "-i", s.File)
}

// softEnd is how long a sound that ends before the film takes to fade: cut off, it clicks.
const softEnd = reveal.Second / 2

// listen finds out when the sound ends.
func (w *Whole) listen(ctx context.Context) error {
	if w.Sound == nil || !w.Format.Sound {
		return nil
	}
	heard, err := Listen(ctx, w.Sound.File)
	if err != nil {
		return err
	}
	w.soundEnds = max(0, w.Sound.Start+heard.Length)
	return nil
}

// soundCodec filters and encodes the sound: moved, louder or softer, faded, and filled up
// with silence to the film's length.
func (w *Whole) soundCodec() []string {
	s, length := w.Sound, w.Length()
	filter := fmt.Sprintf("volume=%.3fdB", s.Gain)
	if s.Start > 0 {
		filter += fmt.Sprintf(",adelay=%d:all=1", s.Start/1000)
	}
	if soft := min(softEnd, w.soundEnds); w.soundEnds < length {
		filter += fmt.Sprintf(",afade=t=out:st=%.6f:d=%.6f", seconds(w.soundEnds-soft), seconds(soft))
	}
	if s.FadeOut > 0 {
		from := max(length-s.FadeOut, 0)
		filter += fmt.Sprintf(",afade=t=out:st=%.6f:d=%.6f", seconds(from), seconds(length-from))
	}
	filter += ",apad,aresample=48000"
	a := []string{"-af", filter}
	switch w.Format.Extension {
	case "webm":
		return append(a, "-c:a", "libopus", "-b:a", "128k")
	case "mov", "avi":
		return append(a, "-c:a", "pcm_s16le")
	}
	return append(a, "-c:a", "aac", "-b:a", "192k")
}

func seconds(t reveal.Micros) float64 { return float64(t) / float64(reveal.Second) }

// Heard is what a file with sound holds.
type Heard struct {
	Codec  string        `json:"codec"`
	Length reveal.Micros `json:"duration"`
}

// MaxSound is the longest sound that is taken: 4 hours.
const MaxSound = 4 * 3600 * reveal.Second

// Listen looks into a file with sound. A file without any is refused in words.
func Listen(ctx context.Context, file string) (Heard, error) {
	program, err := exec.LookPath("ffprobe")
	if err != nil {
		return Heard{}, ErrNoFFmpeg
	}
	ctx, stop := context.WithTimeout(ctx, 20*time.Second)
	defer stop()
	// Only containers of sound: a playlist could name other files.
	c := exec.CommandContext(
		ctx,
		program,
		"-v",
		"error",
		"-protocol_whitelist",
		"file",
		"-format_whitelist",
		"wav,mp3,mov,aac,flac,ogg",
		"-select_streams",
		"a:0",
		"-show_entries",
		"stream=codec_name:format=duration",
		"-of",
		"json",
		file,
	)
	out, err := bounded(c)
	var said struct {
		Streams []struct {
			Codec string `json:"codec_name"`
		} `json:"streams"`
		Format struct {
			Duration string `json:"duration"`
		} `json:"format"`
	}
	if err != nil || json.Unmarshal(out, &said) != nil || len(said.Streams) == 0 {
		return Heard{}, errors.New("this file holds no sound that can be read; WAV, MP3, M4A, FLAC and Ogg are taken")
	}
	length, err := strconv.ParseFloat(said.Format.Duration, 64)
	if err != nil || length <= 0 || reveal.Micros(length*1e6) > MaxSound {
		return Heard{}, errors.New("this sound is empty or longer than 4 hours")
	}
	return Heard{Codec: said.Streams[0].Codec, Length: reveal.Micros(length * 1e6)}, nil
}

// soundMemory bounds what looking into a sound may take, in bytes: covers and tables of damaged files
// ask for any amount.
const soundMemory = 512 << 20

// bounded runs a program with a bound on its memory and returns what it prints.
func bounded(c *exec.Cmd) ([]byte, error) {
	var out bytes.Buffer
	c.Stdout = &out
	if err := c.Start(); err != nil {
		return nil, err
	}
	limit := unix.Rlimit{Cur: soundMemory, Max: soundMemory}
	if err := unix.Prlimit(c.Process.Pid, unix.RLIMIT_DATA, &limit, nil); err != nil && !errors.Is(err, unix.ESRCH) {
		c.Process.Kill()
		return nil, errors.Join(err, c.Wait())
	}
	err := c.Wait()
	return out.Bytes(), err
}
