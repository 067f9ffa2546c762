-- Judged sets in revisions: what held from one revision on until, and without, another; null: it holds still.
alter table judged_sets add column queries_revision bigint not null default 0;
update judged_sets set queries_revision = revision;
-- How several judges' grades become the one that counts.
alter table judged_sets add column settling text not null default 'median' check (settling in ('median', 'latest', 'by_hand'));
-- Which share of new queries is locked away.
alter table judged_sets add column locked_share float8 not null default 0 check (locked_share between 0 and 0.9);
-- What each grade means here, and an example of it: a text for each grade from 0 to 3.
alter table judged_sets add column meanings text[] not null default '{}';

alter table grades drop constraint grades_set_id_query_id_fkey;
alter table queries drop constraint queries_pkey;
alter table queries add column filters json not null default '[]';
alter table queries add column language text;
-- How often visitors asked it; null where nobody knows.
alter table queries add column asked bigint check (asked >= 0);
alter table queries add column nothing_to_find boolean not null default false;
-- Locked away from everyday looking.
alter table queries add column locked boolean not null default false;
alter table queries add column since bigint;
alter table queries add column until bigint;
update queries set since = judged_sets.revision from judged_sets where judged_sets.id = set_id;
alter table queries alter column since set not null;
alter table queries add primary key (set_id, query_id, since);

-- The grades that count, settled from the judgments.
alter table grades drop constraint grades_pkey;
alter table grades add column since bigint;
alter table grades add column until bigint;
update grades set since = judged_sets.revision from judged_sets where judged_sets.id = set_id;
alter table grades alter column since set not null;
alter table grades add primary key (set_id, query_id, record_key, since);

-- What each judge said, last. Taken back: the row stays, so that what is sent twice or late changes nothing.
create table judgments (
    set_id bigint not null references judged_sets on delete cascade,
    query_id text collate "C" not null,
    record_key text collate "C" not null,
    -- empty where nobody said who judged
    judge text not null,
    -- null where the judge passed
    grade smallint check (grade between 0 and 3),
    note text not null default '',
    judged_at timestamptz not null default now(),
    -- the record as it was judged; null where the collection did not hold it
    record_hash bytea,
    taken_back boolean not null default false,
    primary key (set_id, query_id, record_key, judge)
);
insert into judgments (set_id, query_id, record_key, judge, grade, record_hash)
select set_id, query_id, record_key, '', grade, content_hash
from grades
join judged_sets on judged_sets.id = set_id
left join records on records.collection_id = judged_sets.collection_id and records.key = record_key;

-- What somebody settled by hand, whatever the judges said.
create table settlements (
    set_id bigint not null references judged_sets on delete cascade,
    query_id text collate "C" not null,
    record_key text collate "C" not null,
    grade smallint not null check (grade between 0 and 3),
    note text not null default '',
    settled_at timestamptz not null default now(),
    primary key (set_id, query_id, record_key)
);

create table expectations (
    id bigint generated always as identity primary key,
    set_id bigint not null references judged_sets on delete cascade,
    query_id text collate "C" not null,
    kind text not null check (kind in ('among_first', 'never', 'more_than', 'nothing')),
    record_key text collate "C",
    number integer check (number >= 0),
    note text not null default '',
    since bigint not null,
    until bigint
);
create index expectations_of_set on expectations (set_id);

-- Work for judges: a pool, shared out. A judge comes by a token that nobody can guess.
create table judging_tasks (
    id bigint generated always as identity primary key,
    set_id bigint not null references judged_sets on delete cascade,
    name text not null,
    document json not null,
    closed boolean not null default false,
    made_at timestamptz not null default now()
);
create table task_judges (
    task_id bigint not null references judging_tasks on delete cascade,
    judge text not null,
    token text not null unique,
    primary key (task_id, judge)
);
create table task_items (
    task_id bigint not null,
    judge text not null,
    place integer not null,
    query_id text collate "C" not null,
    record_key text collate "C" not null,
    primary key (task_id, judge, place),
    unique (task_id, judge, query_id, record_key),
    foreign key (task_id, judge) references task_judges on delete cascade
);

-- Rankers that are not ours: a run file that somebody brought, or a service that is asked over HTTP.
create table outside_rankers (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    name text not null check (name ~ '^[a-z0-9][a-z0-9_-]{0,62}$'),
    document json not null,
    -- header values, which are sent to the service and shown to nobody
    secrets json not null default '{}',
    state text not null default 'new' check (state in ('new', 'waiting', 'running', 'done', 'failed', 'cancelled')),
    set_id bigint references judged_sets on delete set null,
    done bigint not null default 0,
    in_all bigint not null default 0,
    cancel_wanted boolean not null default false,
    problem text,
    unique (collection_id, name)
);

-- Runs are of the revision that last changed the queries: a grade more does not make another list.
alter table runs rename column judged_revision to queries_revision;
alter table runs alter column ranker_id drop not null;
alter table runs add column outside_id bigint references outside_rankers on delete cascade;
alter table runs add constraint runs_of_one check (num_nonnulls(ranker_id, outside_id) = 1);

-- A measurement follows from a run and a revision of its judged set: it is computed, not kept.
drop table measurements;

-- Which rankers were measured on the open part of a set since its locked part was opened last.
create table looks (
    set_id bigint not null references judged_sets on delete cascade,
    fingerprint bytea not null,
    looked_at timestamptz not null default now(),
    primary key (set_id, fingerprint)
);

create table diary (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    written_at timestamptz not null default now(),
    kind text not null check (kind in ('locked look', 'decision')),
    title text not null,
    body text not null default '',
    details json not null default '{}'
);
create index diary_of_collection on diary (collection_id, id);
