"""A stretch of a text: from a letter, up to one that is no longer in it."""

Stretch = tuple[int, int]
