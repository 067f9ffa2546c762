"""Collections in step with live databases."""
