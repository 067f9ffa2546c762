-- An import may ask that queries are made up from its records and the ranker that they come with is tuned on them.
alter table imports add column tune_start boolean not null default false;

alter table jobs drop constraint jobs_kind_check;
alter table jobs add constraint jobs_kind_check
    check (kind in ('import', 'filling', 'asking', 'reading', 'joining', 'tuning', 'ledger', 'remedies', 'simulating'));
