-- +goose Up
-- Outputs of every kind, made piece by piece by any number of workers.
alter table outputs drop constraint outputs_state_check;
alter table outputs
    add constraint outputs_state_check check (state in ('waiting', 'running', 'paused', 'done', 'failed', 'cancelled')),
    add column file text not null default '',
    add column media text not null default 'video/mp4',
    add column kept boolean not null default false,
    add column made_by text not null default '',
    -- when a worker last took a piece of it: whose turn it is
    add column served_at timestamptz not null default '-infinity';
update outputs set file = id || '.mp4';

create table pieces (
    output_id    uuid not null references outputs on delete cascade,
    number       int  not null,
    frames       int  not null,
    -- the last one puts the others together
    finish       boolean not null default false,
    frames_done  int  not null default 0,
    state        text not null default 'waiting' check (state in ('waiting', 'running', 'done')),
    claim        uuid,
    beat_at      timestamptz,
    primary key (output_id, number)
);

-- Sounds and logos that outputs use.
create table attachments (
    id           uuid primary key,
    project_id   uuid not null references projects on delete cascade,
    name         text not null,
    kind         text not null check (kind in ('sound', 'logo')),
    bytes        bigint not null,
    length       bigint not null default 0,
    created_at   timestamptz not null default now()
);
create index on attachments (project_id, created_at desc);

-- Outputs that are ordered together, again and again.
create table presets (
    id           uuid primary key,
    project_id   uuid not null references projects on delete cascade,
    name         text not null,
    settings     text not null,
    created_at   timestamptz not null default now(),
    unique (project_id, name)
);

-- +goose Down
drop table presets, attachments, pieces;
alter table outputs drop column file, drop column media, drop column kept, drop column made_by, drop column served_at;
