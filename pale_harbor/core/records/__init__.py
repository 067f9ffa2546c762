"""Records looked at as a whole: what their fields hold, and what is odd about it."""

from pale_harbor.core.records.distribution import Bin, Distribution, distribution_of
from pale_harbor.core.records.oddities import ODDITIES, oddities_of
from pale_harbor.core.records.profile import FieldProfile, Profiler

__all__ = ["ODDITIES", "Bin", "Distribution", "FieldProfile", "Profiler", "distribution_of", "oddities_of"]
