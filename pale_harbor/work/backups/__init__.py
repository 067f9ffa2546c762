"""Backups made and restored, and whether what was restored is what was kept."""
