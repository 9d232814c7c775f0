-- +goose Up
-- A state of a reveal that somebody has given a name. document is the state after
-- entry `version`.
create table versions (
    id         uuid primary key,
    reveal_id  uuid   not null references reveals on delete cascade,
    version    bigint not null,
    name       text   not null check (length(name) between 1 and 200),
    author     text   not null default '',
    document   text   not null,
    made_at    timestamptz not null default now()
);
create index on versions (reveal_id, made_at);

-- Who made a change, as they call themselves.
alter table entries add column author text not null default '';

-- A reveal that was deleted can be brought back.
alter table reveals add column deleted_at timestamptz;

-- +goose Down
alter table reveals drop column deleted_at;
alter table entries drop column author;
drop table versions;
