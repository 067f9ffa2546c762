"""Small words by language, that say little about what a text is about."""
