"""Commands about records."""
