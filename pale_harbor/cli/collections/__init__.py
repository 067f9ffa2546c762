"""Commands about collections."""
