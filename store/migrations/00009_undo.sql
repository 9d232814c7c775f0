-- +goose Up
-- Everybody takes back what they have done themselves: an entry says who made it, by a code that a
-- browser makes up, which entry it reverses, and whether it has been reversed itself.
alter table entries
    add column person text not null default '',
    add column target bigint not null default 0,
    add column reversed boolean not null default false;

with recursive standing(reveal_id, version) as (
    select id, undo_to from reveals where undo_to > 0
    union
    select e.reveal_id, e.undo_next from entries e join standing s using (reveal_id, version) where e.undo_next > 0
)
update entries e set reversed = true where kind <> 'undo'
    and not exists (select from standing s where s.reveal_id = e.reveal_id and s.version = e.version);

with recursive standing(reveal_id, version) as (
    select id, redo_to from reveals where redo_to > 0
    union
    select e.reveal_id, e.redo_next from entries e join standing s using (reveal_id, version) where e.redo_next > 0
)
update entries e set reversed = true where kind = 'undo'
    and not exists (select from standing s where s.reveal_id = e.reveal_id and s.version = e.version);

-- What could be undone, or redone, before an entry that does so is what it reverses.
update entries set target = case kind when 'undo' then undo_next else redo_next end where kind in ('undo', 'redo');

alter table entries drop column undo_next, drop column redo_next;
alter table reveals drop column undo_to, drop column redo_to;
create index entries_standing on entries (reveal_id, person, version) where not reversed;

-- +goose Down
drop index entries_standing;
alter table reveals add column undo_to bigint not null default 0, add column redo_to bigint not null default 0;
alter table entries drop column person, drop column target, drop column reversed,
    add column undo_next bigint not null default 0, add column redo_next bigint not null default 0;
