package localdb_test

import (
	"context"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/localdb"
)

func folder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "slowreveal-localdb-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	return filepath.Join(dir, "postgres")
}

// c0 connects when it is first used.
func c0(url string) *sqlx.DB {
	db, err := sqlx.Open("pgx", url)
	if err != nil {
		panic(err)
	}
	db.SetMaxIdleConns(0)
	return db
}

func TestAServerOfOnesOwn(t *testing.T) {
	ctx := context.Background()
	dir := folder(t)
	db, err := localdb.Start(ctx, dir)
	require.NoError(t, err)
	defer db.Stop(ctx)
	u, err := url.Parse(db.URL)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(u.Host, "127.0.0.1:"))

	c, err := sqlx.Connect("pgx", db.URL)
	require.NoError(t, err)
	_, err = c.Exec(`create table t (n int); insert into t values (7)`)
	require.NoError(t, err)
	var listens string
	require.NoError(t, c.Get(&listens, `show listen_addresses`))
	assert.Equal(t, "127.0.0.1", listens)
	require.NoError(t, c.Close())

	wrong := *u
	wrong.User = url.UserPassword("slowreveal", "guess")
	_, err = sqlx.Connect("pgx", wrong.String())
	assert.Error(t, err, "it wants its password even on loopback")

	again, err := localdb.Start(ctx, dir)
	require.NoError(t, err)
	assert.Equal(t, db.URL, again.URL, "a running server is used as it is")

	require.NoError(t, again.Stop(ctx))
	_, err = c0(db.URL).Exec(`select 1`)
	assert.NoError(t, err, "who leaves does not stop it for others")

	require.NoError(t, db.Stop(ctx))
	_, err = c0(db.URL).Exec(`select 1`)
	assert.Error(t, err, "the last one stops it")
	third, err := localdb.Start(ctx, dir)
	require.NoError(t, err)
	defer third.Stop(ctx)
	c, err = sqlx.Connect("pgx", third.URL)
	require.NoError(t, err)
	defer c.Close()
	var n int
	require.NoError(t, c.Get(&n, `select n from t`))
	assert.Equal(t, 7, n, "what was stored is there after a stop")
	info, err := os.Stat(filepath.Join(dir, "password"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
}

// pid is the process of the server in a folder.
func pid(t *testing.T, dir string) int {
	t.Helper()
	text, err := os.ReadFile(filepath.Join(dir, "data", "postmaster.pid"))
	require.NoError(t, err)
	n, err := strconv.Atoi(strings.SplitN(string(text), "\n", 2)[0])
	require.NoError(t, err)
	return n
}

func TestAServerThatCrashesIsStartedAgainWhereItWas(t *testing.T) {
	ctx := context.Background()
	dir := folder(t)
	db, err := localdb.Start(ctx, dir)
	require.NoError(t, err)
	defer db.Stop(ctx)
	db.Watch()
	c := c0(db.URL)
	_, err = c.Exec(`create table t (n int); insert into t values (7)`)
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid(t, dir), syscall.SIGKILL))
	var n int
	require.Eventually(
		t,
		func() bool { return c.Get(&n, `select n from t`) == nil },
		30*time.Second,
		100*time.Millisecond,
	)
	assert.Equal(t, 7, n)
}
