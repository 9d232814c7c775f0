-- +goose Up
-- Files on their way to becoming an assembly. They lie in the blob store under
-- imports/<source>/. project_id is the project that came of it or, when reread,
-- the one whose files are read once more in another way.
create table imports (
    id          uuid primary key,
    source      uuid not null,
    project_id  uuid references projects on delete cascade,
    reread      boolean not null default false,
    name        text not null check (length(name) between 1 and 200),
    files       text not null,
    options     text not null,
    state       text not null default 'waiting'
                check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
    stage       text not null default '',
    share       real not null default 0,
    message     text not null default '',
    job_id      bigint not null default 0,
    created_at  timestamptz not null default now(),
    started_at  timestamptz,
    beat_at     timestamptz,
    finished_at timestamptz
);
create index on imports (created_at desc);
alter table revisions add column import_id uuid references imports on delete set null;

-- +goose Down
alter table revisions drop column import_id;
drop table imports;
