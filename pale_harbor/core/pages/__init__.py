"""Pages that a machine read: words with boxes, the text that they make, and where its letters stand."""

from pale_harbor.core.pages.changing import realigned, replaced
from pale_harbor.core.pages.composing import ComposedText, composed
from pale_harbor.core.pages.hits import PageHit, hits_on
from pale_harbor.core.pages.places import PagePlaces, Place
from pale_harbor.core.pages.read_words import Box, Part, ReadWord

__all__ = [
    "Box",
    "ComposedText",
    "PageHit",
    "PagePlaces",
    "Part",
    "Place",
    "ReadWord",
    "composed",
    "hits_on",
    "realigned",
    "replaced",
]
