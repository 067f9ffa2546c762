"""Vectors: tables of them, the nearest ones, spaces learned from a collection's own words, maps to look at."""

from pale_harbor.core.vectors.door import Fault, faults_of
from pale_harbor.core.vectors.examples import wanted_by_examples
from pale_harbor.core.vectors.learned import LearnedSpace, learned_space
from pale_harbor.core.vectors.nearest import Nearest, nearest, similarity_of_records
from pale_harbor.core.vectors.plane import Plane, plane_of
from pale_harbor.core.vectors.pooled import pooled_vectors
from pale_harbor.core.vectors.similarity import Similarity
from pale_harbor.core.vectors.table import VectorTable, merged_tables, vector_table
from pale_harbor.core.vectors.word_similarity import WordSimilarity, word_similarity

__all__ = [
    "Fault",
    "LearnedSpace",
    "Nearest",
    "Plane",
    "Similarity",
    "VectorTable",
    "WordSimilarity",
    "faults_of",
    "learned_space",
    "merged_tables",
    "nearest",
    "plane_of",
    "pooled_vectors",
    "similarity_of_records",
    "vector_table",
    "wanted_by_examples",
    "word_similarity",
]
