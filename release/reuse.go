package release

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/exec"
	"sync"
)

// Program names this build of the program: another one may make other bytes of the same picture.
var Program = sync.OnceValues(func() (string, error) {
	own, err := os.Executable()
	if err != nil {
		return "", fmt.Errorf("finding this program: %w", err)
	}
	f, err := os.Open(own)
	if err != nil {
		return "", fmt.Errorf("reading this program: %w", err)
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", fmt.Errorf("reading this program: %w", err)
	}
	return hex.EncodeToString(h.Sum(nil)), nil
})

// makers name what makes films here: this program, and the encoder. Another build, or another encoder, may make other
// bytes of the same frames.
var makers = sync.OnceValues(func() (string, error) {
	own, err := Program()
	if err != nil {
		return "", err
	}
	encoder, err := exec.LookPath("ffmpeg")
	if err != nil {
		return "", fmt.Errorf("finding the encoder: %w", err)
	}
	info, err := os.Stat(encoder)
	if err != nil {
		return "", fmt.Errorf("looking at the encoder: %w", err)
	}
	return fmt.Sprintln(own, encoder, info.Size(), info.ModTime().UnixNano()), nil
})

// SegmentKey names what is seen in a segment of a film and how it is made: segments with one key have the same bytes. It is
// empty for outputs whose segments are not kept.
func (w *Work) SegmentKey(segment int) (string, error) {
	if w.Settings.Kind != Film {
		return "", nil
	}
	by, err := makers()
	if err != nil {
		return "", err
	}
	// What only says which moments are shown is in the digest of the frames, or of the whole film alone.
	s := w.Settings
	s.Name, s.Author, s.Variant, s.Poster, s.Sound = "", "", "", nil, nil
	s.From, s.To, s.Steps, s.Speed, s.Reverse, s.Then, s.Card = 0, 0, nil, 0, false, nil, nil
	settings, err := json.Marshal(s)
	if err != nil {
		return "", fmt.Errorf("digesting an output's settings: %w", err)
	}
	h := sha256.New()
	fmt.Fprintln(h, by, string(settings), w.cut.Digest(segment))
	return hex.EncodeToString(h.Sum(nil)), nil
}

// SegmentPath is where a segment of a film lies in the folder in which it is made.
func (w *Work) SegmentPath(folder string, segment int) string {
	return w.cut.SegmentPath(folder, segment)
}
