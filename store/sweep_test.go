package store_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/demo"
	"slowreveal/localdb/testdb"
	"slowreveal/store"
)

// lying lists the files in a folder.
func lying(t *testing.T, folder string) (files []string) {
	t.Helper()
	require.NoError(t, filepath.WalkDir(folder, func(path string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			files = append(files, path)
		}
		return err
	}))
	return files
}

func age(t *testing.T, folder string, by time.Duration) {
	t.Helper()
	at := time.Now().Add(-by)
	require.NoError(t, filepath.WalkDir(folder, func(path string, _ fs.DirEntry, err error) error {
		if err == nil {
			err = os.Chtimes(path, at, at)
		}
		return err
	}))
}

// What nothing refers to goes: files of deleted projects, uploads that broke off, folders of killed
// workers. What is young stays, as somebody may be at it; so does what is used, however old.
func TestTheSweepTakesWhatNothingRefersTo(t *testing.T) {
	s, folder := testdb.OpenIn(t, store.Options{Connections: 1})
	p := project(t, s)
	other, err := authoring.New(s).CreateProject(ctx, "shares its shapes", "pump.glb", demo.Pump())
	require.NoError(t, err)
	a, err := s.Attach(
		ctx,
		store.Attachment{ProjectID: p.ID, Name: "tone.wav", Kind: "sound"},
		strings.NewReader("la"),
		func(string, *store.Attachment) error { return nil },
	)
	require.NoError(t, err)
	shapes := len(lying(t, filepath.Join(folder, "blobs", "shapes")))
	require.Positive(t, shapes)

	abandoned := store.NewImport()
	_, err = s.PutFile(ctx, abandoned, "half.stl", strings.NewReader("solid"))
	require.NoError(t, err)
	lost := []string{
		filepath.Join(folder, "films", uuid.NewString()+".mp4"),
		filepath.Join(folder, "films", uuid.NewString()+".attached"),
		filepath.Join(
			folder,
			"films",
			uuid.NewString()+".segments",
			"0.mp4",
		),
		filepath.Join(folder, "work", uuid.NewString(), "a.step"),
		filepath.Join(folder, "blobs", "shapes", "aa", "x.123.tmp"),
	}
	for _, path := range lost {
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o700))
		require.NoError(t, os.WriteFile(path, []byte("left"), 0o600))
	}
	n, err := s.Sweep(ctx, time.Now())
	require.NoError(t, err)
	assert.Zero(t, n, "all of it is young")

	age(t, folder, 48*time.Hour)
	n, err = s.Sweep(ctx, time.Now())
	require.NoError(t, err)
	assert.Equal(t, store.Swept{Files: 4, Imports: 1, Folders: 1}, n)
	for _, path := range lost {
		assert.NoFileExists(t, path)
	}
	assert.FileExists(t, s.AttachmentPath(a.ID))

	require.NoError(t, s.DeleteProject(ctx, p.ID))
	assert.NoFileExists(t, s.AttachmentPath(a.ID), "it goes with its project")
	_, err = s.Sweep(ctx, time.Now())
	require.NoError(t, err)
	assert.Len(t, lying(t, filepath.Join(folder, "blobs", "shapes")), shapes, "another project has them, too")
	require.NoError(t, s.DeleteProject(ctx, other.ID))
	others, err := s.Projects(ctx) // of other tests, in the same database: they have the same shapes
	require.NoError(t, err)
	for _, o := range others {
		require.NoError(t, s.DeleteProject(ctx, o.ID))
	}
	n, err = s.Sweep(ctx, time.Now())
	require.NoError(t, err)
	assert.Equal(t, shapes, n.Shapes)
	assert.Empty(t, lying(t, folder))
}

// A shape that is used anew is young again, so that a sweep at the same moment leaves it.
func TestAShapeThatIsUsedAnewIsNotSwept(t *testing.T) {
	s, folder := testdb.OpenIn(t)
	p := project(t, s)
	require.NoError(t, s.DeleteProject(ctx, p.ID))
	age(t, folder, 48*time.Hour)
	project(t, s)
	n, err := s.Sweep(ctx, time.Now())
	require.NoError(t, err)
	assert.Zero(t, n.Shapes)
}
