-- Spaces of vectors. A space never changes what it is: another source or other fields are another space.
create table spaces (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    name text not null check (name ~ '^[a-z][a-z0-9_]{0,62}$'),
    document json not null,
    -- what made its vectors; null until the first ones are there. One model at a time.
    model text,
    dimensions integer,
    -- grows when its vectors are thrown away and made anew, of another model or of other records
    epoch integer not null default 0,
    -- grows whenever filling ended: what was computed from the vectors names both
    revision integer not null default 0,
    -- the collection's revision that it was filled for last
    records_revision bigint,
    -- filling: long work, one at a time; whoever does it holds an advisory lock of the space's id
    state text not null default 'new' check (state in ('new', 'waiting', 'running', 'done', 'failed', 'cancelled')),
    phase text not null default '',
    done bigint not null default 0,
    in_all bigint not null default 0,
    cancel_wanted boolean not null default false,
    problem text,
    report json,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    unique (collection_id, name)
);

-- What was learned from a collection's words: arrays in NumPy's own format.
create table learned_models (
    space_id bigint primary key references spaces on delete cascade,
    epoch integer not null,
    content bytea not null
);

-- Vectors that cannot be made again for nothing: float32, little end first.
create table vectors (
    space_id bigint not null references spaces on delete cascade,
    -- a text and a query by the hash of their words, a record by its key
    about text not null check (about in ('text', 'query', 'record')),
    name text collate "C" not null,
    -- or one byte, which says why there is none
    vector bytea not null,
    primary key (space_id, about, name)
);

-- The spaces that a run asked, each with the state of its vectors.
alter table runs add column spaces text[] not null default '{}';
-- What keeps its figures from meaning what one would think: queries without a vector, say.
alter table runs add column notes text[] not null default '{}';
alter table runs drop constraint runs_key;
alter table runs add constraint runs_key unique (
    ranker_id, set_id, records_fingerprint, judged_revision, depth, program_version, ended_rules, spaces
);
