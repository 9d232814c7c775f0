package server_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image/png"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	core "slowreveal/core/reveal"
	"slowreveal/encode"
	"slowreveal/localdb/testdb"
	"slowreveal/release"
	"slowreveal/sequence"
	"slowreveal/server"
	"slowreveal/store"
)

// work works the queue off until the test ends.
func (s *stand) work() {
	working, stop := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- s.queue.Work(working) }()
	s.Cleanup(func() {
		stop()
		assert.NoError(s, <-ended)
	})
}

func (s *stand) finished(id string) store.Output {
	s.Helper()
	o := s.waitFor(id, func(o store.Output) bool { return o.State == store.Done || o.State == store.Failed })
	require.Equal(s, store.Done, o.State, o.Message)
	return o
}

func TestAFilmIsMadeServedAndCanBeStopped(t *testing.T) {
	s := newStand(t)
	reveal := s.teardown()
	s.work()
	film := s.order(reveal, release.Settings{Width: 64, Height: 36, Rate: 4, Purpose: encode.Draft})[0]
	assert.Equal(t, 204, film.Frames)
	assert.Equal(t, "Ines", film.MadeBy)
	s.finished(film.ID)
	code, data, header := s.ask("GET", "/api/outputs/"+film.ID+"/file", nil, "Range", "bytes=0-99")
	assert.Equal(t, http.StatusPartialContent, code)
	assert.Len(t, data, 100)
	assert.Equal(t, "video/mp4", header.Get("Content-Type"))

	slow := s.order(reveal, release.Settings{Width: 640, Height: 360, Rate: 30})[0]
	s.waitFor(slow.ID, func(o store.Output) bool { return o.FramesDone > 0 })
	code, _, _ = s.ask("POST", "/api/outputs/"+slow.ID+"/cancel", nil)
	assert.Equal(t, http.StatusNoContent, code)
	assert.Equal(
		t,
		store.Cancelled,
		s.waitFor(slow.ID, func(o store.Output) bool { return o.State != store.Running }).State,
	)
	require.Eventually(t, func() bool {
		left, _ := filepath.Glob(s.store.WorkFolder(slow) + "*")
		return len(left) == 0
	}, 6*time.Minute, 50*time.Millisecond, "a stopped film leaves no file")
	require.Eventually(
		t,
		func() bool { return !running(slow.ID) },
		10*time.Second,
		50*time.Millisecond,
		"nor a process",
	)
}

// running reports whether a process has a word in its arguments.
func running(word string) bool {
	list, _ := filepath.Glob("/proc/[0-9]*/cmdline")
	for _, path := range list {
		if text, err := os.ReadFile(path); err == nil && bytes.Contains(text, []byte(word)) {
			return true
		}
	}
	return false
}

// An output that is paused waits with what it has, and goes on.
func TestAnOutputIsPausedAndGoesOn(t *testing.T) {
	s := newStand(t)
	reveal := s.teardown()
	s.work()
	film := s.order(reveal, release.Settings{Width: 640, Height: 360, Rate: 30, To: 12 * core.Second, Purpose: encode.Draft})[0]
	s.waitFor(film.ID, func(o store.Output) bool { return o.FramesDone > 20 })
	code, _, _ := s.ask("POST", "/api/outputs/"+film.ID+"/pause", nil)
	require.Equal(t, http.StatusNoContent, code)
	other := s.order(reveal, release.Settings{Kind: release.Captions})[0]
	s.finished(other.ID) // the worker is free
	assert.Equal(t, store.Paused, s.waitFor(film.ID, func(store.Output) bool { return true }).State)
	code, _, _ = s.ask("POST", "/api/outputs/"+film.ID+"/retry", nil)
	require.Equal(t, http.StatusNoContent, code)
	s.finished(film.ID)
}

// The client pack, by the API: everything in one order, from one preset.
func TestAPackOfOutputs(t *testing.T) {
	s := newStand(t)
	reveal := s.teardown()
	r, err := s.store.Reveal(context.Background(), reveal)
	require.NoError(t, err)
	s.work()
	sound := s.attach(r.ProjectID, "sound", "tone.wav", tone(t))
	pack := []release.Settings{
		{
			Name:     "film",
			Width:    160,
			Height:   90,
			Rate:     5,
			To:       6 * core.Second,
			Captions: true,
			Purpose:  encode.Draft,
			Sound:    &release.Sound{Attachment: sound.ID, Sound: encode.Sound{FadeOut: core.Second}},
		},
		{Name: "square", Format: "gif", Width: 90, Height: 90, Rate: 5, From: 5 * core.Second, To: 7 * core.Second},
		{
			Name:   "stills",
			Kind:   release.Stills,
			Width:  200,
			Height: 112,
			At:     []core.Micros{0, 12 * core.Second, 31 * core.Second},
			Layers: []sequence.Layer{
				{Kind: sequence.Shaded},
				{Kind: sequence.Edges},
				{Kind: sequence.Depth},
				{Kind: sequence.Matte, Name: "All", Nodes: []assembly.NodeID{"/"}},
			},
		},
		{Name: "model", Kind: release.GLB}, {Name: "words", Kind: release.Captions},
	}
	code, text, _ := s.ask(
		"POST",
		"/api/projects/"+r.ProjectID+"/presets",
		server.NewPreset{Name: "Client pack", Outputs: pack},
	)
	require.Equal(t, http.StatusCreated, code, string(text))
	code, text, _ = s.ask("GET", "/api/projects/"+r.ProjectID+"/presets", nil)
	require.Equal(t, http.StatusOK, code)
	var kept []release.Settings
	require.NoError(t, json.Unmarshal([]byte(read[[]store.Preset](t, text)[0].Settings), &kept))
	list := s.order(reveal, kept...)
	require.Len(t, list, 5)
	file := func(i int) []byte {
		o := s.finished(list[i].ID)
		code, data, header := s.ask("GET", "/api/outputs/"+o.ID+"/file?download=1", nil)
		require.Equal(t, http.StatusOK, code)
		assert.Contains(t, header.Get("Content-Disposition"), pack[i].Name+".")
		assert.EqualValues(t, o.Bytes, len(data))
		return data
	}
	assert.Equal(t, "GIF89a", string(file(1)[:6]))
	assert.Equal(t, "glTF", string(file(3)[:4]))
	assert.True(t, strings.HasPrefix(string(file(4)), "WEBVTT\n\n1\n00:00:00.000 --> "))
	assert.Contains(t, string(file(0)[:12]), "ftyp")
	data := file(2)
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	assert.Len(t, z.File, 1+3*4)
	for _, name := range []string{"shaded/shaded_00001.png", "depth/depth_00003.png", "edges/edges_00002.png", "matte-All/matte-All_00001.png"} {
		f, err := z.Open(name)
		require.NoError(t, err, name)
		img, err := png.Decode(f)
		require.NoError(t, err, name)
		assert.Equal(t, 200, img.Bounds().Dx())
	}
	code, text, _ = s.ask("POST", "/api/reveals/"+reveal+"/outputs/estimate", pack[0])
	require.Equal(t, http.StatusOK, code)
	expected := read[server.Expected](t, text)
	assert.True(t, expected.Learned)
	assert.Equal(t, 30, expected.Frames)
	assert.Positive(t, expected.Bytes)
	assert.Positive(t, expected.Seconds)
	pack[1].Name, pack[1].Format = "film", "mp4-h264"
	code, text, _ = s.ask("POST", "/api/reveals/"+reveal+"/outputs", server.Order{Outputs: pack})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, string(text), "two outputs are called")
}

func tone(t *testing.T) []byte {
	t.Helper()
	out := filepath.Join(t.TempDir(), "tone.wav")
	require.NoError(t, exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=f=330:d=3", out).Run())
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	return data
}

func (s *stand) form(project, kind, name string, data []byte) (int, []byte) {
	s.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	require.NoError(s, form.WriteField("kind", kind))
	part, err := form.CreateFormFile("file", name)
	require.NoError(s, err)
	_, err = part.Write(data)
	require.NoError(s, err)
	require.NoError(s, form.Close())
	code, text, _ := s.send(
		"POST",
		"/api/projects/"+project+"/attachments",
		&body,
		"Content-Type",
		form.FormDataContentType(),
	)
	return code, text
}

func (s *stand) attach(project, kind, name string, data []byte) store.Attachment {
	s.Helper()
	code, text := s.form(project, kind, name, data)
	require.Equal(s, http.StatusCreated, code, string(text))
	return read[store.Attachment](s.T, text)
}

func TestAttachmentsThatAreNone(t *testing.T) {
	s := newStand(t)
	p, _ := s.pump()
	bomb := []byte(
		"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\xff\xff\x00\x00\xff\xff\x08\x02\x00\x00\x00\x6b\x39\x9d\x8a",
	)
	playlist := []byte("#EXTM3U\nfile:///etc/passwd\n")
	for name, data := range map[string][]byte{"a.wav": []byte("not a sound"), "list.m3u8": playlist} {
		code, text := s.form(p.ID, "sound", name, data)
		assert.Equal(t, http.StatusUnprocessableEntity, code, name)
		assert.Contains(t, string(text), "no sound", name)
	}
	for name, data := range map[string][]byte{"bomb.png": bomb, "logo.png": []byte("GIF?")} {
		code, text := s.form(p.ID, "logo", name, data)
		assert.Equal(t, http.StatusUnprocessableEntity, code, "%s %s", name, text)
	}
	left, err := filepath.Glob(s.store.AttachmentPath("*"))
	require.NoError(t, err)
	assert.Empty(t, left, "what is refused leaves no file")
}

// Three worker processes share one film; each is killed again and again, twenty times in
// all. The film comes out complete, and the same to the byte as one made undisturbed.
func TestKilledWorkersCostNoFilm(t *testing.T) {
	kills := 20
	if testing.Short() {
		kills = 5
	}
	s := newStand(t)
	program := filepath.Join("..", "bin", "slowreveal")
	require.FileExists(t, program, "the program is not built (make build)")
	reveal := s.teardown()
	settings := release.Settings{Width: 256, Height: 144, Rate: 15}
	if testing.Short() {
		settings.To = 25 * core.Second
	}
	film := s.order(reveal, settings)[0]
	film, err := s.authoring.Output(context.Background(), film.ID)
	require.NoError(t, err)
	folder := filepath.Dir(filepath.Dir(s.store.OutputPath(film)))
	start := func() *exec.Cmd {
		c := exec.Command(program, "work", "--threads", "1", "--data", folder, "--database", testdb.URL())
		require.NoError(t, c.Start())
		t.Cleanup(func() { c.Process.Kill() })
		return c
	}
	random := rand.New(rand.NewPCG(20, 1))
	workers := []*exec.Cmd{start(), start(), start()}
	for k := range kills {
		time.Sleep(time.Duration(250+random.IntN(900)) * time.Millisecond)
		i := k % len(workers)
		require.NoError(t, workers[i].Process.Kill())
		workers[i].Wait()
		workers[i] = start()
	}
	s.finished(film.ID)
	assert.Eventually(
		t,
		func() bool { _, err := os.Stat(s.store.WorkFolder(film)); return os.IsNotExist(err) },
		10*time.Second,
		50*time.Millisecond,
		"its pieces go",
	)
	for _, c := range workers {
		require.NoError(t, c.Process.Kill())
		c.Wait()
	}
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-select_streams", "v", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0", s.store.OutputPath(film)).
		Output()
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprint(film.Frames), strings.Trim(string(out), ",\n "))
	s.work()
	calm := s.finished(s.order(reveal, settings)[0].ID)
	a, err := os.ReadFile(s.store.OutputPath(film))
	require.NoError(t, err)
	b, err := os.ReadFile(s.store.OutputPath(calm))
	require.NoError(t, err)
	assert.True(t, bytes.Equal(a, b), "%d and %d bytes", len(a), len(b))
}
