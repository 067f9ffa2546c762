"""Saved chains and word lists."""
