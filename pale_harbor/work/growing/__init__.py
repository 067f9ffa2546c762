"""Collections as they would be at many times their records."""
