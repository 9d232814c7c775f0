package jobs

import (
	"context"
	"os"
	"strings"
	"testing"

	"github.com/jmoiron/sqlx"
	"github.com/sourcegraph/conc"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/authoring"
	"slowreveal/core/product"
	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/formats"
	"slowreveal/localdb/testdb"
	"slowreveal/release"
	"slowreveal/store"
)

func TestMain(m *testing.M) { os.Exit(testdb.Run(m)) }

var ctx = context.Background()

func ordered(t *testing.T) (*Queue, store.Output) {
	t.Helper()
	a := authoring.New(testdb.Open(t))
	q, err := OpenWorkers(a, 1)
	require.NoError(t, err)
	m := demo.Pump()
	p, err := a.CreateProject(ctx, "pump", "pump.glb", m)
	require.NoError(t, err)
	r, err := a.CreateReveal(ctx, p.ID, demo.Teardown(m.Assembly))
	require.NoError(t, err)
	list, err := q.Order(ctx, r.ID, "Ines", release.Settings{Width: 64, Height: 36, Rate: 2, To: 2 * reveal.Second})
	require.NoError(t, err)
	return q, list[0]
}

// A panic in a thread of the renderer, as anywhere else in making a segment, is tried three times; then the
// output ends and says why. Nothing takes it up again.
func TestAPanicEndsAnOutputInWords(t *testing.T) {
	q, o := ordered(t)
	w := newSegmentWorker(q, 1)
	tries := 0
	w.making = func(context.Context, store.Output, *store.Segment, release.Progress) error {
		tries++
		var threads conc.WaitGroup
		threads.Go(func() {
			var sheets []int
			_ = sheets[7]
		})
		threads.Wait()
		return nil
	}
	for range 6 {
		require.NoError(t, w.Work(ctx, nil))
		require.NoError(t, q.store.RequeueLost(ctx, q.notifyWorkers, q.enqueueImport))
	}
	assert.Equal(t, store.MostFailures, tries)
	now, err := q.store.Output(ctx, o.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Failed, now.State)
	assert.Contains(t, now.Message, "making part 1 (")
	assert.Contains(t, now.Message, "index out of range")
	assert.Less(t, strings.Count(now.Message, "\n"), 1, "people get the words, the log gets the stack")
}

// A worker that is lost again and again with the same segment, as by a lack of memory, is not replaced for
// ever.
func TestAPieceThatTakesItsWorkersAlongIsGivenUp(t *testing.T) {
	q, o := ordered(t)
	for k := 0; ; k++ {
		require.Less(t, k, 40)
		p, err := q.store.ClaimSegment(ctx)
		require.NoError(t, err)
		if p == nil {
			break
		}
		_, err = q.store.SQL().
			Exec(`update segments set beat_at = now() - interval '1 minute' where output_id = $1`, o.ID)
		require.NoError(t, err)
		require.NoError(t, q.store.RequeueLost(ctx, q.notifyWorkers, q.enqueueImport))
	}
	now, err := q.store.Output(ctx, o.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Failed, now.State)
	assert.Contains(t, now.Message, "may take more memory than there is")
}

// An import whose reader panics ends the same way.
func TestAPanicEndsAnImportInWords(t *testing.T) {
	q, _ := ordered(t)
	i := store.Import{ID: store.NewImport(), Name: "broken"}
	i.Source = i.ID
	n, err := q.store.PutFile(ctx, i.Source, "a.stl", strings.NewReader("solid a\nendsolid a\n"))
	require.NoError(t, err)
	i.Files = append(i.Files, store.File{Name: "a.stl", Bytes: n})
	i.Options, err = optionsText(formats.Options{})
	require.NoError(t, err)
	i, err = q.store.InsertImport(ctx, i, func(context.Context, *sqlx.Tx, string) (int64, error) { return 4711, nil })
	require.NoError(t, err)
	w := importWorker{
		store:   q.store,
		reading: func(context.Context, store.Import) (*product.Model, error) { panic("no such luck") },
	}
	for range store.MostFailures {
		w.take(ctx, i, i.JobID)
	}
	now, err := q.store.Import(ctx, i.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Failed, now.State)
	assert.Contains(t, now.Message, "no such luck")
}

// What the queue knows of is not told to it again, however often lost work is looked for; what it has lost is.
func TestTheQueueIsToldOfWaitingSegmentsOnce(t *testing.T) {
	q, o := ordered(t)
	defer q.Cancel(ctx, o.ID)
	told := 0
	count := func(_ context.Context, _ *sqlx.Tx, segments int) error { told += segments; return nil }
	for range 3 {
		require.NoError(t, q.store.RequeueLost(ctx, count, q.enqueueImport))
	}
	assert.Zero(t, told, "the jobs of the order are there")
	_, err := q.store.SQL().Exec(`delete from river_job where kind = $1`, store.SegmentJob)
	require.NoError(t, err)
	require.NoError(t, q.store.RequeueLost(ctx, count, q.enqueueImport))
	assert.Positive(t, told)
}
