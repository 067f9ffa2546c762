"""Comparing rankers: differences, how sure they are, and what it would take to be surer."""

from pale_harbor.core.comparing.comparison import STILL, Comparison, comparison
from pale_harbor.core.comparing.deciding import Deciding, Open, deciding_records
from pale_harbor.core.comparing.detectable import ALPHA, detectable_difference, queries_needed, spread_of
from pale_harbor.core.comparing.intervals import Interval, bootstrap_interval
from pale_harbor.core.comparing.significance import chance_of_one, holm, paired_t_p, randomisation_p, wilcoxon_p
from pale_harbor.core.comparing.verdict import Outcome, Tried, Verdict, tried, tried_in, verdict

__all__ = [
    "ALPHA",
    "STILL",
    "Comparison",
    "Deciding",
    "Interval",
    "Open",
    "Outcome",
    "Tried",
    "Verdict",
    "bootstrap_interval",
    "chance_of_one",
    "comparison",
    "deciding_records",
    "detectable_difference",
    "holm",
    "paired_t_p",
    "queries_needed",
    "randomisation_p",
    "spread_of",
    "tried",
    "tried_in",
    "verdict",
    "wilcoxon_p",
]
