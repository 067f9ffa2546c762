"""Following a live database, over HTTP."""
