"""`person`, `member` and `changes`: who may come in, who may do what, and who did what."""
