-- +goose Up
-- A renewal can be stopped by hand.
alter table renewals drop constraint renewals_state_check;
alter table renewals add constraint renewals_state_check check (state in ('running', 'done', 'failed', 'cancelled'));

-- +goose Down
update renewals set state = 'failed' where state = 'cancelled';
alter table renewals drop constraint renewals_state_check;
alter table renewals add constraint renewals_state_check check (state in ('running', 'done', 'failed'));
