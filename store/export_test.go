package store

import "github.com/pressly/goose/v3"

// Migrations lets tests take the database back to what earlier versions had.
func (s *Store) Migrations() (*goose.Provider, error) { return s.versions() }
