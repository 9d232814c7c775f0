-- +goose Up
-- Everything of a project that is out of date made again in one go, with the report of what came of it.
create table renewals (
    id          uuid primary key,
    project_id  uuid not null references projects on delete cascade,
    state       text not null check (state in ('running', 'done', 'failed')),
    says        text not null default '', -- how far it is, or why it failed
    report      text not null default '', -- when it is done, as JSON
    page        text not null default '', -- and as a page, with pictures
    created_at  timestamptz not null default now(),
    finished_at timestamptz
);
create unique index renewals_running on renewals (project_id) where state = 'running';
create index renewals_newest on renewals (project_id, created_at desc);

-- +goose Down
drop table renewals;
