"""What visitors mean to be the same query."""

from unicodedata import normalize


def said_alike(query: str) -> str:
    """One text for a query whatever its capitals, its blanks and how its letters are composed; empty for none.

    >>> said_alike(" Ærlig  ØYVÆR "), said_alike("STRASSE") == said_alike("Straße")
    ('ærlig øyvær', True)
    """
    return " ".join(normalize("NFC", normalize("NFC", query).casefold()).split())
