-- +goose Up
create table projects (
    id         uuid primary key,
    name       text not null check (length(name) between 1 and 200),
    created_at timestamptz not null default now()
);

-- One imported state of a project's assembly. Its shapes lie in the blob store
-- under the hashes that the assembly names.
create table revisions (
    id         uuid primary key,
    project_id uuid not null references projects on delete cascade,
    number     int  not null,
    file_name  text not null,
    assembly   text not null,
    report     text not null,
    created_at timestamptz not null default now(),
    unique (project_id, number)
);

-- document is the state after entry `version` of the log. undo_to and redo_to
-- are the entries that the next undo and redo will reverse, 0 for none.
create table reveals (
    id          uuid primary key,
    project_id  uuid   not null references projects on delete cascade,
    revision_id uuid   not null references revisions on delete cascade,
    title       text   not null,
    document    text   not null,
    version     bigint not null default 0,
    undo_to     bigint not null default 0,
    redo_to     bigint not null default 0,
    created_at  timestamptz not null default now(),
    changed_at  timestamptz not null default now()
);

-- The log of every change. Nothing in it is ever altered. undo_next and
-- redo_next are what undo_to and redo_to were before this entry.
create table entries (
    reveal_id  uuid   not null references reveals on delete cascade,
    version    bigint not null,
    kind       text   not null check (kind in ('do', 'undo', 'redo')),
    label      text   not null,
    command    text   not null,
    inverse    text   not null,
    undo_next  bigint not null,
    redo_next  bigint not null,
    made_at    timestamptz not null default now(),
    primary key (reveal_id, version)
);

create table outputs (
    id           uuid primary key,
    reveal_id    uuid   not null references reveals on delete cascade,
    project_id   uuid   not null references projects on delete cascade,
    version      bigint not null,
    title        text   not null,
    document     text   not null,
    settings     text   not null,
    state        text   not null default 'waiting'
                 check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
    frames_done  int    not null default 0,
    frames       int    not null,
    message      text   not null default '',
    job_id       bigint not null default 0,
    bytes        bigint not null default 0,
    created_at   timestamptz not null default now(),
    started_at   timestamptz,
    -- when a worker last said that it is at it
    beat_at      timestamptz,
    finished_at  timestamptz
);
create index on reveals (project_id);
create index on outputs (project_id, created_at desc);

-- +goose Down
drop table outputs, entries, reveals, revisions, projects;
