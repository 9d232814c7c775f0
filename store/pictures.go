package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"

	"gocloud.dev/gcerrors"
)

// Kept returns something small, such as a picture, that is kept by what it shows; it is made when it is asked for
// first, or when it has been swept away.
func (s *Store) Kept(ctx context.Context, of string, draw func() ([]byte, error)) ([]byte, error) {
	hash := sha256.Sum256([]byte(of))
	key := "pictures/" + hex.EncodeToString(hash[:])
	kept, err := s.blobs.bucket.ReadAll(ctx, key)
	if err == nil || gcerrors.Code(err) != gcerrors.NotFound {
		return kept, err
	}
	picture, err := draw()
	if err != nil {
		return nil, err
	}
	return picture, s.blobs.bucket.WriteAll(ctx, key, picture, nil)
}
