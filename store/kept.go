package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"

	"gocloud.dev/gcerrors"
)

// Kept returns something small, such as a picture, that is kept by what it shows; it is made when it is asked for
// first, or when it has been swept away.
func (b *Blobs) Kept(ctx context.Context, of string, draw func() ([]byte, error)) ([]byte, error) {
	kept, known, err := b.Known(ctx, of)
	if err != nil || known {
		return kept, err
	}
	picture, err := draw()
	if err != nil {
		return nil, err
	}
	return picture, b.Keep(ctx, of, picture)
}

// Known returns what is kept of something, where it is.
func (b *Blobs) Known(ctx context.Context, of string) (kept []byte, known bool, err error) {
	kept, err = b.bucket.ReadAll(ctx, keptKey(of))
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, false, nil
	}
	return kept, err == nil, err
}

// Keep keeps something small until it is swept away.
func (b *Blobs) Keep(ctx context.Context, of string, data []byte) error {
	return b.bucket.WriteAll(ctx, keptKey(of), data, nil)
}

func keptKey(of string) string {
	hash := sha256.Sum256([]byte(of))
	return "pictures/" + hex.EncodeToString(hash[:])
}
