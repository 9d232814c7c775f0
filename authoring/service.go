// Package authoring is what authors do to projects, by the rules of the job, so that it is kept: a reveal is edited and
// what was done taken back, an assembly is arranged and surveyed, a new revision is taken over, an output is told to be
// out of date. It asks core what is right and has package store keep it; the server, the queue and the command line
// share it.
package authoring

import (
	"context"

	"slowreveal/store"
)

// Service does what authors want. It may be used by many at once.
type Service struct {
	// Store is where all of it is kept, for what needs no rules.
	Store *store.Store

	models    *models
	surveying chan struct{}
}

// New returns a service on a store.
func New(s *store.Store) *Service {
	return &Service{
		Store:     s,
		models:    &models{blobs: s.Blobs, kept: map[string]*model{}},
		surveying: make(chan struct{}, 1),
	}
}

// unit is a unit of work: one transaction, and all that the code inside it is given. It has no way to the store itself:
// a second connection could be one that never comes (tested: transactions_test.go).
type unit struct {
	*store.Tx
	models *models
	blobs  *store.Blobs
	// own are the models of revisions since it has changed an arrangement: they are nobody else's before the end, which
	// may be that nothing was changed. nil before that.
	own map[string]*model
}

// model returns the assembly of a revision as the unit of work sees it, without its shapes.
func (u *unit) model(ctx context.Context, revision string) (*model, error) {
	if u.own == nil {
		return u.models.at(ctx, u, revision, false)
	}
	if m := u.own[revision]; m != nil {
		return m, nil
	}
	project, _, err := u.ArrangedAs(ctx, revision)
	if err != nil {
		return nil, err
	}
	m, err := arranged(ctx, u, revision, project, nil)
	if err == nil {
		u.own[revision] = m
	}
	return m, err
}

func (s *Service) unit(tx *store.Tx) *unit {
	return &unit{Tx: tx, models: s.models, blobs: s.Store.Blobs}
}

// within runs do as a unit of work.
func (s *Service) within(ctx context.Context, do func(u *unit) error) error {
	return s.Store.Within(ctx, func(tx *store.Tx) error { return do(s.unit(tx)) })
}

// once runs do as a unit of work, for the request's key once (store.Once).
func (s *Service) once(ctx context.Context, do func(u *unit) (made string, err error)) (string, error) {
	return s.Store.Once(ctx, func(tx *store.Tx) (string, error) { return do(s.unit(tx)) })
}
