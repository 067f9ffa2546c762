"""Saved chains and word lists, where they are used, and what a chain does to a collection."""
