"""BM25: what one term's occurrences in a record are worth.

    idf  = ln(1 + (N − df + 0.5) / (df + 0.5))
    part = idf · tf · (k1 + 1) / (tf + k1 · (1 − b + b · length / average_length))

Source: S. Robertson and H. Zaragoza, "The Probabilistic Relevance Framework: BM25 and Beyond",
2009; the 1 added inside the logarithm keeps the idf of very common terms above 0.
"""

from math import log
from typing import Any

from pale_harbor.core.arrays import FloatArray
from pale_harbor.core.kernels import inlined


def inverse_document_frequency(record_count: int, holding: int) -> float:
    """How rare a term is: ln(1 + (N − df + 0.5) / (df + 0.5)); always above 0.

    record_count: N, all records; holding: df, the records that hold the term.
    """
    return log(1 + (record_count - holding + 0.5) / (holding + 0.5))


def length_norm(k1: float, b: float, average_length: float) -> tuple[float, float]:
    """(base, slope), such that base + slope · length = k1 · (1 − b + b · length / average_length)."""
    return k1 * (1.0 - b), k1 * b / average_length


def length_norms(k1: float, bs: FloatArray, average_lengths: FloatArray) -> tuple[FloatArray, FloatArray]:
    """`length_norm` of many readings at once: both (turns, readings), as is bs; average_lengths: (readings,)."""
    return k1 * (1.0 - bs), k1 * bs / average_lengths


def term_part(factor: Any, frequency: Any, k1: float, norm: Any) -> Any:
    """What one term adds for one record, as numbers or as arrays.

    factor: idf times how often the query says the term; norm: base + slope · length.
    """
    return factor * (frequency * (k1 + 1.0)) / (frequency + norm)


# The same arithmetic for kernels: written once, so that no path differs in a digit.
term_part_in_kernel = inlined(term_part)
