-- A ranker's rules may end on a day: the same ranker gives other lists from then on.

alter table runs add column ended_rules integer[] not null default '{}';

alter table runs drop constraint runs_ranker_id_set_id_records_fingerprint_judged_revision_d_key;
alter table runs add constraint runs_key unique (
    ranker_id, set_id, records_fingerprint, judged_revision, depth, program_version, ended_rules
);
