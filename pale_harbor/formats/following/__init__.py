"""What says how a live database is followed, and what it tells of its changes."""
