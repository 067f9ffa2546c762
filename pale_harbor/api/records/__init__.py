"""Records over HTTP."""
