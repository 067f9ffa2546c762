"""Score sheets: what is known of every candidate of a judged query, and lists weighed from it."""
