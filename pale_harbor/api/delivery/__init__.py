"""What the world sees, over HTTP: the search endpoint, and how it is kept."""
