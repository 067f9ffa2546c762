"""A collection opened: slabs of its records, which of them live, and the tidying of what is left behind."""
