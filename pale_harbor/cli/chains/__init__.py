"""Commands about chains and word lists."""
