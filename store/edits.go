package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
)

// Missed is what has happened to a reveal since a version that an editor knows.
type Missed struct {
	Current int64
	// Since are the entries that the editor does not know, all of them. When they are too many,
	// Whole is the reveal as it is now instead.
	Since []Entry
	Whole *StoredReveal
	// Done are the keys of those edits of the request that are in the log already.
	Done []string
	// Marks are those of who asks.
	Marks
}

// Stale says that an edit was made on a version that is no longer current, and that it does not
// go together with what has happened since.
type Stale struct {
	Missed
	// Key is that of the edit, By who has changed the same thing.
	Key, By string
}

// Error names the current version.
func (s *Stale) Error() string {
	if s.Key != "" {
		who := s.By
		if who == "" {
			who = "somebody else"
		}
		return who + " has changed the same thing meanwhile"
	}
	return fmt.Sprintf("this has changed meanwhile: it is at version %d", s.Current)
}

// mostEntries bounds how much of a log is sent at once.
const mostEntries = 1000

// Since says what has happened to a reveal after the version that somebody knows, and how it stands.
func (s *Store) Since(ctx context.Context, id string, on On) (out Outcome, err error) {
	err = s.within(ctx, func(tx *Tx) error {
		if err := tx.GetContext(ctx, &out.Reveal, `select * from reveals where id = $1 and deleted_at is null for share`, id); err != nil {
			return missing(err)
		}
		if out.Missed, err = since(ctx, tx, &out.Reveal, on); err != nil {
			return err
		}
		out.Marks, err = marks(ctx, tx, id, on.Person, noVersion)
		return err
	})
	return out, err
}

// since is what has happened to a locked reveal after a version.
func since(ctx context.Context, tx *Tx, r *StoredReveal, on On) (Missed, error) {
	m := Missed{Current: r.Version, Since: []Entry{}}
	if r.Version-on.Base > mostEntries || on.Base > r.Version {
		whole := *r
		m.Whole = &whole
		return m, nil
	}
	err := tx.SelectContext(
		ctx,
		&m.Since,
		`select `+entryColumns+` from entries where reveal_id = $1 and version > $2 order by version`,
		r.ID,
		on.Base,
	)
	for i := range m.Since {
		m.Since[i].Own = m.Since[i].Person == on.Person
	}
	return m, err
}

// On is who changes a reveal, and on which version of it.
type On struct {
	Base int64
	// Author is what they call themselves. Person is a code that their browser has made up, by which
	// their changes are told from those of others of the same name, or of none.
	Author, Person string
}

// Edit is one command with the key that its page gave it: a UUID, "" for none.
type Edit struct {
	Key     string
	Command edit.Command
}

// Outcome is what came of changing a reveal.
type Outcome struct {
	// Reveal is how it stands now.
	Reveal StoredReveal
	// Missed is its log since the version that the edits were made on, with the edits themselves.
	Missed
	// Refused is the edit at which it ended, by its key, and Why: *Refused or *Stale. Those before
	// it are done, those behind it are not.
	Refused string
	Why     error
}

// Do applies edits that were made on a version, one after the other, in one transaction; they are in
// the database when it returns. What others have done since that version stays, and the edits come on
// top of it, as far as they do not touch the same things. An edit whose key is in the log already is
// not done again. When the first edit cannot be done, the error says why: *Stale that it was made on a
// version that has changed in the same place, *Refused that it is not possible.
func (s *Store) Do(ctx context.Context, id string, on On, edits ...Edit) (Outcome, error) {
	keys := make([]string, len(edits))
	for i := range edits {
		keys[i] = edits[i].Key
	}
	return s.change(
		ctx,
		id,
		on,
		keys,
		func(tx *Tx, r *StoredReveal, since *Missed) (refused string, why error, err error) {
			b, err := begin(ctx, tx, r)
			if err != nil {
				return "", nil, err
			}
			others, err := others(since, edits)
			if err != nil {
				return "", nil, err
			}
			for i, e := range edits {
				if slices.Contains(since.Done, e.Key) {
					continue
				}
				inverse, err := b.do(e.Command, others)
				if err == nil {
					err = b.log(
						ctx,
						on,
						&Entry{Kind: "do", Label: edit.Describe(e.Command), Key: keyOrNil(e.Key)},
						e.Command,
						inverse,
					)
				}
				var refused *Refused
				var clash *Stale
				switch {
				case err == nil:
					continue
				case errors.As(err, &clash):
					clash.Key = e.Key
				case !errors.As(err, &refused):
					return "", nil, err
				}
				if i == 0 {
					return "", nil, err
				}
				return e.Key, err, b.store(ctx)
			}
			return "", nil, b.store(ctx)
		},
	)
}

func keyOrNil(key string) *string {
	if key == "" {
		return nil
	}
	return &key
}

// doneOf tells which of the keys are in a reveal's log.
func doneOf(ctx context.Context, tx *Tx, reveal string, keys []string) ([]string, error) {
	var list []string
	keys = slices.DeleteFunc(slices.Clone(keys), func(key string) bool { return key == "" })
	if len(keys) == 0 {
		return nil, nil
	}
	err := tx.SelectContext(
		ctx,
		&list,
		`select key from entries where reveal_id = $1 and key = any($2::uuid[])`,
		reveal,
		keys,
	)
	return list, err
}

// other is an entry that somebody else may not have known, and what it touches.
type other struct {
	*Entry
	edit.Touch
}

// touching reads what an entry touches, and the command that takes it back.
func touching(e *Entry) (other, edit.Command, error) {
	command, err := edit.Parse([]byte(e.Command))
	if err != nil {
		return other{}, command, err
	}
	inverse, err := edit.Parse([]byte(e.Inverse))
	return other{e, edit.Touches(command, inverse)}, inverse, err
}

// others lists what others have done meanwhile.
func others(since *Missed, mine []Edit) ([]other, error) {
	own := map[string]bool{}
	for _, e := range mine {
		own[e.Key] = true
	}
	var list []other
	for i := range since.Since {
		e := &since.Since[i]
		if e.Key != nil && own[*e.Key] {
			continue
		}
		o, _, err := touching(e)
		if err != nil {
			return nil, err
		}
		list = append(list, o)
	}
	return list, nil
}

// single makes one change that is chosen on the reveal as it is now, for the request's key once.
func (s *Store) single(
	ctx context.Context,
	id string,
	on On,
	choose func(*Tx, *StoredReveal) (Entry, edit.Command, error),
) (Outcome, error) {
	key := KeyOf(ctx)
	return s.change(ctx, id, on, []string{key}, func(tx *Tx, r *StoredReveal, since *Missed) (string, error, error) {
		if len(since.Done) > 0 {
			return "", nil, nil
		}
		entry, c, err := choose(tx, r)
		if err != nil {
			return "", nil, err
		}
		b, err := begin(ctx, tx, r)
		if err != nil {
			return "", nil, err
		}
		inverse, err := b.do(c, nil)
		if err != nil {
			return "", nil, err
		}
		entry.Key = keyOrNil(key)
		if err := b.log(ctx, on, &entry, c, inverse); err != nil {
			return "", nil, err
		}
		return "", nil, b.store(ctx)
	})
}

// change is the one path by which a document changes: it waits for its turn, locks the reveal, and
// tells what has happened since the editor's version, all in one transaction.
func (s *Store) change(
	ctx context.Context,
	id string,
	on On,
	keys []string,
	do func(*Tx, *StoredReveal, *Missed) (refused string, why error, err error),
) (Outcome, error) {
	done, err := s.turns.take(ctx, id)
	if err != nil {
		return Outcome{}, err
	}
	defer done()
	var out Outcome
	err = s.within(ctx, func(tx *Tx) error {
		var project string
		if err := tx.GetContext(ctx, &project, `select project_id from reveals where id = $1`, id); err != nil {
			return missing(err)
		}
		if err := holdArrangement(ctx, tx, project); err != nil {
			return err
		}
		if err := tx.GetContext(ctx, &out.Reveal, `select * from reveals where id = $1 and deleted_at is null for no key update`, id); err != nil {
			return missing(err)
		}
		before, err := since(ctx, tx, &out.Reveal, on)
		if err != nil {
			return err
		}
		if before.Done, err = doneOf(ctx, tx, id, keys); err != nil {
			return err
		}
		if before.Whole != nil { // so far behind that nobody knows what the edits meant
			before.Marks, err = marks(ctx, tx, id, on.Person, noVersion)
			return errors.Join(err, &Stale{Missed: before})
		}
		if out.Refused, out.Why, err = do(tx, &out.Reveal, &before); err != nil {
			var stale *Stale
			if errors.As(err, &stale) {
				stale.Missed = before
			}
			return err
		}
		if out.Missed, err = since(ctx, tx, &out.Reveal, on); err != nil {
			return err
		}
		out.Done = before.Done
		out.Marks, err = marks(ctx, tx, id, on.Person, noVersion)
		return err
	})
	return out, err
}

// draft is a reveal with its document while it is being edited in a transaction.
type draft struct {
	tx       *Tx
	r        *StoredReveal
	doc      *reveal.Reveal
	assembly *assembly.Assembly
	changed  bool
}

func begin(ctx context.Context, tx *Tx, r *StoredReveal) (*draft, error) {
	m, err := tx.models.at(ctx, tx, r.RevisionID, false)
	if err != nil {
		return nil, err
	}
	doc, err := reveal.Parse([]byte(r.Document))
	return &draft{tx: tx, r: r, doc: doc, assembly: m.Assembly}, err
}

// do applies a command on top of what others have done. On an error the document is as it was:
// *Stale when the command has to do with what others have changed, *Refused when it is not possible.
func (b *draft) do(c edit.Command, others []other) (edit.Command, error) {
	inverse, impossible := edit.Do(b.doc, b.assembly, c)
	mine := edit.Touches(c, inverse)
	at := slices.IndexFunc(others, func(o other) bool { return mine.Clashes(o.Touch) })
	switch {
	case at < 0 && impossible != nil:
		return inverse, &Refused{impossible}
	case at < 0:
		return inverse, nil
	case impossible == nil:
		if _, err := edit.Do(b.doc, b.assembly, inverse); err != nil {
			return inverse, fmt.Errorf("taking an edit back: %w", err)
		}
	}
	return inverse, &Stale{By: others[at].Author}
}

// log appends a command that was applied.
func (b *draft) log(ctx context.Context, on On, entry *Entry, c, inverse edit.Command) error {
	command, err := json.Marshal(c)
	if err != nil {
		return err
	}
	back, err := json.Marshal(inverse)
	if err != nil {
		return err
	}
	r := b.r
	r.Version++
	b.changed = true
	entry.Version, entry.Command, entry.Inverse, entry.MadeAt = r.Version, RawText(command), RawText(back), time.Now()
	entry.Author, entry.Person = on.Author, on.Person
	r.Title, r.ChangedAt = b.doc.Title, entry.MadeAt
	_, err = b.tx.ExecContext(
		ctx,
		`insert into entries (reveal_id, version, kind, label, command, inverse, target, author, person, key)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
		r.ID,
		entry.Version,
		entry.Kind,
		entry.Label,
		string(command),
		string(back),
		entry.Target,
		entry.Author,
		entry.Person,
		entry.Key,
	)
	if err != nil {
		return fmt.Errorf("writing the log: %w", err)
	}
	return notify(
		ctx,
		b.tx,
		Event{Kind: "reveal", Project: r.ProjectID, ID: r.ID, Version: r.Version, Author: entry.Author},
	)
}

// store writes the document when something was logged.
func (b *draft) store(ctx context.Context) error {
	if !b.changed {
		return nil
	}
	r := b.r
	r.Document = RawText(reveal.Write(b.doc))
	_, err := b.tx.ExecContext(
		ctx,
		`update reveals set document = $2, title = $3, version = $4, changed_at = now() where id = $1`,
		r.ID,
		string(r.Document),
		r.Title,
		r.Version,
	)
	if err != nil {
		return fmt.Errorf("storing the document: %w", err)
	}
	return nil
}
