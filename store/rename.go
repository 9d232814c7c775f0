package store

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"github.com/pressly/goose/v3"

	"slowreveal/core/reveal"
)

// renaming is the migration to the second format of reveals: what earlier versions stored is rewritten in this
// one's words.
var renaming = goose.NewGoMigration(10, &goose.GoFunc{RunTx: rename}, &goose.GoFunc{RunTx: renameBack})

// stored are the columns with JSON in them, by table, and how each is rewritten.
var stored = []struct {
	table   string
	columns []string
	rewrite func([]byte) ([]byte, error)
}{
	{"reveals", []string{"document"}, reveal.Upgrade},
	{"versions", []string{"document"}, reveal.Upgrade},
	{"entries", []string{"command", "inverse"}, reveal.Upgrade},
	{"outputs", []string{"document", "joined"}, reveal.Upgrade},
	{"outputs", []string{"settings"}, settingsNames.Rewrite},
	{"presets", []string{"settings"}, settingsNames.Rewrite},
	{"revisions", []string{"assembly"}, submeshNames.Rewrite},
	{"outputs", []string{"edits"}, submeshNames.Rewrite},
	{"arrangements", []string{"edits", "undone"}, submeshNames.Rewrite},
}

func rename(ctx context.Context, tx *sql.Tx) error {
	for _, s := range stored {
		if err := rewrite(ctx, tx, s.table, s.columns, s.rewrite); err != nil {
			return fmt.Errorf("rewriting %s: %w", s.table, err)
		}
	}
	if _, err := tx.ExecContext(ctx, `alter table pieces rename to segments`); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `delete from receipts`); err != nil { // nobody asks for old answers
		return err
	}
	var queue sql.NullString
	if err := tx.QueryRowContext(ctx, `select to_regclass('river_job')::text`).Scan(&queue); err != nil ||
		!queue.Valid {
		return err
	}
	_, err := tx.ExecContext(ctx, `update river_job set kind = 'segment' where kind = 'piece'`)
	return err
}

// renameBack gives tables their names back; what is in them stays in the new words, which an earlier program does not
// read.
func renameBack(ctx context.Context, tx *sql.Tx) error {
	_, err := tx.ExecContext(ctx, `alter table segments rename to pieces`)
	return err
}

// rewrite rewrites columns of all rows of a table. Neither name comes from outside.
func rewrite(ctx context.Context, tx *sql.Tx, table string, columns []string, by func([]byte) ([]byte, error)) error {
	rows, err := tx.QueryContext(ctx, `select ctid::text, `+strings.Join(columns, ", ")+` from `+table)
	if err != nil {
		return err
	}
	defer rows.Close()
	var all [][]string
	for rows.Next() {
		row := make([]string, 1+len(columns))
		places := make([]any, len(row))
		for i := range row {
			places[i] = &row[i]
		}
		if err := rows.Scan(places...); err != nil {
			return err
		}
		all = append(all, row)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	sets := make([]string, len(columns))
	for i, c := range columns {
		sets[i] = fmt.Sprintf("%s = $%d", c, i+2)
	}
	for _, row := range all {
		values := []any{row[0]}
		for _, text := range row[1:] {
			now, err := by([]byte(text))
			if err != nil {
				return err
			}
			values = append(values, string(now))
		}
		_, err := tx.ExecContext(
			ctx,
			`update `+table+` set `+strings.Join(sets, ", ")+` where ctid = $1::tid`,
			values...)
		if err != nil {
			return err
		}
	}
	return nil
}

// settingsNames are what outputs are ordered with, submeshNames what assemblies and arrangements have.
var (
	settingsNames = reveal.Names{
		Fields: map[string]string{
			"slowed": "ntsc", "backward": "reverse", "blur": "shutterSamples", "deep": "sixteenBits",
			"length": "duration", "lens": "focalLength", "parallel": "orthographic",
		},
		Values: map[string]map[string]string{
			"background": {"clear": "transparent"},
			"kind":       {"ground": "background"},
		},
	}
	submeshNames = reveal.Names{Fields: map[string]string{"patches": "submeshes"}}
)
