-- Other databases that a collection may be read from, by names; what is secret of them is sealed.
create table connections (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    name text not null check (name <> ''),
    -- as formats/following/connection.py reads it
    document json not null,
    secrets json not null default '{}',
    by_person text default acting_person(),
    unique (collection_id, name)
);

-- The live database that a collection's records follow, and how far they are.
create table followed_sources (
    collection_id bigint primary key references collections on delete cascade,
    connection_id bigint not null references connections,
    -- as formats/following/document.py reads it; its number grows when it is said anew
    document json not null,
    number integer not null default 1,
    -- what its things in the other database are called by
    mark text not null unique check (mark ~ '^[0-9a-f]{12}$'),
    state text not null default 'following' check (state in ('following', 'paused', 'undecided')),
    -- up to where changes are kept here, as each way of following notes it
    position json not null default '{}',
    -- the columns that the query gave when all was read last
    columns json,
    -- whether everything is to be read once more
    whole_wanted boolean not null default true,
    -- what reading everything would do to the records, where somebody is to decide about it; and what they agreed to
    outlook json,
    agreed bigint,
    phase text not null default '',
    done bigint not null default 0,
    in_all bigint not null default 0,
    -- changes that are known and not kept here yet, and how long ago the oldest of them was made
    waiting bigint not null default 0,
    behind_s double precision not null default 0,
    problem text,
    problem_since timestamptz,
    -- when the source answered last, when nothing waited last, when keys and when everything was compared last
    heard_at timestamptz,
    in_step_at timestamptz,
    swept_at timestamptz,
    compared_at timestamptz,
    -- since it is followed: changes that were read, records that were added, changed, deleted
    changes bigint not null default 0,
    added bigint not null default 0,
    updated bigint not null default 0,
    deleted bigint not null default 0,
    -- what the source keeps for us meanwhile, in bytes
    kept_bytes bigint not null default 0,
    by_person text default acting_person(),
    made_at timestamptz not null default now()
);
create index followed_by_connection on followed_sources (connection_id);

-- Rows of the source that cannot become records as they are now.
create table unfit_rows (
    collection_id bigint not null references followed_sources on delete cascade,
    key text collate "C" not null,
    reason text not null,
    at timestamptz not null default now(),
    primary key (collection_id, key)
);

create function tell_of_following() returns trigger language plpgsql as $$
declare
    own bigint := case tg_op when 'DELETE' then old.collection_id else new.collection_id end;
begin
    perform pg_notify('pale_harbor', json_build_object('subject', 'following', 'id', own, 'collection', own)::text);
    return null;
end $$;
create trigger following_told after insert or delete on followed_sources
    for each row execute function tell_of_following();
-- Not where it was merely looked at once more.
create trigger following_changed after update on followed_sources for each row when (
    (old.number, old.state, old.phase, old.done, old.waiting, old.problem, old.whole_wanted, old.changes, old.updated)
    is distinct from
    (new.number, new.state, new.phase, new.done, new.waiting, new.problem, new.whole_wanted, new.changes, new.updated)
) execute function tell_of_following();

alter table jobs drop constraint jobs_kind_check;
alter table jobs add constraint jobs_kind_check check (
    kind in ('import', 'filling', 'asking', 'reading', 'joining', 'tuning', 'ledger', 'remedies', 'simulating', 'growing')
);
