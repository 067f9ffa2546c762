-- What the world sees: who may ask the search endpoint, which version answers there, and what was asked.

-- Of a key only the SHA-256 of what is shown. A visitor's key searches, as its terms say; a program's has a role in
-- the collection, at most that of the person who made it.
create table delivery_keys (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    hash bytea not null unique,
    kind text not null check (kind in ('visitor', 'program')),
    label text not null check (label <> ''),
    -- as formats/visitor_terms.py reads them
    terms json,
    role text check (role in ('reader', 'engineer', 'owner')),
    person_id bigint default acting_person_id() references people on delete cascade,
    by_person text default acting_person(),
    made_at timestamptz not null default now(),
    used_at timestamptz,
    ends_at timestamptz,
    revoked_at timestamptz,
    check ((kind = 'visitor') = (terms is not null)),
    check ((kind = 'program') = (role is not null))
);
create index delivery_keys_of_collection on delivery_keys (collection_id, id);

-- Which version of a ranker is live at the endpoint, and which one some visitors try: the last row of each place counts.
create table publications (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    place text not null check (place in ('live', 'candidate')),
    -- null where a place was emptied
    ranker text,
    version integer,
    -- of a candidate: which share of visitors meets it, and whether in one list with the live one
    share real check (share > 0 and share <= 1),
    mixed boolean not null default false,
    note text not null default '',
    -- each rule with its text, whether it held and what was found; null where there was none to check
    rules json,
    -- why it was published although rules were broken
    overruled text,
    by_person text default acting_person(),
    at timestamptz not null default now(),
    check ((ranker is null) = (version is null)),
    check (place = 'live' or ranker is null or share is not null)
);
create index publications_of_collection on publications (collection_id, place, id);

-- What has to hold before a version goes live, and for how long it is kept what was asked.
create table delivery_settings (
    collection_id bigint primary key references collections on delete cascade,
    set_id bigint references judged_sets on delete set null,
    rules text not null default '',
    kept_days integer not null default 90 check (kept_days between 1 and 3650)
);

-- What was asked at the endpoint: no address and no person. session: what the page that asks made up for itself.
create table asked_queries (
    id uuid primary key,
    collection_id bigint not null references collections on delete cascade,
    at timestamptz not null,
    key_id bigint references delivery_keys on delete set null,
    session text,
    query text not null,
    -- one text for what visitors mean to be the same, as core/traffic/said.py tells
    said text not null,
    language text not null default '',
    narrowed json,
    is_typed boolean not null default false,
    skip integer not null default 0,
    -- null where the log of another search does not say
    found integer,
    elapsed_ms real,
    -- null where another search answered
    ranker text,
    version integer,
    -- of a list mixed of two: whose each row is, l and c, and - for nobody's
    candidate_version integer,
    candidate_ranker text,
    teams text,
    shown text[] not null,
    -- what the time did not reach for
    left_out text[]
);
create index asked_queries_of_collection on asked_queries (collection_id, at);

-- What visitors did with a list, each thing once. It may come before the list itself is noted.
create table asked_events (
    query_id uuid not null,
    kind text not null check (kind in ('click', 'success')),
    record_key text not null,
    collection_id bigint not null references collections on delete cascade,
    at timestamptz not null default now(),
    primary key (query_id, kind, record_key)
);
create index asked_events_of_collection on asked_events (collection_id, at);

-- What is left of it after its days: numbers.
create table asked_counts (
    collection_id bigint not null references collections on delete cascade,
    day date not null,
    query text not null,
    language text not null default '',
    asked bigint not null,
    found_nothing bigint not null,
    given_up bigint not null,
    succeeded bigint not null,
    primary key (collection_id, day, query, language)
);
