"""Files of pages that a machine read."""
