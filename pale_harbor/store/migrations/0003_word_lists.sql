-- Named lists of words in versions that are never changed.
create table word_lists (
    collection_id bigint not null references collections on delete cascade,
    name text not null,
    version integer not null,
    kind text not null check (kind in ('words', 'replacements', 'synonyms')),
    entries json not null,
    entry_count integer not null,
    created_at timestamptz not null default now(),
    primary key (collection_id, name, version)
);

-- the version of each word list that the ranker's chains read, where they name none themselves
alter table rankers add column list_versions jsonb not null default '{}';
