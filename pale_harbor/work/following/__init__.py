"""Collections kept in step with live databases."""
