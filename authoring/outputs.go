package authoring

import (
	"context"

	"slowreveal/store"
)

// Output returns one output, and says whether it is behind what it was made of (store.Output.Behind), the model
// included.
func (s *Service) Output(ctx context.Context, id string) (store.Output, error) {
	o, err := s.Store.Output(ctx, id)
	if err != nil {
		return o, err
	}
	return o, s.compare(ctx, map[string]*look{}, &o)
}

// Outputs lists the outputs of a project, the newest first, and says which of them are behind what they were made of,
// and which are due to be made again.
func (s *Service) Outputs(ctx context.Context, project string) ([]store.Output, error) {
	list, err := s.Store.Outputs(ctx, project)
	if err != nil {
		return nil, err
	}
	looks := map[string]*look{}
	for i := range list {
		if err := s.compare(ctx, looks, &list[i]); err != nil {
			return nil, err
		}
	}
	// What is still on its way counts as made; what came to nothing does not.
	made := func(o *store.Output) bool { return o.State != store.Failed && o.State != store.Cancelled }
	for _, i := range Newest(list, made) {
		list[i].Due = list[i].State == store.Done && list[i].Behind != ""
	}
	return list, nil
}

// compare says of an output whose reveal has not changed whether its model has. looks are
// what revisions look like now, as far as they are known.
func (s *Service) compare(ctx context.Context, looks map[string]*look, o *store.Output) error {
	if o.Behind != "" || o.RevisionID == "" || o.State != store.Done {
		return nil
	}
	if o.RevisionID != o.RevisionOf {
		o.Behind = "model"
		return nil
	}
	if looks[o.RevisionID] == nil {
		m, err := s.models.at(ctx, s.Store, o.RevisionID, false)
		if err != nil {
			return err
		}
		looks[o.RevisionID] = m.look
	}
	if !looks[o.RevisionID].was(o.Look) {
		o.Behind = "model"
	}
	return nil
}

// Newest returns the indices of the newest of those outputs of a list, the newest first, that are alike: of one reveal,
// with the same settings. Only those count that are said to.
func Newest(list []store.Output, counts func(*store.Output) bool) (newest []int) {
	seen := map[[2]string]bool{}
	for i := range list {
		key := [2]string{list[i].RevealID, string(list[i].Settings)}
		if counts(&list[i]) && !seen[key] {
			seen[key] = true
			newest = append(newest, i)
		}
	}
	return newest
}
