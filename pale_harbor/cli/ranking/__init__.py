"""Commands that search, and keep rankers."""
