package main

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/encode"
	"slowreveal/formats/gltf"
	"slowreveal/release"
	"slowreveal/server"
	"slowreveal/store"
)

// diskFull makes a film and imports files where there is no room: both end in words, nothing is left
// behind, and the server goes on.
func diskFull(ctx context.Context, n scale) (*result, error) {
	out := &result{name: "outputs and imports on a full disk (a file system of 1 MB)"}
	return onRig(ctx, out, 1, func(r *rig, ids []string) error {
		films := filepath.Join(r.data, "films")
		if err := syscall.Mount("tmpfs", films, "tmpfs", 0, "size=1m"); err != nil {
			out.figures = "left out: no file system can be mounted here (" + err.Error() + ")"
			return nil
		}
		defer syscall.Unmount(films, syscall.MNT_DETACH) // the server may still look into it
		list, err := order(
			r,
			ids[0],
			release.Settings{Width: 960, Height: 540, Rate: 30, Purpose: encode.Archive, To: 10 * reveal.Second},
		)
		if err != nil {
			return err
		}
		_, failure := r.made(ctx, list[0].ID, 3*time.Minute)
		out.check(
			failure != nil && strings.Contains(failure.Error(), "disk is full"),
			"a film on a full disk: %v",
			failure,
		)
		var left []string
		filepath.WalkDir(films, func(path string, d fs.DirEntry, _ error) error {
			if d != nil && !d.IsDir() {
				left = append(left, filepath.Base(path))
			}
			return nil
		})
		out.check(len(left) == 0, "left behind: %v", left)
		status, text, err := upload(r, "/attachments", "tone.wav", bytes.Repeat([]byte("x"), 8<<20), ids[0])
		if err != nil {
			return err
		}
		out.check(status >= 400 && !strings.Contains(text, "SQL"), "an attachment on a full disk: %d %s", status, text)
		out.check(r.healthy(ctx, 5*time.Second) == nil, "the server does not answer any more")
		out.figures = "the film ends in “the disk is full”, no file is left, the server goes on"
		return nil
	})
}

// upload sends a file of the reveal's project.
func upload(r *rig, path, name string, data []byte, revealID string) (int, string, error) {
	v, err := r.store.Reveal(context.Background(), revealID)
	if err != nil {
		return 0, "", err
	}
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	form.WriteField("kind", "sound")
	w, err := form.CreateFormFile("file", name)
	if err != nil {
		return 0, "", err
	}
	w.Write(data)
	form.Close()
	reply, err := http.Post(r.url("/api/projects/"+v.ProjectID+path), form.FormDataContentType(), &b)
	if err != nil {
		return 0, "", err
	}
	defer reply.Body.Close()
	var said bytes.Buffer
	said.ReadFrom(reply.Body)
	return reply.StatusCode, said.String(), nil
}

// blobsDamaged damages stored shapes, and takes some away: it is said in words, nothing wrong is served,
// and importing the same file once more mends all of it.
func blobsDamaged(ctx context.Context, n scale) (*result, error) {
	out := &result{name: fmt.Sprintf("%d stored shapes damaged or removed", n.damaged)}
	return onRig(ctx, out, 1, func(r *rig, ids []string) error {
		v, err := r.store.Reveal(ctx, ids[0])
		if err != nil {
			return err
		}
		address := r.url("/api/revisions/" + v.RevisionID + "/geometry")
		whole, err := ask(http.DefaultClient, "GET", address, nil)
		if err != nil {
			return err
		}
		a, _, err := r.authoring.Arranged(ctx, v.RevisionID)
		if err != nil {
			return err
		}
		random, said := rand.New(rand.NewPCG(4, 4)), 0
		for k := range n.damaged {
			hash := a.Shapes[random.IntN(len(a.Shapes))].Hash
			path := filepath.Join(r.data, "blobs", "shapes", hash[:2], hash)
			if err := damage(path, k, random); err != nil {
				return err
			}
			if err := forget(r, hash); err != nil {
				return err
			}
			bad, err := ask(http.DefaultClient, "GET", address, nil)
			if err != nil {
				out.fail("a damaged shape breaks the connection: %v", err)
				continue
			}
			if bad.status == http.StatusInternalServerError &&
				strings.Contains(string(bad.body), "import the same file again") &&
				!strings.Contains(bad.header.Get("Cache-Control"), "immutable") {
				said++
			}
			if _, err := r.authoring.CreateProject(ctx, "Once more", "dp-40.glb", demo.Pump()); err != nil {
				return err
			}
			mended, err := ask(http.DefaultClient, "GET", address, nil)
			if err != nil {
				return err
			}
			out.check(
				mended.status == 200 && bytes.Equal(mended.body, whole.body),
				"damage %d is not mended: %d",
				k,
				mended.status,
			)
		}
		out.check(said == n.damaged, "only %d of %d were said in words", said, n.damaged)
		out.figures = fmt.Sprintf("%d said in words, all mended by importing the file again", said)
		return nil
	})
}

// forget takes away what was found from a shape earlier, so that the stored shape itself is asked for.
func forget(r *rig, hash string) error {
	found, err := filepath.Glob(filepath.Join(r.data, "blobs", "drawn-*", hash[:2], hash))
	for _, path := range found {
		err = errors.Join(err, os.Remove(path))
	}
	return err
}

func damage(path string, k int, random *rand.Rand) error {
	switch k % 3 {
	case 0:
		return os.Remove(path)
	case 1:
		return os.Truncate(path, 40)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	data[random.IntN(len(data))] ^= 0x55
	return os.WriteFile(path, data, 0o600)
}

// bound is the memory that the server may have in the exercise of hostile input, MB.
const bound = 1200

// hostileInput sends bodies and files that are made to do harm: each is answered in words, and the server
// stays within its memory.
func hostileInput(ctx context.Context, n scale) (*result, error) {
	out := &result{
		name: fmt.Sprintf("%d hostile bodies and files, GOMEMLIMIT=600MiB, address space of 4 GiB", n.hostile),
	}
	return onRig(ctx, out, 1, func(r *rig, ids []string) error {
		r.kill()
		r.env, r.wrap = []string{"GOMEMLIMIT=600MiB"}, []string{"prlimit", "--as=4294967296"}
		if err := r.start(ctx); err != nil {
			return err
		}
		random, answered := rand.New(rand.NewPCG(6, 6)), map[int]int{}
		glb, err := gltf.Write(demo.Pump())
		if err != nil {
			return err
		}
		for k := range n.hostile {
			var status int
			var text string
			if k%2 == 0 {
				body := hostileBody(k/2, random)
				a, err := askRaw(r.url("/api/reveals/"+ids[0]+"/commands"), body)
				if err != nil {
					out.fail("body %d breaks the connection: %v", k, err)
					continue
				}
				status, text = a.status, string(a.body)
			} else if status, text, err = sendFile(r, k/2, glb, random); err != nil {
				out.fail("file %d breaks the connection: %v", k, err)
				continue
			}
			answered[status/100]++
			var p server.Problem
			out.check(
				status < 500 || status == http.StatusServiceUnavailable,
				"input %d is answered %d %s",
				k,
				status,
				text,
			)
			if status >= 400 {
				out.check(
					json.Unmarshal([]byte(text), &p) == nil && p.Message != "" &&
						!strings.Contains(p.Message, "SQLSTATE"),
					"input %d is answered without words: %s",
					k,
					text,
				)
			}
		}
		if err := r.imported(ctx, 3*time.Minute); err != nil {
			return err
		}
		peak := memoryOf(r.server.Process.Pid)
		out.check(peak < bound, "the server took %d MB", peak)
		out.check(r.healthy(ctx, 10*time.Second) == nil, "the server does not answer any more")
		out.figures = fmt.Sprintf(
			"%d taken, %d refused in words; the server's most memory %d MB",
			answered[2],
			answered[4],
			peak,
		)
		return nil
	})
}

// imported waits until no import is on its way.
func (r *rig) imported(ctx context.Context, within time.Duration) error {
	for end := time.Now().Add(within); time.Now().Before(end) && ctx.Err() == nil; time.Sleep(100 * time.Millisecond) {
		list, err := r.store.Imports(ctx)
		if err != nil {
			return err
		}
		busy := 0
		for _, i := range list {
			if i.State == store.Waiting || i.State == store.Running {
				busy++
			}
		}
		if busy == 0 {
			return nil
		}
	}
	return fmt.Errorf("imports hang")
}

// memoryOf is the most memory that a process has had, MB (VmHWM of proc(5)).
func memoryOf(pid int) int {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return -1
	}
	for line := range strings.SplitSeq(string(text), "\n") {
		if rest, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			kb, _ := strconv.Atoi(strings.Fields(rest)[0])
			return kb >> 10
		}
	}
	return -1
}

func askRaw(url string, body []byte) (answer, error) {
	q, err := http.NewRequest("POST", url, bytes.NewReader(body))
	if err != nil {
		return answer{}, err
	}
	q.Header.Set("Content-Type", "application/json")
	reply, err := http.DefaultClient.Do(q)
	if err != nil {
		return answer{}, err
	}
	defer reply.Body.Close()
	var said bytes.Buffer
	_, err = said.ReadFrom(reply.Body)
	return answer{reply.StatusCode, said.Bytes(), reply.Header}, err
}

func hostileBody(k int, random *rand.Rand) []byte {
	wrap := func(command string) []byte { return []byte(`{"version":0,"edits":[{"command":` + command + `}]}`) }
	switch k % 10 {
	case 0:
		return []byte(strings.Repeat(`{"version":`, 200_000))
	case 1:
		return wrap(strings.Repeat(`{"op":"batch","commands":[`, 5000) + strings.Repeat(`]}`, 5000))
	case 2:
		return wrap(
			`{"op":"batch","commands":[` + strings.TrimSuffix(
				strings.Repeat(`{"op":"setTitle","title":"x"},`, 30_000),
				",",
			) + `]}`,
		)
	case 3:
		return bytes.Repeat([]byte("x"), 12<<20)
	case 4:
		return wrap(`{"op":"setTitle","title":"` + strings.Repeat("a", 7<<20) + `"}`)
	case 5:
		return wrap(`{"op":"setTitle","title":"\u0000"}`)
	case 6:
		return wrap(`{"op":"insertStep","step":{"id":"s","title":"s","length":9223372036854775807}}`)
	case 7:
		return wrap(`{"op":"setFrame","frame":{"width":1e300,"height":-1,"rate":0}}`)
	case 8:
		return wrap(
			`{"op":"shiftCues","cueIds":[` + strings.TrimSuffix(
				strings.Repeat(`"cue-1",`, 50_000),
				",",
			) + `],"by":-9223372036854775808}`,
		)
	}
	b := make([]byte, 1+random.IntN(5000))
	for i := range b {
		b[i] = byte(random.IntN(256))
	}
	return b
}

// sendFile sends a hostile file, as an import or as an attachment.
func sendFile(r *rig, k int, glb []byte, random *rand.Rand) (int, string, error) {
	be := binary.BigEndian
	kind, name, data := "files", "x.glb", bytes.Clone(glb)
	switch k % 8 {
	case 0: // a GLB with numbers that are not its own
		for range 1 + random.IntN(20) {
			data[12+random.IntN(3000)] = byte(random.IntN(256))
		}
	case 1:
		data = data[:random.IntN(len(data))]
	case 2: // millions of triangles that are not there
		name, data = "x.stl", append(make([]byte, 80), 0xff, 0xff, 0xff, 0x0f)
	case 3: // one face of very many corners
		var b strings.Builder
		for i := range 40_000 {
			fmt.Fprintf(&b, "v %d %d 0\n", i, i*i%977)
		}
		b.WriteString("f")
		for i := range 40_000 {
			fmt.Fprintf(&b, " %d", i+1)
		}
		name, data = "x.obj", []byte(b.String())
	case 4: // a font whose tables say that they have gigabytes
		kind, name = "font", "x.ttf"
		data = append(be.AppendUint16([]byte("\x00\x01\x00\x00"), 24), make([]byte, 6)...)
		for range 24 {
			data = be.AppendUint32(be.AppendUint32(be.AppendUint32(append(data, "glyf"...), 0), 12), 0xFFFFFFF0)
		}
	case 5: // a picture that says that it has four thousand million pixels
		kind, name, data = "logo", "x.png", []byte(
			"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\xff\xff\x00\x00\xff\xff\x08\x02\x00\x00\x00\x6b\x39\x9d\x8a",
		)
	case 6:
		kind, name, data = "sound", "x.wav", append(
			[]byte("RIFF\xff\xff\xff\xffWAVEfmt \xff\xff\xff\x7f"),
			data[:2000]...)
	case 7: // a ZIP that grows a thousandfold
		name, data = "x.3mf", append([]byte("PK\x03\x04"), data[:5000]...)
	}
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	path, field := "/api/imports", "files"
	if kind != "files" {
		projects, err := r.store.Projects(context.Background())
		if err != nil {
			return 0, "", err
		}
		path, field = "/api/projects/"+projects[len(projects)-1].ID+"/attachments", "file"
		form.WriteField("kind", kind)
	}
	w, err := form.CreateFormFile(field, name)
	if err != nil {
		return 0, "", err
	}
	w.Write(data)
	form.Close()
	reply, err := http.Post(r.url(path), form.FormDataContentType(), &b)
	if err != nil {
		return 0, "", err
	}
	defer reply.Body.Close()
	var said bytes.Buffer
	_, err = said.ReadFrom(reply.Body)
	return reply.StatusCode, said.String(), err
}
