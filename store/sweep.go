package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"gocloud.dev/blob"
)

// Swept counts what a sweep has removed.
type Swept struct{ Files, Imports, Folders, Shapes, Surveys, Segments int }

const (
	// idle is how long something on its way may lie untouched before it counts as left behind.
	idle = 15 * time.Minute
	// surveysFor is how long surveys and pictures stay; they are made again when they are asked for.
	surveysFor = 90 * 24 * time.Hour
)

// Sweep removes from the data folder what nothing refers to: of deleted projects, of uploads and
// imports that broke off, of workers that were killed. Shapes that projects share go with the last of
// them. now is the time by which things are old.
func (s *Store) Sweep(ctx context.Context, now time.Time) (Swept, error) {
	var n Swept
	err := errors.Join(
		s.sweepFilms(ctx, now, &n),
		s.sweepWork(ctx, now, &n),
		s.sweepBlobs(ctx, now, &n),
		s.sweepSegments(ctx, now, &n),
	)
	if n != (Swept{}) {
		slog.Info(
			"removed what nothing refers to any more",
			"files",
			n.Files,
			"imports",
			n.Imports,
			"folders",
			n.Folders,
			"shapes",
			n.Shapes,
			"surveys",
			n.Surveys,
			"segments",
			n.Segments,
		)
	}
	return n, err
}

var leadingID = regexp.MustCompile(`^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}`)

// ids asks for a set of ids.
func (s *Store) ids(ctx context.Context, query string) (map[string]bool, error) {
	var list []string
	if err := s.db.SelectContext(ctx, &list, query); err != nil {
		return nil, err
	}
	set := make(map[string]bool, len(list))
	for _, id := range list {
		set[id] = true
	}
	return set, nil
}

// sweepFilms looks at finished outputs, the folders of those that are made, and attachments. What is
// there is listed before what is known: what comes in between is known.
func (s *Store) sweepFilms(ctx context.Context, now time.Time, n *Swept) error {
	found, err := os.ReadDir(s.films)
	if err != nil {
		return fmt.Errorf("listing the outputs' folder: %w", err)
	}
	known, err := s.ids(ctx, `select id::text from outputs union all select id::text from attachments`)
	if err != nil {
		return err
	}
	ended, err := s.ids(ctx, `select id::text from outputs where state in ('done', 'failed', 'cancelled')`)
	if err != nil {
		return err
	}
	for _, f := range found {
		id := leadingID.FindString(f.Name())
		left := strings.HasSuffix(f.Name(), ".segments") && ended[id]
		if id == "" || known[id] && !left || touched(filepath.Join(s.films, f.Name())).After(now.Add(-idle)) {
			continue
		}
		if err := os.RemoveAll(filepath.Join(s.films, f.Name())); err != nil {
			return err
		}
		n.Files++
	}
	return nil
}

// touched is when something was last written to in a file, or in a folder.
func touched(path string) (last time.Time) {
	filepath.WalkDir(path, func(_ string, d os.DirEntry, err error) error {
		if err != nil {
			return nil //nolint:nilerr // it has just gone
		}
		if info, err := d.Info(); err == nil && info.ModTime().After(last) {
			last = info.ModTime()
		}
		return nil
	})
	return last
}

// ImportFolder is where the files of an import lie while they are read.
func (s *Store) ImportFolder(i Import) string { return filepath.Join(s.folder, "work", i.ID) }

// sweepWork looks at the folders of imports that are no longer read.
func (s *Store) sweepWork(ctx context.Context, now time.Time, n *Swept) error {
	found, err := os.ReadDir(filepath.Join(s.folder, "work"))
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	running, err := s.ids(ctx, `select id::text from imports where state = 'running'`)
	if err != nil {
		return err
	}
	for _, f := range found {
		path := filepath.Join(s.folder, "work", f.Name())
		if running[f.Name()] || touched(path).After(now.Add(-idle)) {
			continue
		}
		if err := os.RemoveAll(path); err != nil {
			return err
		}
		n.Folders++
	}
	return nil
}

// shapesInUse are the shapes that some revision, arrangement (also what redo would bring back) or output
// refers to: everything that looks like a hash in their documents.
func (s *Store) shapesInUse(ctx context.Context) (map[string]bool, error) {
	return s.ids(ctx, `select m[1] from revisions, regexp_matches(assembly, '[0-9a-f]{64}', 'g') m
		union select m[1] from arrangements, regexp_matches(edits || undone, '[0-9a-f]{64}', 'g') m
		union select m[1] from outputs, regexp_matches(edits, '[0-9a-f]{64}', 'g') m`)
}

// sweepBlobs looks at the files of imports, at shapes, surveys and pictures, and at what was being written when
// a process was killed.
func (s *Store) sweepBlobs(ctx context.Context, now time.Time, n *Swept) error {
	type lying struct {
		key string
		at  time.Time
	}
	var all []lying
	uploads := map[string]time.Time{} // by import: when a file of it was last written to
	list := s.bucket.List(&blob.ListOptions{})
	for {
		o, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return fmt.Errorf("listing what is stored: %w", err)
		}
		all = append(all, lying{o.Key, o.ModTime})
		if source := sourceOf(o.Key); source != "" && o.ModTime.After(uploads[source]) {
			uploads[source] = o.ModTime
		}
	}
	known, err := s.ids(ctx, `select distinct source::text from imports`)
	if err != nil {
		return err
	}
	used, err := s.shapesInUse(ctx)
	if err != nil {
		return err
	}
	gone := map[string]bool{}
	for _, b := range all {
		source, base := sourceOf(b.key), b.key[strings.LastIndexByte(b.key, '/')+1:]
		var count *int
		switch {
		case strings.HasSuffix(b.key, ".tmp") && b.at.Before(now.Add(-idle)):
			count = &n.Files
		case source != "" && !known[source] && uploads[source].Before(now.Add(-idle)):
			if count = new(int); !gone[source] {
				gone[source] = true
				n.Imports++
			}
		case strings.HasPrefix(b.key, "shapes/") && !used[base] && b.at.Before(now.Add(-sweptAfter)):
			count = &n.Shapes
		case strings.HasPrefix(b.key, "drawn-") && (!used[base] || !strings.HasPrefix(b.key, drawnShapes)) && b.at.Before(now.Add(-sweptAfter)):
			count = new(int) // with the shape
		// earlier versions kept surveys apart from pictures
		case (strings.HasPrefix(b.key, "surveys/") || strings.HasPrefix(b.key, "pictures/")) && b.at.Before(now.Add(-surveysFor)):
			count = &n.Surveys
		default:
			continue
		}
		if err := s.bucket.Delete(ctx, b.key); err != nil {
			return fmt.Errorf("removing %s: %w", b.key, err)
		}
		*count++
	}
	for source := range gone {
		os.Remove(filepath.Join(s.folder, "blobs", "imports", source)) // an empty folder is in nobody's way
	}
	return nil
}

func sourceOf(key string) string {
	rest, ok := strings.CutPrefix(key, "imports/")
	if !ok {
		return ""
	}
	source, _, _ := strings.Cut(rest, "/")
	return source
}
