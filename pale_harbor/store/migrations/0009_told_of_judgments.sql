-- What judges say is told of, also where it changes no grade that counts.
create function tell_of_judgments() returns trigger language plpgsql as $$
begin
    perform pg_notify('pale_harbor', json_build_object('subject', 'said', 'id', set_id)::text)
    from (select distinct set_id from said) as sets;
    return null;
end
$$;
create trigger judgments_told after insert on judgments referencing new table as said
    for each statement execute function tell_of_judgments();
create trigger changed_judgments_told after update on judgments referencing new table as said
    for each statement execute function tell_of_judgments();
