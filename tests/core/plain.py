"""The plain path: slow and obvious versions that judge the fast ones. No arrays, no shortcuts."""

from math import log

from pale_harbor.core.index import VALUE_GAP
from pale_harbor.core.ranking import Ranker, Reading
from pale_harbor.core.text import Chain, query_chain_of, record_chain_of

# For each record the values of each field.
Records = list[dict[str, list[str]]]


def occurrences(values: list[str], chain: Chain) -> list[tuple[str, int, int, int]]:
    """(term, position, start, end) of every token of a field's values."""
    found: list[tuple[str, int, int, int]] = []
    offset = next_position = 0
    for value in values:
        last = -1
        for token in chain.run(value):
            found.append((token.text, next_position + token.position, offset + token.start, offset + token.end))
            last = token.position
        offset += len(value) + 1
        next_position += last + 1 + VALUE_GAP
    return found


def reading_score(records: Records, record: int, reading: Reading, query: str) -> float:
    """BM25 of one record in one reading, straight from the formula."""
    chain = record_chain_of(reading.chain, None)
    terms = [[occurrence[0] for occurrence in occurrences(r.get(reading.field, []), chain)] for r in records]
    average = sum(map(len, terms)) / len(records) or 1.0
    words = [token.text for token in query_chain_of(reading.query_chain, query).run(query)]
    score = 0.0
    for word in dict.fromkeys(words):
        frequency = terms[record].count(word)
        if frequency:
            holding = sum(word in other for other in terms)
            idf = log(1 + (len(records) - holding + 0.5) / (holding + 0.5))
            norm = reading.k1 * (1 - reading.b + reading.b * len(terms[record]) / average)
            score += words.count(word) * idf * frequency * (reading.k1 + 1) / (frequency + norm)
    return score


def ranked(records: Records, ranker: Ranker, query: str, order: list[int]) -> list[tuple[int, float]]:
    """(record, score) of every match, best first; equal scores (to nine digits) by `order`."""
    scores = [
        sum(r.weight * reading_score(records, record, r, query) for r in ranker.readings if r.weight > 0)
        for record in range(len(records))
    ]
    matched = [record for record in range(len(records)) if scores[record] > 0]
    matched.sort(key=lambda record: (-float(f"{scores[record]:.9g}"), order[record]))
    return [(record, scores[record]) for record in matched]
