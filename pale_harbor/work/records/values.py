"""What a field's value is to readings, to choices of chains and to orders."""

from typing import Any

from pale_harbor.core.ranking import FieldValue


def texts_of(value: Any) -> list[str]:
    """The texts of a field's value as a reading sees them: none, one, or several."""
    match value:
        case None:
            return []
        case list():
            return [text for item in value for text in texts_of(item)]
        case bool():
            return ["true" if value else "false"]
        case _:
            return [str(value)]


def language_in(value: Any) -> str | None:
    """What a field says of a record's language: the first of several values."""
    texts = texts_of(value)
    return texts[0] if texts else None


def order_value(value: Any) -> FieldValue:
    """What equal scores are ordered by: the first of several values."""
    if isinstance(value, list):
        value = value[0] if value else None
    if value is None or isinstance(value, str):
        return value
    return float(value)
