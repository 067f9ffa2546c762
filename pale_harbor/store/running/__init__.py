"""Long work, and holding it."""
