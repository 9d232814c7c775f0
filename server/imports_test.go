package server_test

import (
	"bytes"
	"context"
	"io"
	"mime/multipart"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/demo"
	"slowreveal/formats/gltf"
	"slowreveal/server"
	"slowreveal/store"
)

// upload sends files, given as name and content in turn, and fields as
// "name=value".
func (s *stand) upload(files []string, fields ...string) (int, []byte) {
	s.Helper()
	var form bytes.Buffer
	w := multipart.NewWriter(&form)
	for i := 0; i+1 < len(files); i += 2 {
		f, err := w.CreateFormFile("files", files[i])
		require.NoError(s, err)
		_, err = io.WriteString(f, files[i+1])
		require.NoError(s, err)
	}
	for _, field := range fields {
		name, value, _ := strings.Cut(field, "=")
		require.NoError(s, w.WriteField(name, value))
	}
	require.NoError(s, w.Close())
	reply, err := http.Post(s.url+"/api/imports", w.FormDataContentType(), &form)
	require.NoError(s, err)
	defer reply.Body.Close()
	text, err := io.ReadAll(reply.Body)
	require.NoError(s, err)
	return reply.StatusCode, text
}

// ended waits for an import to come to its end.
func (s *stand) ended(text []byte) store.Import {
	s.Helper()
	i := read[store.Import](s.T, text)
	require.Eventually(s, func() bool {
		var err error
		i, err = s.store.Import(context.Background(), i.ID)
		return err == nil && i.FinishedAt != nil
	}, 6*time.Minute, 20*time.Millisecond)
	return i
}

// working lets the stand work jobs off until the test ends.
func (s *stand) working() {
	ctx, stop := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- s.queue.Work(ctx) }()
	s.Cleanup(func() { stop(); <-ended })
}

func pumpGLB(t *testing.T) string {
	t.Helper()
	glb, err := gltf.Write(demo.Pump())
	require.NoError(t, err)
	return string(glb)
}

const corner = `solid corner
facet normal 0 0 0
outer loop
vertex 0 0 0
vertex 10 0 0
vertex 0 10 0
endloop
endfacet
endsolid corner
`

func TestAnImportBecomesAProject(t *testing.T) {
	s := newStand(t)
	s.working()
	code, text := s.upload([]string{"C:\\parts\\dp-40.glb", pumpGLB(t)}, "name=Dosing pump")
	require.Equal(t, http.StatusCreated, code, string(text))
	i := s.ended(text)
	require.Equal(t, store.Done, i.State, i.Message)
	_, text, _ = s.ask("GET", "/api/projects/"+*i.ProjectID, nil)
	page := read[server.ProjectPage](t, text)
	assert.Equal(t, "Dosing pump", page.Project.Name)
	assert.Equal(t, 80, page.Project.Parts)
	assert.Equal(t, "dp-40.glb", page.Revision.FileName)
	assert.Len(t, page.Reveals, 1)
	_, text, _ = s.ask("GET", "/api/imports", nil)
	assert.Equal(t, i.ID, read[[]store.Import](t, text)[0].ID)
}

func TestAProjectsFilesAreReadOnceMoreInAnotherUnit(t *testing.T) {
	s := newStand(t)
	s.working()
	_, text := s.upload([]string{"corner.stl", corner})
	project := *s.ended(text).ProjectID
	size := func() (float64, string) {
		r, err := s.store.Revision(context.Background(), project)
		require.NoError(t, err)
		m, err := s.authoring.Model(context.Background(), r.ID, true)
		require.NoError(t, err)
		return m.Assembly.Bounds().Size().X, string(r.Report)
	}
	before, report := size()
	assert.Equal(t, 10.0, before)
	assert.Contains(t, report, "a guess")
	code, text, _ := s.ask("POST", "/api/projects/"+project+"/imports", map[string]string{"unit": "in", "up": "y"})
	require.Equal(t, http.StatusCreated, code, string(text))
	require.Equal(t, store.Done, s.ended(text).State)
	after, report := size()
	assert.InDelta(t, 254, after, 1e-3)
	assert.Contains(t, report, "inch (set by hand")
	_, text, _ = s.ask("GET", "/api/projects/"+project, nil)
	page := read[server.ProjectPage](t, text)
	assert.Equal(t, 2, page.Revision.Number)
	stored, err := s.store.Reveal(context.Background(), page.Reveals[0].ID)
	require.NoError(t, err)
	assert.Equal(t, page.Revision.ID, stored.RevisionID, "the reveal has come along")
	code, text, _ = s.ask("POST", "/api/projects/"+project+"/imports", map[string]string{"unit": "cubit"})
	assert.Equal(t, http.StatusUnprocessableEntity, code, string(text))
}

func TestABrokenFileFailsWithItsReasonAndNothingIsStored(t *testing.T) {
	s := newStand(t)
	s.working()
	_, list, _ := s.ask("GET", "/api/projects", nil)
	before := len(read[[]store.Project](t, list))
	code, text := s.upload([]string{"broken.glb", "glTF but not really, sorry"})
	require.Equal(t, http.StatusCreated, code, string(text))
	i := s.ended(text)
	assert.Equal(t, store.Failed, i.State)
	assert.Contains(t, i.Message, "broken.glb")
	_, list, _ = s.ask("GET", "/api/projects", nil)
	assert.Len(t, read[[]store.Project](t, list), before)
	// It may be tried again, and be forgotten with its files.
	code, _, _ = s.ask("POST", "/api/imports/"+i.ID+"/retry", nil)
	assert.Equal(t, http.StatusNoContent, code)
	i = s.ended(text)
	code, _, _ = s.ask("DELETE", "/api/imports/"+i.ID, nil)
	assert.Equal(t, http.StatusNoContent, code)
	_, err := s.store.Import(context.Background(), i.ID)
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.Error(t, s.store.Unpack(context.Background(), i, t.TempDir()), "its file is gone")
}

func TestFilesThatCannotBeAnAssemblyAreRefusedAtOnce(t *testing.T) {
	s := newStand(t)
	for want, files := range map[string][]string{
		"there is no file":                {},
		"files ending in":                 {"notes.pdf", "x"},
		"both hold an assembly":           {"a.glb", "x", "b.stl", "y"},
		"two files are called":            {"a.stl", corner, "a.stl", corner},
		"there is no assembly among them": {"a.mtl", "x"},
		"is no plain file name":           {"..", "x"},
	} {
		code, text := s.upload(files)
		assert.GreaterOrEqual(t, code, 400, want)
		assert.Less(t, code, 500, want)
		message := read[server.Problem](t, text).Message
		assert.Contains(t, message, strings.TrimSuffix(want, " among them"), message)
	}
	code, text := s.upload([]string{"a.stl", corner}, "up=x")
	assert.Equal(t, http.StatusUnprocessableEntity, code, string(text))
}

// A worker that is killed in the middle leaves nothing half; another one does
// the import.
func TestAnImportThatLostItsWorkerIsDoneByAnother(t *testing.T) {
	s := newStand(t)
	code, text := s.upload([]string{"corner.stl", corner})
	require.Equal(t, http.StatusCreated, code)
	i := read[store.Import](t, text)
	i, err := s.store.Import(context.Background(), i.ID)
	require.NoError(t, err)
	ok, err := s.store.BeginImport(context.Background(), i) // by a worker that says nothing more
	require.NoError(t, err)
	require.True(t, ok)
	_, err = s.store.SQL().Exec(`update river_job set state = 'discarded', finalized_at = now() where id = $1`, i.JobID)
	require.NoError(t, err)
	_, err = s.store.SQL().Exec(`update imports set beat_at = now() - interval '1 minute' where id = $1`, i.ID)
	require.NoError(t, err)
	s.working()
	done := s.ended(text)
	require.Equal(t, store.Done, done.State, done.Message)
	assert.NotEqual(t, i.JobID, done.JobID)
	// The first worker comes back too late: what it read is not stored twice.
	assert.ErrorIs(t, s.authoring.FinishImport(context.Background(), i, demo.Pump()), store.ErrTaken)
}

func TestACancelledImportMakesNoProject(t *testing.T) {
	s := newStand(t)
	_, text := s.upload([]string{"corner.stl", corner})
	i := read[store.Import](t, text)
	code, _, _ := s.ask("POST", "/api/imports/"+i.ID+"/cancel", nil)
	assert.Equal(t, http.StatusNoContent, code)
	s.working()
	time.Sleep(300 * time.Millisecond) // the queue has a look at it
	i = s.ended(text)
	assert.Equal(t, store.Cancelled, i.State)
	assert.Nil(t, i.ProjectID)
}
