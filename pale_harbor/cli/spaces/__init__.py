"""Commands about spaces."""
