package store

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"time"
)

const (
	// segmentsFor is how long segments stay that no film has taken, and segmentBytes how much of them there may be.
	segmentsFor  = 60 * 24 * time.Hour
	segmentBytes = 8 << 30
)

var segmentKey = regexp.MustCompile(`^[0-9a-f]{64}$`)

func (s *Store) segments() string { return filepath.Join(s.folder, "segments") }

// TakeSegment puts a segment that was made before into the place of one that is to be made; false where there is none.
// The name of a kept one ends with the hash of its content: one that is damaged is removed.
func (s *Store) TakeSegment(key, into string) (bool, error) {
	if !segmentKey.MatchString(key) {
		return false, fmt.Errorf("%q names no segment", key)
	}
	found, err := filepath.Glob(filepath.Join(s.segments(), key+".*"))
	if err != nil || len(found) == 0 {
		return false, err
	}
	kept := found[0]
	hash, err := fileHash(kept)
	switch {
	case errors.Is(err, fs.ErrNotExist): // swept away meanwhile
		return false, nil
	case err != nil:
		return false, err
	case filepath.Ext(kept) != "."+hash:
		slog.Warn("a kept segment is damaged: it is made anew", "segment", key)
		return false, os.Remove(kept)
	}
	now := time.Now()
	os.Remove(into) // of a try that broke off
	if err := errors.Join(os.Chtimes(kept, now, now), os.Link(kept, into)); err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return false, nil
		}
		return false, fmt.Errorf("taking a segment that was made before: %w", err)
	}
	return true, nil
}

// KeepSegment keeps a segment that has been made for films in which the same is seen.
func (s *Store) KeepSegment(key, path string) error {
	if !segmentKey.MatchString(key) {
		return fmt.Errorf("%q names no segment", key)
	}
	hash, err := fileHash(path)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(s.segments(), 0o755); err != nil {
		return fmt.Errorf("keeping a segment: %w", err)
	}
	if err := os.Link(path, filepath.Join(s.segments(), key+"."+hash)); err != nil && !errors.Is(err, fs.ErrExist) {
		return fmt.Errorf("keeping a segment: %w", err)
	}
	return nil
}

func fileHash(path string) (string, error) {
	f, err := os.Open(path)
	if err != nil {
		return "", fmt.Errorf("reading a segment: %w", err)
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", fmt.Errorf("reading a segment: %w", err)
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// sweepSegments removes segments that have not been taken for long, and the oldest where there are too many.
func (s *Store) sweepSegments(_ context.Context, now time.Time, n *Swept) error {
	folder := s.segments()
	found, err := os.ReadDir(folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("listing kept segments: %w", err)
	}
	var kept []fs.FileInfo
	for _, f := range found {
		if info, err := f.Info(); err == nil {
			kept = append(kept, info)
		}
	}
	slices.SortFunc(kept, func(a, b fs.FileInfo) int {
		return cmp.Or(b.ModTime().Compare(a.ModTime()), cmp.Compare(a.Name(), b.Name()))
	})
	total := int64(0)
	for _, f := range kept {
		if total += f.Size(); total <= segmentBytes && f.ModTime().After(now.Add(-segmentsFor)) {
			continue
		}
		if err := os.Remove(filepath.Join(folder, f.Name())); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return fmt.Errorf("removing a kept segment: %w", err)
		}
		n.Segments++
	}
	return nil
}
