"""Commands about judged sets and judging."""
