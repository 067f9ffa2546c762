"""Chains and word lists over HTTP."""
