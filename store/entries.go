package store

import (
	"context"
	"fmt"
	"slices"
	"time"
)

// Entry is one line of a reveal's log.
type Entry struct {
	Version int64     `db:"version" json:"version"`
	Kind    string    `db:"kind" json:"kind"`
	Label   string    `db:"label" json:"label"`
	Command RawText   `db:"command" json:"command,omitempty"`
	Inverse RawText   `db:"inverse" json:"-"`
	MadeAt  time.Time `db:"made_at" json:"madeAt"`
	// Author is what who made it calls themselves; it proves nothing.
	Author string `db:"author" json:"author,omitempty"`
	// Key is the one that its page gave the edit, nil for none.
	Key *string `db:"key" json:"key,omitempty"`

	// Person is the code of who made it, Target the version of the entry that it reverses.
	Person string `db:"person" json:"-"`
	Target int64  `db:"target" json:"-"`
	// Own says that who asks has made it.
	Own bool `db:"-" json:"own,omitempty"`
}

const entryColumns = `version, kind, label, command, inverse, made_at, author, person, target, key`

// EntriesAfter lists what has happened to a reveal after a version.
func (q queries) EntriesAfter(ctx context.Context, reveal string, version int64) ([]Entry, error) {
	list := []Entry{}
	err := q.reader.SelectContext(
		ctx,
		&list,
		`select `+entryColumns+` from entries where reveal_id = $1 and version > $2 order by version`,
		reveal,
		version,
	)
	return list, err
}

// Entry returns one entry of a reveal's log.
func (q queries) Entry(ctx context.Context, reveal string, version int64) (e Entry, err error) {
	err = q.reader.GetContext(
		ctx,
		&e,
		`select `+entryColumns+` from entries where reveal_id = $1 and version = $2`,
		reveal,
		version,
	)
	return e, missing(err)
}

// KeysAmong tells which of the keys are in a reveal's log.
func (q queries) KeysAmong(ctx context.Context, reveal string, keys []string) ([]string, error) {
	var list []string
	keys = slices.DeleteFunc(slices.Clone(keys), func(key string) bool { return key == "" })
	if len(keys) == 0 {
		return nil, nil
	}
	err := q.reader.SelectContext(
		ctx,
		&list,
		`select key from entries where reveal_id = $1 and key = any($2::uuid[])`,
		reveal,
		keys,
	)
	return list, err
}

// Marks say what undo and redo would reverse for one person: versions of entries, 0 for nothing.
type Marks struct {
	UndoTo int64 `db:"undo_to" json:"undoTo"`
	RedoTo int64 `db:"redo_to" json:"redoTo"`
}

// NoVersion is behind every version.
const NoVersion = int64(1) << 62

// Marks finds what a person's undo and redo would reverse in a reveal, of entries before a version. What was undone can
// be redone until the person does something new.
func (q queries) Marks(ctx context.Context, reveal, person string, before int64) (m Marks, err error) {
	err = q.reader.GetContext(ctx, &m, `select
		coalesce((select max(version) from entries where reveal_id = $1 and person = $2 and not reversed and kind <> 'undo' and version < $3), 0) as undo_to,
		coalesce((select max(version) from entries where reveal_id = $1 and person = $2 and not reversed and kind = 'undo'
			and version > coalesce((select max(version) from entries where reveal_id = $1 and person = $2 and kind = 'do'), 0)), 0) as redo_to`,
		reveal, person, before)
	return m, err
}

// EachEntryAfter reads the entries after a version one by one, since there may be many; without when they were made and
// their keys. An error of look ends it.
func (tx *Tx) EachEntryAfter(ctx context.Context, reveal string, version int64, look func(e *Entry) error) error {
	rows, err := tx.sql.QueryxContext(ctx, `select version, target, author, person, label, command, inverse from entries
		where reveal_id = $1 and version > $2 order by version`, reveal, version)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		e := new(Entry)
		if err := rows.StructScan(e); err != nil {
			return err
		}
		if err := look(e); err != nil {
			return err
		}
	}
	return rows.Err()
}

// MarkReversed notes that an entry has been reversed by another one.
func (tx *Tx) MarkReversed(ctx context.Context, reveal string, version int64) error {
	_, err := tx.sql.ExecContext(
		ctx,
		`update entries set reversed = true where reveal_id = $1 and version = $2`,
		reveal,
		version,
	)
	return err
}

// Log appends an entry to a reveal's log, as its next version, and tells the others. The document itself is put by
// PutDocument.
func (tx *Tx) Log(ctx context.Context, r *StoredReveal, e *Entry) error {
	r.Version++
	e.Version, e.MadeAt = r.Version, time.Now()
	r.ChangedAt = e.MadeAt
	_, err := tx.sql.ExecContext(
		ctx,
		`insert into entries (reveal_id, version, kind, label, command, inverse, target, author, person, key)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
		r.ID,
		e.Version,
		e.Kind,
		e.Label,
		string(e.Command),
		string(e.Inverse),
		e.Target,
		e.Author,
		e.Person,
		e.Key,
	)
	if err != nil {
		return fmt.Errorf("writing the log: %w", err)
	}
	return tx.Notify(
		ctx,
		Event{Kind: "reveal", Project: r.ProjectID, ID: r.ID, Version: r.Version, Author: e.Author},
	)
}
