-- Why there is no vector stands in a column of its own: a vector of one byte used to stand for it.
alter table vectors alter column vector drop not null, add column fault smallint;
update vectors set fault = get_byte(vector, 0), vector = null where octet_length(vector) = 1;
alter table vectors add check ((vector is null) <> (fault is null));
