"""What a search box does while its query is being typed: whole suggestions for it, and what it may have meant."""
