alter table jobs drop constraint jobs_kind_check;
alter table jobs add constraint jobs_kind_check
    check (kind in ('import', 'filling', 'asking', 'reading', 'joining', 'tuning', 'ledger', 'remedies'));
