-- Rankers that are being edited and that nobody kept yet, so that a closed window loses none.
create table drafts (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    -- the kept version that it stands on, and the newest one of its name when it was begun
    ranker text not null,
    version integer not null,
    newest integer not null,
    document json not null,
    begun_at timestamptz not null default now(),
    changed_at timestamptz not null default now()
);
create index drafts_by_collection on drafts (collection_id, changed_at);
