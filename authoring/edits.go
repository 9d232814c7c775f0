package authoring

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
	"slowreveal/core/edit"
	"slowreveal/core/reveal"
	"slowreveal/store"
)

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
	Reveal store.StoredReveal
	// Missed is its log since the version that the edits were made on, with the edits themselves.
	Missed
	// Refused is the edit at which it ended, by its key, and Why: *store.Refused or *Stale. Those before
	// it are done, those behind it are not.
	Refused string
	Why     error
}

// Do applies edits that were made on a version, one after the other, in one transaction; they are in
// the database when it returns. What others have done since that version stays, and the edits come on
// top of it, as far as they do not touch the same things. An edit whose key is in the log already is
// not done again. When the first edit cannot be done, the error says why: *Stale that it was made on a
// version that has changed in the same place, *store.Refused that it is not possible.
func (s *Service) Do(ctx context.Context, id string, on On, edits ...Edit) (Outcome, error) {
	keys := make([]string, len(edits))
	for i := range edits {
		keys[i] = edits[i].Key
	}
	return s.change(ctx, id, on, keys, func(c *change) error { return c.all(ctx, edits) })
}

// all applies edits until one cannot be applied.
func (c *change) all(ctx context.Context, edits []Edit) error {
	d, err := c.begin(ctx, c.reveal)
	if err != nil {
		return err
	}
	others, err := others(c.before.Since, edits)
	if err != nil {
		return err
	}
	for i, e := range edits {
		if slices.Contains(c.before.Done, e.Key) {
			continue
		}
		err := d.apply(
			ctx,
			c.on,
			&store.Entry{Kind: "do", Label: edit.Describe(e.Command), Key: keyOrNil(e.Key)},
			e.Command,
			others,
		)
		var refused *store.Refused
		var clash *Stale
		switch {
		case err == nil:
			continue
		case errors.As(err, &clash):
			clash.Key = e.Key
		case !errors.As(err, &refused):
			return err
		}
		if i == 0 {
			return err
		}
		c.refused, c.why = e.Key, err
		break
	}
	return d.put(ctx)
}

func keyOrNil(key string) *string {
	if key == "" {
		return nil
	}
	return &key
}

// change is a reveal that is being changed: locked, with what has happened to it since the author's version.
type change struct {
	*unit
	on     On
	reveal *store.StoredReveal
	before Missed
	// refused is the edit at which it ended, and why.
	refused string
	why     error
}

// change is the one path by which a document changes: it waits for its turn, locks the reveal, and
// tells what has happened since the author's version, all in one transaction. keys are those of the edits.
func (s *Service) change(
	ctx context.Context,
	id string,
	on On,
	keys []string,
	do func(c *change) error,
) (Outcome, error) {
	done, err := s.Store.Turn(ctx, id)
	if err != nil {
		return Outcome{}, err
	}
	defer done()
	var out Outcome
	err = s.within(ctx, func(u *unit) error {
		c, err := u.take(ctx, id, on, keys)
		if err != nil {
			return err
		}
		if err := do(c); err != nil {
			var stale *Stale
			if errors.As(err, &stale) {
				stale.Missed = c.before
			}
			return err
		}
		out.Reveal, out.Refused, out.Why = *c.reveal, c.refused, c.why
		if out.Missed, err = u.missed(ctx, c.reveal, on); err != nil {
			return err
		}
		out.Done = c.before.Done
		out.Marks, err = u.Marks(ctx, id, on.Person, store.NoVersion)
		return err
	})
	return out, err
}

// take locks a reveal for its author; *Stale for one who is so far behind that nobody knows what their edits meant.
func (u *unit) take(ctx context.Context, id string, on On, keys []string) (*change, error) {
	project, err := u.ProjectOf(ctx, id)
	if err != nil {
		return nil, err
	}
	if err := u.HoldArrangement(ctx, project); err != nil {
		return nil, err
	}
	r, err := u.LockReveal(ctx, id)
	if err != nil {
		return nil, err
	}
	c := &change{unit: u, on: on, reveal: &r}
	if c.before, err = u.missed(ctx, &r, on); err != nil {
		return nil, err
	}
	if c.before.Done, err = u.KeysAmong(ctx, id, keys); err != nil {
		return nil, err
	}
	if c.before.Whole != nil {
		c.before.Marks, err = u.Marks(ctx, id, on.Person, store.NoVersion)
		return nil, errors.Join(err, &Stale{Missed: c.before})
	}
	return c, nil
}

// single makes one change that is chosen on the reveal as it is now, for the request's key once.
func (s *Service) single(
	ctx context.Context,
	id string,
	on On,
	choose func(c *change) (store.Entry, edit.Command, error),
) (Outcome, error) {
	key := store.KeyOf(ctx)
	return s.change(ctx, id, on, []string{key}, func(c *change) error {
		if len(c.before.Done) > 0 {
			return nil
		}
		entry, command, err := choose(c)
		if err != nil {
			return err
		}
		entry.Key = keyOrNil(key)
		return c.alter(ctx, c.reveal, on, &entry, command)
	})
}

// draft is a reveal with its document while it is being edited in a transaction.
type draft struct {
	*unit
	r        *store.StoredReveal
	doc      *reveal.Reveal
	assembly *assembly.Assembly
	changed  bool
}

func (u *unit) begin(ctx context.Context, r *store.StoredReveal) (*draft, error) {
	m, err := u.model(ctx, r.RevisionID)
	if err != nil {
		return nil, err
	}
	doc, err := reveal.Parse([]byte(r.Document))
	return &draft{unit: u, r: r, doc: doc, assembly: m.Assembly}, err
}

// alter makes one change of a reveal, whatever others have done.
func (u *unit) alter(ctx context.Context, r *store.StoredReveal, on On, entry *store.Entry, c edit.Command) error {
	d, err := u.begin(ctx, r)
	if err != nil {
		return err
	}
	if err := d.apply(ctx, on, entry, c, nil); err != nil {
		return err
	}
	return d.put(ctx)
}

// apply applies a command on top of what others have done, and logs it.
func (d *draft) apply(ctx context.Context, on On, entry *store.Entry, c edit.Command, others []other) error {
	inverse, err := d.do(c, others)
	if err != nil {
		return err
	}
	command, err := json.Marshal(c)
	if err != nil {
		return err
	}
	back, err := json.Marshal(inverse)
	if err != nil {
		return err
	}
	entry.Command, entry.Inverse = store.RawText(command), store.RawText(back)
	entry.Author, entry.Person = on.Author, on.Person
	d.r.Title, d.changed = d.doc.Title, true
	return d.Log(ctx, d.r, entry)
}

// do applies a command on top of what others have done. On an error the document is as it was:
// *Stale when the command has to do with what others have changed, *store.Refused when it is not possible.
func (d *draft) do(c edit.Command, others []other) (edit.Command, error) {
	inverse, impossible := edit.Do(d.doc, d.assembly, c)
	mine := edit.Touches(c, inverse)
	at := slices.IndexFunc(others, func(o other) bool { return mine.Clashes(o.Touch) })
	switch {
	case at < 0 && impossible != nil:
		return inverse, &store.Refused{Cause: impossible}
	case at < 0:
		return inverse, nil
	case impossible == nil:
		if _, err := edit.Do(d.doc, d.assembly, inverse); err != nil {
			return inverse, fmt.Errorf("taking an edit back: %w", err)
		}
	}
	return inverse, &Stale{By: others[at].Author}
}

// put stores the document when something was logged.
func (d *draft) put(ctx context.Context) error {
	if !d.changed {
		return nil
	}
	d.r.Document = store.RawText(reveal.Write(d.doc))
	return d.PutDocument(ctx, d.r)
}
