-- Pages that a machine read: a field may hold what refers to the places of their words.
alter table fields drop constraint fields_role_check;
alter table fields add constraint fields_role_check
    check (role in ('key', 'title', 'language', 'picture', 'places'));

-- Places of the letters of records' texts, by the SHA-256 of what is kept, so that records that were changed back have their
-- former ones; of a collection for as long as it is there.
create table page_places (
    collection_id bigint not null references collections on delete cascade,
    digest text collate "C" not null,
    content text not null,
    primary key (collection_id, digest)
);

-- What a page's picture looks like in a list: a JPEG. None of pictures that are small themselves.
alter table pictures add column small bytea;

-- On their way in, as incoming rows.
create table incoming_places (
    job_id bigint not null references jobs on delete cascade,
    digest text collate "C" not null,
    content text not null,
    primary key (job_id, digest)
);
create table incoming_pictures (
    job_id bigint not null references jobs on delete cascade,
    name text not null,
    media_type text not null,
    content bytea not null,
    small bytea not null,
    primary key (job_id, name)
);
