"""The engine room: what is kept in memory, and for how long."""
