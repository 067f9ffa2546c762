-- When each revision of a collection's records was there to be read: whoever harvests records asks for what changed since
-- they asked last. So it is noted as the transaction ends, however long it took, and as the second after: one that ends
-- while somebody reads is told with what comes later, and not passed over.
create table record_revisions (
    collection_id bigint not null references collections on delete cascade,
    revision bigint not null,
    at timestamptz not null default date_trunc('second', clock_timestamp()) + interval '1 second',
    primary key (collection_id, revision)
);

create function note_record_revision() returns trigger language plpgsql as $$
begin
    insert into record_revisions (collection_id, revision)
    select new.id, new.revision where exists (select from collections where id = new.id)
    on conflict do nothing;
    return null;
end
$$;
create constraint trigger note_record_revision after update of revision on collections
    deferrable initially deferred
    for each row when (new.revision <> old.revision) execute function note_record_revision();

-- Of revisions before this, what ended with them tells when they were made; of the others nobody knows more than that
-- they are there now.
insert into record_revisions (collection_id, revision, at)
select collection_id, ended_revision, max(ended_at) from earlier_records group by collection_id, ended_revision;
insert into record_revisions (collection_id, revision)
select distinct collection_id, revision from records on conflict do nothing;

-- In the order in which they changed.
create index records_by_change on records (collection_id, revision, key);
drop index records_by_revision;

-- Records that are gone where they are harvested from, on their way in.
create table incoming_deletions (
    job_id bigint not null references jobs on delete cascade,
    key text collate "C" not null,
    primary key (job_id, key)
);

-- Pictures are compressed already: trying it once more takes longer than all else.
alter table pictures alter column content set storage external, alter column small set storage external;
alter table incoming_pictures alter column content set storage external, alter column small set storage external;
