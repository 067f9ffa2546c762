"""Records looked at, changed one by one, drawn as samples and written out."""
