"""Records, their pictures, and values to look at."""
