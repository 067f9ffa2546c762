-- Long work of every kind stands in one table, its subject by id, so that a renamed collection keeps its work. What only
-- imports know of themselves stands beside it. Whatever changes is told to those who listen.

alter table jobs rename column collection to new_collection;
alter table jobs alter column new_collection drop not null;
alter table jobs add column collection_id bigint references collections on delete cascade;
alter table jobs add column space_id bigint references spaces on delete cascade;
alter table jobs add column outside_id bigint references outside_rankers on delete cascade;
alter table jobs add column set_id bigint references judged_sets on delete set null;
update jobs set collection_id = collections.id from collections where collections.name = new_collection;
-- only the name of a collection that is still to be made
update jobs set new_collection = null where collection_id is not null;
alter table jobs drop constraint jobs_kind_check;
alter table jobs add constraint jobs_kind_check check (kind in ('import', 'filling', 'asking', 'reading'));
alter table jobs alter column phase set default '';
alter table jobs add column details json not null default '{}';

create table imports (
    job_id bigint primary key references jobs on delete cascade,
    -- what is read, how, and what tells that it is still the same
    source json not null,
    plan json not null,
    rows_rejected bigint not null default 0,
    bytes_read bigint not null default 0,
    bytes_in_all bigint not null default 0
);
insert into imports (job_id, source, plan, rows_rejected, bytes_read, bytes_in_all)
select id, source, plan, rows_rejected, bytes_read, bytes_in_all from jobs;
alter table jobs rename column rows_read to done;
alter table jobs add column in_all bigint not null default 0;
alter table jobs drop column source, drop column plan, drop column rows_rejected, drop column bytes_read,
    drop column bytes_in_all;

insert into jobs (kind, collection_id, space_id, state, by_server, phase, done, in_all, cancel_wanted, problem)
select 'filling', collection_id, id, state, true, phase, done, in_all, cancel_wanted, problem
from spaces where state <> 'new' order by id;
alter table spaces drop column state, drop column phase, drop column done, drop column in_all,
    drop column cancel_wanted, drop column problem;

insert into jobs (kind, collection_id, outside_id, set_id, state, by_server, done, in_all, cancel_wanted, problem)
select 'asking', collection_id, id, set_id, state, true, done, in_all, cancel_wanted, problem
from outside_rankers where state <> 'new' order by id;
alter table outside_rankers drop column state, drop column set_id, drop column done, drop column in_all,
    drop column cancel_wanted, drop column problem;

drop index jobs_by_collection;
create index jobs_by_collection on jobs (collection_id, kind, id);
create index jobs_by_space on jobs (space_id, id) where space_id is not null;
create index jobs_by_outside on jobs (outside_id, id) where outside_id is not null;
create index jobs_unfinished on jobs (id) where state in ('waiting', 'running');

create function tell_of_job() returns trigger language plpgsql as $$
begin
    perform pg_notify('pale_harbor', json_build_object(
        'subject', 'jobs', 'kind', new.kind, 'id', new.id, 'collection', new.collection_id, 'state', new.state,
        'cancel', new.cancel_wanted)::text);
    return null;
end $$;
create trigger jobs_told after insert or update on jobs for each row execute function tell_of_job();

create function tell_of_revision() returns trigger language plpgsql as $$
begin
    perform pg_notify('pale_harbor', json_build_object('subject', tg_argv[0], 'id', new.id, 'revision', new.revision)::text);
    return null;
end $$;
create trigger collections_told after update of revision on collections for each row
    when (old.revision is distinct from new.revision) execute function tell_of_revision('records');
create trigger judged_sets_told after update of revision on judged_sets for each row
    when (old.revision is distinct from new.revision) execute function tell_of_revision('judging');
