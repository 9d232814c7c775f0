-- +goose Up
-- What a project's author has done to the assembly on top of the import: edits is
-- the list that is in force, undone what redo brings back, newest last. Both are
-- JSON lists. version counts every change.
create table arrangements (
    project_id uuid primary key references projects on delete cascade,
    version    bigint not null default 0,
    edits      text not null default '[]',
    undone     text not null default '[]'
);

-- +goose Down
drop table arrangements;
