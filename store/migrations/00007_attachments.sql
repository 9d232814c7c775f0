-- +goose Up
-- Besides sounds and logos: pictures for the background, and fonts.
alter table attachments drop constraint attachments_kind_check,
    add constraint attachments_kind_check check (kind in ('sound', 'logo', 'picture', 'font'));

-- +goose Down
delete from attachments where kind in ('picture', 'font');
alter table attachments drop constraint attachments_kind_check,
    add constraint attachments_kind_check check (kind in ('sound', 'logo'));
