-- An import says what it would do before it does it, may wait for somebody to decide, and can be undone.

alter table jobs drop constraint jobs_state_check;
alter table jobs add constraint jobs_state_check
    check (state in ('waiting', 'running', 'undecided', 'done', 'failed', 'cancelled'));

-- what the rows said of their fields, once all were read: from then on the source is not needed
alter table imports add column read_whole json;
-- whether somebody is asked, whatever it would do; how many deletions were agreed to
alter table imports add column asks boolean not null default false;
alter table imports add column agreed bigint;
-- what it would do, counted
alter table imports add column outlook json;
-- fields before and after it, and the fingerprint before; the revisions that it and the mending of its rows made; how it
-- was undone
alter table imports add column fields json;
alter table imports add column revisions bigint[] not null default '{}';
alter table imports add column undone json;
