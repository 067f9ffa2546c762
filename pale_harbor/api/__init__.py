"""HTTP API: JSON in and out, errors as RFC 9457 problem documents, the built page beside it."""
