"""Other people's databases, asked read-only and within bounds of time."""
