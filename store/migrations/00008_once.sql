-- +goose Up
-- Every edit carries a key that its page has made: the same key twice is one edit.
alter table entries add column key uuid;
create unique index entries_key on entries (reveal_id, key);

-- What was asked for with a key and has been done, and what came of it, for the case that its
-- answer was lost. Forgotten after some days.
create table receipts (
    key     uuid primary key,
    answer  text not null default '',
    made_at timestamptz not null default now()
);
create index on receipts (made_at);

-- Every project has an arrangement: its row is what edits of reveals and of the arrangement hold
-- on to, so that neither passes the other by.
insert into arrangements (project_id) select id from projects on conflict do nothing;

-- How often making a piece failed by a mistake of ours, and how often its worker went silent.
alter table pieces add column failures int not null default 0, add column losses int not null default 0;
alter table imports add column failures int not null default 0, add column losses int not null default 0;

-- +goose Down
alter table imports drop column failures, drop column losses;
alter table pieces drop column failures, drop column losses;
drop table receipts;
drop index entries_key;
alter table entries drop column key;
