-- When something was judged is when the server heard of it: a judge's own clock may be wrong by years.
alter table judgments
    -- by the judge's clock; null where no judge's page said it
    add column said_at timestamptz,
    -- of each device that said something of this record, how far it was in what it said
    add column said_orders jsonb not null default '{}';
update judgments set said_at = judged_at;
update judgments set judged_at = least(judged_at, now());
