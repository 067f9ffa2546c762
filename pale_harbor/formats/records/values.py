"""Values of other systems as JSON knows them."""

import datetime
from decimal import Decimal
from typing import Any
from uuid import UUID


def plain_value(value: Any) -> Any:
    """A date as ISO 8601 text, an exact number as a number, and so on; ValueError for bytes.

    >>> plain_value(datetime.date(1846, 5, 3))
    '1846-05-03'
    """
    match value:
        case None | str() | bool() | int() | float():
            return value
        case datetime.datetime() | datetime.date() | datetime.time():
            return value.isoformat()
        case Decimal():
            return int(value) if value == value.to_integral_value() else float(value)
        case UUID():
            return str(value)
        case datetime.timedelta():
            return value.total_seconds()
        case list() | tuple():
            return [plain_value(item) for item in value]
        case dict():
            return {str(name): plain_value(item) for name, item in value.items()}
        case bytes() | bytearray() | memoryview():
            raise ValueError("it holds bytes, and a field holds texts, numbers or flags")
        case _:
            return str(value)
