-- What is to be known of a list stands with it: a run's notes were of all its queries, also of those that are not looked
-- at. Runs that were made before keep theirs.
alter table run_lists add column notes text[] not null default '{}';
