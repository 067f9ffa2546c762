"""Rankers measured and compared, outside ones among them."""
