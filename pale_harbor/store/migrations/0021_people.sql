-- People who sign in, what they may do with which collection, and what they did.
create table people (
    id bigint generated always as identity primary key,
    -- by which they sign in, and by which others know them
    name text not null check (name ~ '^[a-z0-9][a-z0-9._@-]{0,62}$'),
    shown text not null check (shown <> ''),
    -- an argon2 hash; null where somebody else says who they are
    password text,
    issuer text,
    subject text,
    keeper boolean not null default false,
    makes_collections boolean not null default false,
    -- from when on they may not come in any more
    left_at timestamptz,
    made_at timestamptz not null default now(),
    unique (name),
    unique (shown),
    unique (issuer, subject)
);

-- What a browser or a program shows to be somebody: kept as the SHA-256 of it.
create table visits (
    hash bytea primary key,
    person_id bigint not null references people on delete cascade,
    kind text not null check (kind in ('browser', 'key')),
    label text not null,
    begun_at timestamptz not null default now(),
    seen_at timestamptz not null default now(),
    ends_at timestamptz not null
);
create index visits_of_person on visits (person_id);

create table members (
    collection_id bigint not null references collections on delete cascade,
    person_id bigint not null references people on delete cascade,
    role text not null check (role in ('judge', 'reader', 'engineer', 'owner')),
    since timestamptz not null default now(),
    primary key (collection_id, person_id)
);
create index members_of_person on members (person_id);

-- Whoever may come in, with what they are members of.
create view visitors as
select people.id as person_id, people.name, shown, password is not null as has_password, keeper, makes_collections,
    coalesce((
        select json_object_agg(collections.name, role)
        from members join collections on collections.id = collection_id
        where members.person_id = people.id
    ), '{}') as roles,
    array(
        select collection_id from members where members.person_id = people.id and role <> 'judge'
    ) as collections
from people where left_at is null;

-- A link by which somebody becomes a person here, or a member of a collection. Kept as its SHA-256.
create table invitations (
    id bigint generated always as identity primary key,
    hash bytea not null unique,
    shown text not null,
    collection_id bigint references collections on delete cascade,
    role text check (role in ('judge', 'reader', 'engineer', 'owner')),
    keeper boolean not null default false,
    by_person text,
    made_at timestamptz not null default now(),
    ends_at timestamptz not null,
    check ((collection_id is null) = (role is null)),
    check (keeper or collection_id is not null)
);

-- Attempts to sign in that failed, for as long as they count.
create table failed_visits (
    failed_at timestamptz not null default now(),
    name text not null,
    address text not null
);
create index failed_visits_by_time on failed_visits (failed_at);

-- Who changes what: the person whose id a transaction says. Nobody where nobody signs in.
create function acting_person_id() returns bigint language sql stable as $$
    select nullif(current_setting('pale_harbor.person', true), '')::bigint
$$;
create function acting_person() returns text language sql stable as $$
    select shown from people where id = acting_person_id()
$$;

-- Judges' links are kept as their SHA-256 too; null where one was drawn back. Whoever signs in comes without.
alter table task_judges add column link_hash bytea unique;
update task_judges set link_hash = sha256(convert_to(token, 'UTF8'));
alter table task_judges drop column token;
alter table task_judges add column link_ends_at timestamptz;
alter table task_judges add column person_id bigint references people on delete set null;
create index tasks_of_person on task_judges (person_id) where person_id is not null;

create table changes (
    id bigint generated always as identity primary key,
    at timestamptz not null default now(),
    -- the name as it was then; null where nobody signed in
    person text default acting_person(),
    -- the name of the collection as it was then, which outlives it
    collection text,
    collection_id bigint references collections on delete set null,
    what text not null,
    about text not null default ''
);
create index changes_of_collection on changes (collection_id, id);

alter table rankers add column by_person text;
alter table chains add column by_person text;
alter table word_lists add column by_person text;
alter table diary add column by_person text;
alter table settlements add column by_person text;
alter table earlier_records add column by_person text;
alter table drafts add column by_person text;
alter table drafts add column revision bigint not null default 1;
alter table jobs add column by_person text;
alter table jobs add column person_id bigint references people on delete set null;
-- Set apart from adding them, so that what was there before is nobody's.
alter table rankers alter column by_person set default acting_person();
alter table chains alter column by_person set default acting_person();
alter table word_lists alter column by_person set default acting_person();
alter table diary alter column by_person set default acting_person();
alter table settlements alter column by_person set default acting_person();
alter table earlier_records alter column by_person set default acting_person();
alter table drafts alter column by_person set default acting_person();
alter table jobs alter column by_person set default acting_person();
alter table jobs alter column person_id set default acting_person_id();

-- Whoever makes a collection, by whatever way, is its owner.
create function own_what_is_made() returns trigger language plpgsql as $$
begin
    insert into members (collection_id, person_id, role)
    select new.id, people.id, 'owner' from people where people.id = acting_person_id();
    return null;
end $$;
create trigger collections_owned after insert on collections for each row execute function own_what_is_made();

-- Engineers see each other's drafts as they change.
create function tell_of_draft() returns trigger language plpgsql as $$
begin
    perform pg_notify('pale_harbor', json_build_object(
        'subject', 'drafts', 'id', new.id, 'collection', new.collection_id)::text);
    return null;
end $$;
create or replace function tell_of_revision() returns trigger language plpgsql as $$
declare
    -- of a collection its own id, of a judged set that of its collection
    own bigint := case tg_argv[0] when 'records' then new.id else (to_jsonb(new) ->> 'collection_id')::bigint end;
begin
    perform pg_notify('pale_harbor', json_build_object(
        'subject', tg_argv[0], 'id', new.id, 'collection', own, 'revision', new.revision)::text);
    return null;
end $$;
create or replace function tell_of_judgments() returns trigger language plpgsql as $$
begin
    perform pg_notify('pale_harbor', json_build_object(
        'subject', 'said', 'id', sets.set_id, 'collection', judged_sets.collection_id)::text)
    from (select distinct set_id from said) as sets join judged_sets on judged_sets.id = sets.set_id;
    return null;
end
$$;
create trigger drafts_told after insert or update on drafts for each row execute function tell_of_draft();
