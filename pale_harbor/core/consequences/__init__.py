"""Consequences: what a chain does to a whole collection, and what is likely wrong with it."""

from pale_harbor.core.consequences.doctor import AskedQuery, Finding, Mend, TrialRecords, findings_of
from pale_harbor.core.consequences.figures import Consequences, Gathered, IndexBytes, Merge, StageEffect, WordCount
from pale_harbor.core.consequences.gathering import Gatherer

__all__ = [
    "AskedQuery",
    "Consequences",
    "Finding",
    "Gathered",
    "Gatherer",
    "IndexBytes",
    "Mend",
    "Merge",
    "StageEffect",
    "TrialRecords",
    "WordCount",
    "findings_of",
]
