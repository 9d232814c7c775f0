package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
)

// Renewal is everything of a project that was out of date being made again.
type Renewal struct {
	ID        string `db:"id" json:"id"`
	ProjectID string `db:"project_id" json:"projectId"`
	// State is running, done, failed or cancelled; none stands for one that is not there.
	State State `db:"state" json:"state"`
	// Says is how far it is, in words, or why it failed, or what had been made when it was stopped.
	Says       string     `db:"says" json:"says"`
	CreatedAt  time.Time  `db:"created_at" json:"createdAt"`
	FinishedAt *time.Time `db:"finished_at" json:"finishedAt"`
}

const renewalColumns = `id, project_id, state, says, created_at, finished_at`

// uniqueViolation is PostgreSQL's code for what is there already.
const uniqueViolation = "23505"

// BeginRenewal notes that a project is being renewed; only one renewal of a project runs at a time.
func (s *Store) BeginRenewal(ctx context.Context, project string) (Renewal, error) {
	if _, err := s.Project(ctx, project); err != nil {
		return Renewal{}, err
	}
	var r Renewal
	err := s.db.GetContext(
		ctx,
		&r,
		`insert into renewals (id, project_id, state) values ($1, $2, 'running') returning `+renewalColumns,
		newID(),
		project,
	)
	if wrong := new(pgconn.PgError); errors.As(err, &wrong) && wrong.Code == uniqueViolation {
		return r, &Refused{Cause: errors.New("this project is being renewed: wait until that has ended")}
	}
	return r, err
}

// TellRenewal notes how far a renewal is, in words.
func (s *Store) TellRenewal(ctx context.Context, r *Renewal, says string) error {
	return s.changeRenewal(ctx, r, `says = $2`, says)
}

// EndRenewal keeps the report of a renewal, as JSON and as a page.
func (s *Store) EndRenewal(ctx context.Context, r *Renewal, report, page string) error {
	return s.changeRenewal(
		ctx,
		r,
		`state = 'done', says = '', finished_at = now(), report = $2, page = $3`,
		report,
		page,
	)
}

// FailRenewal notes why a renewal came to nothing.
func (s *Store) FailRenewal(ctx context.Context, r *Renewal, cause error) error {
	return s.changeRenewal(ctx, r, `state = 'failed', finished_at = now(), says = $2`, cause.Error())
}

// StopRenewal notes that a renewal was stopped by hand, and what had been made by then, in words.
func (s *Store) StopRenewal(ctx context.Context, r *Renewal, says string) error {
	return s.changeRenewal(ctx, r, `state = 'cancelled', finished_at = now(), says = $2`, says)
}

func (s *Store) changeRenewal(ctx context.Context, r *Renewal, set string, values ...any) error {
	if _, err := s.db.ExecContext(ctx, `update renewals set `+set+` where id = $1`, append([]any{r.ID}, values...)...); err != nil {
		return err
	}
	return s.notify(ctx, Event{Kind: "renewal", Project: r.ProjectID, ID: r.ID})
}

// Renewal returns the newest renewal of a project; ErrMissing where there was none.
func (s *Store) Renewal(ctx context.Context, project string) (r Renewal, err error) {
	err = s.db.GetContext(
		ctx,
		&r,
		`select `+renewalColumns+` from renewals where project_id = $1 order by created_at desc, id desc limit 1`,
		project,
	)
	return r, missing(err)
}

// RenewalNamed returns a renewal by its id.
func (s *Store) RenewalNamed(ctx context.Context, id string) (r Renewal, err error) {
	err = s.db.GetContext(ctx, &r, `select `+renewalColumns+` from renewals where id = $1`, id)
	return r, missing(err)
}

// RenewalReport returns the report of a renewal that is done, as JSON and as a page.
func (s *Store) RenewalReport(ctx context.Context, id string) (report, page string, err error) {
	var row struct{ Report, Page string }
	err = s.db.GetContext(ctx, &row, `select report, page from renewals where id = $1 and state = 'done'`, id)
	return row.Report, row.Page, missing(err)
}

// AbandonRenewals says of renewals that run no longer, since the server that led them has ended, that they failed.
func (s *Store) AbandonRenewals(ctx context.Context) error {
	_, err := s.db.ExecContext(ctx, `update renewals set state = 'failed', finished_at = now(),
		says = 'The server was stopped meanwhile. What had been ordered is made all the same; renew again for the rest and the report.'
		where state = 'running'`)
	return err
}
