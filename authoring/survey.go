package authoring

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math"

	"slowreveal/core/assembly"
	"slowreveal/core/survey"
	"slowreveal/store"
)

// Survey returns what is known of a revision's parts as JSON. It is computed
// when it is asked for first and then kept with the shapes; names and groups do
// not matter to it.
func (s *Service) Survey(ctx context.Context, revision string) (store.RawText, error) {
	m, err := s.models.at(ctx, s.Store, revision, false)
	if err != nil {
		return "", err
	}
	if text, known, err := s.Store.Known(ctx, surveyKey(m.Assembly)); err != nil || known {
		return store.RawText(text), err
	}
	select {
	case s.surveying <- struct{}{}: // one at a time: it takes all processors
	case <-ctx.Done():
		return "", ctx.Err()
	}
	defer func() { <-s.surveying }()
	if m, err = s.models.at(ctx, s.Store, revision, true); err != nil {
		return "", err
	}
	// It may have been arranged otherwise meanwhile, and somebody else may have surveyed it.
	text, err := s.Store.Kept(ctx, surveyKey(m.Assembly), func() ([]byte, error) {
		found, err := survey.Of(ctx, m.Assembly, m.Shapes)
		if err != nil {
			return nil, err
		}
		text, err := json.Marshal(found)
		if err != nil {
			return nil, fmt.Errorf("writing the survey: %w", err)
		}
		return text, nil
	})
	return store.RawText(text), err
}

// SurveyOf returns the survey itself.
func (s *Service) SurveyOf(ctx context.Context, revision string) (*survey.Survey, error) {
	text, err := s.Survey(ctx, revision)
	if err != nil {
		return nil, err
	}
	var out survey.Survey
	return &out, errors.Join(json.Unmarshal([]byte(text), &out))
}

// surveyVersion changes whenever surveys come out otherwise.
const surveyVersion = 7

// surveyKey names everything that a survey depends on: which shape stands where.
func surveyKey(a *assembly.Assembly) string {
	h := sha256.New()
	fmt.Fprintln(h, surveyVersion)
	worlds := a.Worlds()
	for i := range a.Nodes {
		if n := &a.Nodes[i]; n.IsPart() {
			w := &worlds[i]
			fmt.Fprintln(h, n.ID, a.Shapes[n.Shape].Hash)
			for _, v := range append(w.R[:], w.T.X, w.T.Y, w.T.Z) {
				fmt.Fprintf(h, "%.6f ", math.Round(v*1e6)/1e6+0)
			}
		}
	}
	return "survey " + hex.EncodeToString(h.Sum(nil))
}
