-- Some words of chains and rankers changed. Kept ones are rewritten by store/rewriting.py, right after this script.
comment on column chains.notation is 'in the words of 0007';
comment on column rankers.document is 'in the words of 0007';
