"""Which letters of a field a query has matched."""

from collections.abc import Iterable

from pale_harbor.core.ranking.prepared import PreparedQuery

Stretch = tuple[int, int]


def marks(query: PreparedQuery, record_id: int) -> dict[str, list[Stretch]]:
    """For each field the matched stretches of a record's value, over all its readings.

    Start and end in code points; in order, and never overlapping. Several values of a field count
    as laid end to end, one code point apart.
    """
    by_field: dict[str, list[Stretch]] = {}
    for prepared in query.readings:
        for term in prepared.terms:
            stretches = prepared.index.stretches(term.text, record_id)
            by_field.setdefault(prepared.reading.field, []).extend(stretches)
    return {field: merged(stretches) for field, stretches in by_field.items() if stretches}


def merged(stretches: Iterable[Stretch]) -> list[Stretch]:
    """The same letters as stretches that neither overlap nor touch, in order.

    >>> merged([(4, 6), (0, 2), (5, 9)])
    [(0, 2), (4, 9)]
    """
    result: list[Stretch] = []
    for start, end in sorted(stretches):
        if result and start <= result[-1][1]:
            result[-1] = (result[-1][0], max(result[-1][1], end))
        else:
            result.append((start, end))
    return result
