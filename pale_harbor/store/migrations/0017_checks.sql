-- Checks of guard rules as they were made: what a build server asked, and whether it held.
create table checks (
    id bigint generated always as identity primary key,
    collection_id bigint not null references collections on delete cascade,
    set_id bigint not null references judged_sets on delete cascade,
    checked_at timestamptz not null default now(),
    -- as people name them: first:2
    ranker text not null,
    against text,
    holds boolean not null,
    -- each rule with whether it held and what was found
    rules json not null
);
create index checks_of_a_set on checks (set_id, id desc);
