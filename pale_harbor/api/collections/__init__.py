"""Collections over HTTP."""
