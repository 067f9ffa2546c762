"""Records looked at as a whole: what their fields hold, and what is odd about it."""

from pale_harbor.core.records.oddities import ODDITIES, oddities_of
from pale_harbor.core.records.profile import Bin, FieldProfile, Profiler

__all__ = ["ODDITIES", "Bin", "FieldProfile", "Profiler", "oddities_of"]
