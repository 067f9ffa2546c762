"""What an index would be of many times the records: its vocabulary, what it takes up, what becomes of figures."""

from pale_harbor.core.growing.grown_index import grown_index
from pale_harbor.core.growing.heaps import Growth, HeapsLaw, growth_of, heaps_law
from pale_harbor.core.growing.sizes import ReadingGrowth, bytes_at, reading_growth
from pale_harbor.core.growing.trend import Trend, trend_of

__all__ = [
    "Growth",
    "HeapsLaw",
    "ReadingGrowth",
    "Trend",
    "bytes_at",
    "grown_index",
    "growth_of",
    "heaps_law",
    "reading_growth",
    "trend_of",
]
