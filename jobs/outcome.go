package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"

	"slowreveal/core/assembly"
	"slowreveal/core/product"
	"slowreveal/core/proof"
	"slowreveal/core/reveal"
	"slowreveal/prove"
	"slowreveal/release"
)

// Outcome returns what a proof has found in a reveal of an assembly, both as the variant has them, where it is known: a
// proof of just this was made, by this build of the program.
func (q *Queue) Outcome(
	ctx context.Context,
	a *assembly.Assembly,
	doc *reveal.Reveal,
) (o proof.Outcome, known bool, err error) {
	key, err := outcomeKey(a, doc)
	if err != nil {
		return o, false, err
	}
	text, known, err := q.store.Known(ctx, key)
	if err != nil || !known {
		return o, false, err
	}
	if err := json.Unmarshal(text, &o); err != nil {
		return o, false, fmt.Errorf("reading what a proof has found: %w", err)
	}
	return o, true, nil
}

// Found is what a proof has found in a reveal of an assembly; look looks for it where that is not known, and it is kept.
func (q *Queue) Found(
	ctx context.Context,
	a *assembly.Assembly,
	doc *reveal.Reveal,
	look func() (proof.Outcome, error),
) (proof.Outcome, error) {
	o, known, err := q.Outcome(ctx, a, doc)
	if err != nil || known {
		return o, err
	}
	if o, err = look(); err != nil {
		return o, err
	}
	return o, q.KeepOutcome(ctx, a, doc, &o)
}

// KeepOutcome keeps what a proof has found, with all checks: what is made of it says so.
func (q *Queue) KeepOutcome(ctx context.Context, a *assembly.Assembly, doc *reveal.Reveal, o *proof.Outcome) error {
	key, err := outcomeKey(a, doc)
	if err != nil {
		return err
	}
	text, err := json.Marshal(o)
	if err != nil {
		return fmt.Errorf("writing what a proof has found: %w", err)
	}
	return q.store.Keep(ctx, key, text)
}

// outcomeKey names what a proof depends on.
func outcomeKey(a *assembly.Assembly, doc *reveal.Reveal) (string, error) {
	program, err := release.Program()
	if err != nil {
		return "", err
	}
	of, err := json.Marshal([]any{a, doc})
	if err != nil {
		return "", fmt.Errorf("naming what a proof is of: %w", err)
	}
	return "proof by " + program + " of " + string(of), nil
}

// proofWords says in words what a proof has found in each reveal of an output.
func (q *Queue) proofWords(ctx context.Context) func(*product.Model, *reveal.Reveal) string {
	said := map[*reveal.Reveal]string{}
	return func(m *product.Model, doc *reveal.Reveal) string {
		if words, asked := said[doc]; asked {
			return words
		}
		said[doc] = "not proven"
		switch o, known, err := q.Outcome(ctx, m.Assembly, doc); {
		case err != nil:
			slog.Warn("what a proof has found is not known", "reveal", doc.Title, "error", err)
		case known:
			said[doc] = prove.Counts(&o)
		}
		return said[doc]
	}
}
