"""Whole tables out of the database and into it, for backups."""
