"""Vectors: tables of them, the nearest ones, spaces learned from a collection's own words, maps to look at."""

from pale_harbor.core.vectors.door import Fault, faults_of
from pale_harbor.core.vectors.examples import wanted_by_examples
from pale_harbor.core.vectors.groups import (
    FEWEST_GROUPED,
    Groups,
    NearEnough,
    grouped,
    groups_for,
    nearest_in_groups,
    regrouped,
)
from pale_harbor.core.vectors.learned import LearnedSpace, learned_space
from pale_harbor.core.vectors.nearest import Nearest, nearest, similarity_of_records
from pale_harbor.core.vectors.plane import Plane, plane_of
from pale_harbor.core.vectors.pooled import pooled_vectors
from pale_harbor.core.vectors.similarity import Similarity
from pale_harbor.core.vectors.table import VectorTable, merged_tables, vector_table
from pale_harbor.core.vectors.word_similarity import WordSimilarity, word_similarity

__all__ = [
    "FEWEST_GROUPED",
    "Fault",
    "Groups",
    "LearnedSpace",
    "NearEnough",
    "Nearest",
    "Plane",
    "Similarity",
    "VectorTable",
    "WordSimilarity",
    "faults_of",
    "grouped",
    "groups_for",
    "learned_space",
    "merged_tables",
    "nearest",
    "nearest_in_groups",
    "plane_of",
    "pooled_vectors",
    "regrouped",
    "similarity_of_records",
    "vector_table",
    "wanted_by_examples",
    "word_similarity",
]
