"""Vectors: spaces of them, the nearest ones, and spaces that are learned from a collection's own words."""

from pale_harbor.core.vectors.learned import LearnedSpace, learned_space
from pale_harbor.core.vectors.nearest import Nearest, nearest
from pale_harbor.core.vectors.similarity import Similarity, comparable, similarities

__all__ = ["LearnedSpace", "Nearest", "Similarity", "comparable", "learned_space", "nearest", "similarities"]
