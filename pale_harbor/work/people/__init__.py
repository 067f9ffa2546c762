"""Who comes in, who may do what, and who did what."""
