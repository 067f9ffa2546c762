-- Folders of indexes are named by it: a collection made anew never meets the files of an old one.
alter table collections add column uid uuid not null default gen_random_uuid();
-- How a record is shown in every list of results; null until somebody says.
alter table collections add column display json;

alter table fields drop constraint fields_kind_check;
alter table fields add constraint fields_kind_check check (kind in ('text', 'exact', 'number', 'date', 'flag'));
-- whether a record may hold more than one value
alter table fields add column several boolean not null default false;
alter table fields add column role text check (role in ('key', 'title', 'language', 'picture'));
-- how a long value is cut into passages; null where it is not
alter table fields add column passages json;
update fields set role = 'key' where is_key;
alter table fields drop column is_key;

create index records_by_revision on records (collection_id, revision);

-- What a record was before it was changed or deleted.
create table earlier_records (
    collection_id bigint not null references collections on delete cascade,
    key text collate "C" not null,
    -- the collection's revisions that wrote it and that ended it
    revision bigint not null,
    ended_revision bigint not null,
    ended_by text not null check (ended_by in ('change', 'deletion')),
    ended_at timestamptz not null default now(),
    content_hash bytea not null,
    field_values json not null,
    primary key (collection_id, key, ended_revision)
);
create index earlier_records_by_end on earlier_records (collection_id, ended_revision);

-- Long work. Whoever does it holds an advisory lock of the job's id.
create table jobs (
    id bigint generated always as identity primary key,
    kind text not null check (kind in ('import')),
    collection text not null,
    state text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
    -- what is read, how, and what tells that it is still the same
    source json not null,
    plan json not null,
    -- whether the server does it (and takes it up again after a crash), or a command
    by_server boolean not null,
    phase text not null default 'reading',
    rows_read bigint not null default 0,
    rows_rejected bigint not null default 0,
    bytes_read bigint not null default 0,
    bytes_in_all bigint not null default 0,
    cancel_wanted boolean not null default false,
    problem text,
    report json,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now()
);
create index jobs_by_collection on jobs (collection, id);

-- Rows on their way in: kept batch by batch, so that an import that was cut off goes on where it stood.
create table incoming_rows (
    job_id bigint not null references jobs on delete cascade,
    row_number bigint not null,
    line bigint not null,
    key text collate "C" not null,
    content_hash bytea not null,
    field_values json not null
);
create index incoming_rows_by_key on incoming_rows (job_id, key, row_number);

create table rejected_rows (
    job_id bigint not null references jobs on delete cascade,
    row_number bigint not null,
    line bigint not null,
    reason text not null,
    raw text not null,
    primary key (job_id, row_number)
);

-- How far a query on another database was read, by its column that tells what changed.
create table read_marks (
    collection_id bigint not null references collections on delete cascade,
    source_identity text not null,
    last_seen text not null,
    primary key (collection_id, source_identity)
);

-- Small pictures that records name, shown beside them.
create table pictures (
    collection_id bigint not null references collections on delete cascade,
    name text not null,
    media_type text not null check (media_type in ('image/svg+xml', 'image/png', 'image/jpeg', 'image/webp', 'image/gif')),
    content bytea not null,
    primary key (collection_id, name)
);

-- One quarter of a content hash as a number: quarters are summed, and the sums are a collection's fingerprint.
create function hash_quarter(hash bytea, quarter integer) returns numeric immutable language sql as $$
    select ('x' || encode(substring(hash from 1 + 8 * quarter for 8), 'hex'))::bit(64)::bigint::numeric
$$;
create function quarter_text(total numeric) returns text immutable language sql as $$
    select lpad(to_hex((case when wrapped >= 9223372036854775808 then wrapped - 18446744073709551616 else wrapped end)::bigint), 16, '0')
    from (select mod(mod(total, 18446744073709551616) + 18446744073709551616, 18446744073709551616) as wrapped) as quarter
$$;
update collections set fingerprint = (
    select coalesce(string_agg(quarter_text(total), '' order by quarter), '')
    from (
        select quarter, sum(hash_quarter(content_hash, quarter)) as total
        from records, generate_series(0, 3) as quarter
        where collection_id = collections.id
        group by quarter
    ) as quarters
);
