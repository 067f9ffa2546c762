create table collections (
    id bigint generated always as identity primary key,
    name text not null unique check (name ~ '^[a-z0-9][a-z0-9_-]{0,62}$'),
    -- grows with every change of the records; what was computed from them names it
    revision bigint not null default 0,
    -- of all keys and contents: equal fingerprints mean equal records
    fingerprint text not null default '',
    default_ranker text,
    created_at timestamptz not null default now()
);

create table fields (
    collection_id bigint not null references collections on delete cascade,
    name text not null,
    place integer not null,
    kind text not null check (kind in ('text', 'number', 'flag')),
    is_key boolean not null default false,
    primary key (collection_id, name)
);

create table records (
    collection_id bigint not null references collections on delete cascade,
    key text collate "C" not null,
    -- the collection's revision that wrote it last
    revision bigint not null,
    content_hash bytea not null,
    -- json, not jsonb: numbers keep their digits and fields their order, so that what went in comes out
    field_values json not null,
    primary key (collection_id, key)
);

create table chains (
    collection_id bigint not null references collections on delete cascade,
    name text not null check (name ~ '^[a-z0-9][a-z0-9_-]{0,62}$'),
    version integer not null,
    notation text not null,
    created_at timestamptz not null default now(),
    primary key (collection_id, name, version)
);

create table rankers (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    name text not null check (name ~ '^[a-z0-9][a-z0-9_-]{0,62}$'),
    version integer not null,
    document json not null,
    -- the version of each saved chain that the document names
    chain_versions jsonb not null,
    note text not null default '',
    created_at timestamptz not null default now(),
    unique (collection_id, name, version)
);

create table judged_sets (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    name text not null check (name ~ '^[a-z0-9][a-z0-9_-]{0,62}$'),
    revision bigint not null default 0,
    unique (collection_id, name)
);

create table queries (
    set_id bigint not null references judged_sets on delete cascade,
    query_id text collate "C" not null,
    place integer not null,
    query text not null,
    need text not null default '',
    tags text[] not null default '{}',
    primary key (set_id, query_id)
);

create table grades (
    set_id bigint not null references judged_sets on delete cascade,
    query_id text collate "C" not null,
    record_key text collate "C" not null,
    grade smallint not null check (grade between 0 and 3),
    primary key (set_id, query_id, record_key),
    foreign key (set_id, query_id) references queries on delete cascade
);

create table runs (
    id bigint generated always as identity primary key,
    ranker_id bigint not null references rankers on delete cascade,
    set_id bigint not null references judged_sets on delete cascade,
    records_revision bigint not null,
    records_fingerprint text not null,
    judged_revision bigint not null,
    depth integer not null,
    program_version text not null,
    created_at timestamptz not null default now(),
    unique (ranker_id, set_id, records_fingerprint, judged_revision, depth, program_version)
);

create table run_lists (
    run_id bigint not null references runs on delete cascade,
    query_id text collate "C" not null,
    record_keys text[] not null,
    scores float8[] not null,
    matched bigint not null,
    primary key (run_id, query_id)
);

create table measurements (
    run_id bigint not null references runs on delete cascade,
    measure text not null,
    -- null for the mean over all judged queries
    query_id text collate "C",
    value float8 not null,
    unique nulls not distinct (run_id, measure, query_id)
);
