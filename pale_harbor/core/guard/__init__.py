"""Guard rules: what a change of a ranker may not do, and whether it did."""
