package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"time"

	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"

	"slowreveal/core/solid"
)

// Blobs is the folder (or bucket) of what is stored under its content's hash, and of files on
// their way in. It needs no database.
type Blobs struct{ bucket *blob.Bucket }

// Damaged says that a stored shape is not there, or not what was stored.
type Damaged struct {
	Hash string
	Why  error
}

// Error names the shape and the remedy.
func (d *Damaged) Error() string {
	return fmt.Sprintf("the stored shape %s… %v; import the same file again: that mends it", d.Hash[:8], d.Why)
}

// Unwrap returns the cause.
func (d *Damaged) Unwrap() error { return d.Why }

var (
	errGone    = errors.New("is missing from the data folder")
	errChanged = errors.New("is damaged in the data folder: its content is not what was stored")
)

func shapeKey(hash string) string { return "shapes/" + hash[:2] + "/" + hash }

// touchAfter is the age from which a stored shape is stored again when it is used anew. The sweep
// spares what is younger than sweptAfter: so what is just being used stays, without a lock.
const touchAfter, sweptAfter = 12 * time.Hour, 24 * time.Hour

// PutShape stores a shape, unless it is there already and whole, and returns its hash.
func (b *Blobs) PutShape(ctx context.Context, shape *solid.Shape) (hash string, err error) {
	data := shape.Encode()
	hash = hashOf(data)
	key := shapeKey(hash)
	if is, err := b.bucket.Attributes(ctx, key); err == nil && is.Size == int64(len(data)) &&
		time.Since(is.ModTime) < touchAfter {
		if _, err := b.Shape(ctx, hash); err == nil {
			return hash, nil
		}
	} else if err != nil && gcerrors.Code(err) != gcerrors.NotFound {
		return hash, fmt.Errorf("looking for a stored shape: %w", err)
	}
	if err := b.bucket.WriteAll(ctx, key, data, &blob.WriterOptions{ContentType: "application/octet-stream"}); err != nil {
		return hash, fmt.Errorf("storing a shape: %w", err)
	}
	return hash, nil
}

// Shape returns the stored form of a shape, held against its hash; *Damaged when it is not what
// was stored.
func (b *Blobs) Shape(ctx context.Context, hash string) ([]byte, error) {
	data, err := b.bucket.ReadAll(ctx, shapeKey(hash))
	switch {
	case gcerrors.Code(err) == gcerrors.NotFound:
		return nil, &Damaged{hash, errGone}
	case err != nil:
		return nil, fmt.Errorf("reading the shape %s…: %w", hash[:8], err)
	case hashOf(data) != hash:
		return nil, &Damaged{hash, errChanged}
	}
	return data, nil
}

// drawnShapes is the folder of shapes as they are drawn; another one whenever they come out otherwise.
const drawnShapes = "drawn-2/"

// DrawnShape returns a shape as a stage draws it (solid.EncodeDrawn), or *Damaged. What was found once is kept, and found
// again where it is damaged.
func (b *Blobs) DrawnShape(ctx context.Context, hash string) ([]byte, error) {
	key := drawnShapes + hash[:2] + "/" + hash
	data, err := b.bucket.ReadAll(ctx, key)
	if err != nil && gcerrors.Code(err) != gcerrors.NotFound {
		return nil, fmt.Errorf("reading the shape %s… as it is drawn: %w", hash[:8], err)
	}
	const sum = 2 * sha256.Size // in hexadecimal, before it
	if len(data) > sum && hashOf(data[sum:]) == string(data[:sum]) {
		return data[sum:], nil
	}
	if data, err = b.Shape(ctx, hash); err != nil {
		return nil, err
	}
	shape, err := solid.Decode(data)
	if err != nil {
		return nil, &Damaged{hash, err}
	}
	data = shape.EncodeDrawn()
	if err := b.bucket.WriteAll(ctx, key, append([]byte(hashOf(data)), data...), &blob.WriterOptions{ContentType: "application/octet-stream"}); err != nil {
		return nil, fmt.Errorf("storing a shape as it is drawn: %w", err)
	}
	return data, nil
}

func hashOf(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// DrawnKey changes whenever drawn shapes come out otherwise.
func DrawnKey() string { return drawnShapes }
