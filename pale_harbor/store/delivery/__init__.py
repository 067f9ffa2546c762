"""Tables of what the world sees."""
