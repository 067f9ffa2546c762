"""`publish` and `key`: what the world sees, and who may ask for it."""
