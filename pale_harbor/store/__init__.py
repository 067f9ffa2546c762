"""Records kept in PostgreSQL: one module a table, one function a question, SQL written out."""
