package authoring

import (
	"context"
	"fmt"

	"slowreveal/core/edit"
	"slowreveal/store"
)

// Missed is what has happened to a reveal since a version that an author knows.
type Missed struct {
	Current int64
	// Since are the entries that the author does not know, all of them. When they are too many,
	// Whole is the reveal as it is now instead.
	Since []store.Entry
	Whole *store.StoredReveal
	// Done are the keys of those edits of the request that are in the log already.
	Done []string
	// Marks are those of who asks.
	store.Marks
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
func (s *Service) Since(ctx context.Context, id string, on On) (out Outcome, err error) {
	err = s.within(ctx, func(u *unit) error {
		if out.Reveal, err = u.HoldReveal(ctx, id); err != nil {
			return err
		}
		if out.Missed, err = u.missed(ctx, &out.Reveal, on); err != nil {
			return err
		}
		out.Marks, err = u.Marks(ctx, id, on.Person, store.NoVersion)
		return err
	})
	return out, err
}

// missed is what has happened to a locked reveal after a version.
func (u *unit) missed(ctx context.Context, r *store.StoredReveal, on On) (Missed, error) {
	m := Missed{Current: r.Version, Since: []store.Entry{}}
	if r.Version-on.Base > mostEntries || on.Base > r.Version {
		whole := *r
		m.Whole = &whole
		return m, nil
	}
	var err error
	m.Since, err = u.EntriesAfter(ctx, r.ID, on.Base)
	for i := range m.Since {
		m.Since[i].Own = m.Since[i].Person == on.Person
	}
	return m, err
}

// other is an entry that somebody else may not have known, and what it touches.
type other struct {
	*store.Entry
	edit.Touch
}

// touching reads what an entry touches, and the command that takes it back.
func touching(e *store.Entry) (other, edit.Command, error) {
	command, err := edit.Parse([]byte(e.Command))
	if err != nil {
		return other{}, command, err
	}
	inverse, err := edit.Parse([]byte(e.Inverse))
	return other{e, edit.Touches(command, inverse)}, inverse, err
}

// others lists what others have done meanwhile.
func others(since []store.Entry, mine []Edit) ([]other, error) {
	own := map[string]bool{}
	for _, e := range mine {
		own[e.Key] = true
	}
	var list []other
	for i := range since {
		e := &since[i]
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
