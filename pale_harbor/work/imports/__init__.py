"""Records brought in: sources, uploads, imports and their mending."""
