"""Commands that bring records in and write them out."""
