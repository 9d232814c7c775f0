-- +goose Up
-- What an output is made of, as it was when it was ordered: the revision, the arrangement
-- of its assembly, and the further reveals of a joined film.
alter table outputs
    add column revision_id uuid,
    add column edits text not null default '[]',
    -- a digest of what the arranged assembly looks like
    add column look text not null default '',
    add column joined text not null default '[]';

-- +goose Down
alter table outputs drop column revision_id, drop column edits, drop column look, drop column joined;
