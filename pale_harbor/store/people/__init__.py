"""People, their visits, what they may do with which collection, and what they did."""
