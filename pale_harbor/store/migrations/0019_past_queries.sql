-- What visitors asked, as a list that was loaded: one list of a collection, which another one takes the place of.
create table past_query_lists (
    collection_id bigint primary key references collections on delete cascade,
    -- another one with every list: what was made of a list is known by it
    state uuid not null default gen_random_uuid(),
    source text not null,
    queries integer not null,
    asked bigint not null,
    loaded_at timestamptz not null default now()
);
create table past_queries (
    collection_id bigint not null references past_query_lists on delete cascade,
    query text not null,
    language text not null,
    asked bigint not null
);
create index past_queries_by_collection on past_queries (collection_id, asked desc);
