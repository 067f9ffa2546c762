alter table jobs drop constraint jobs_kind_check;
alter table jobs add constraint jobs_kind_check
    check (kind in ('import', 'filling', 'asking', 'reading', 'joining', 'tuning', 'ledger'));

-- What each setting that a tuning tried came to, so that one that was cut off finds it again.
create table tuning_trials (
    job_id bigint not null references jobs on delete cascade,
    -- its number in the order in which settings were tried
    number integer not null,
    -- where each dial stood
    setting integer[] not null,
    -- by measure and, in it, by query
    values float8[] not null,
    -- expectations that it breaks
    broken integer not null,
    primary key (job_id, number)
);
