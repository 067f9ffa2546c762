"""The plain path: slow and obvious versions that judge the fast ones. No arrays, no shortcuts."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil, inf, log

import regex

from pale_harbor.core.index import VALUE_GAP
from pale_harbor.core.index.near_terms import edit_distance
from pale_harbor.core.index.similar_terms import trigram_similarity
from pale_harbor.core.query import parse_query
from pale_harbor.core.query.words import literal_chain, value_chain
from pale_harbor.core.ranking import CombineHow, Ranker, Reading, SlackWhen
from pale_harbor.core.ranking.demands import is_met, live_demand
from pale_harbor.core.ranking.plan import LiteralWords, OpenWord, QueryPlan, TypedWord, ValueRange, WordRun, plan_of
from pale_harbor.core.ranking.preparing import MOST_PAIRS, MOST_SLACKENED, folded, stands_beside_its_parts
from pale_harbor.core.text import Chain, Token, query_chain_of, record_chain_of
from pale_harbor.core.text.unstemmed import unstemmed
from pale_harbor.core.text.ways import Way, ways_of

# For each record the values of each field.
Records = list[dict[str, list[str]]]


def occurrences(values: list[str], chain: Chain) -> list[tuple[str, int, int, int]]:
    """(term, position, start, end) of every token of a field's values."""
    return [(term, position, start, end) for term, position, start, end, _ in spanning(values, chain)]


def spanning(values: list[str], chain: Chain) -> list[tuple[str, int, int, int, int]]:
    """(term, position, start, end, span) of every token of a field's values."""
    found: list[tuple[str, int, int, int, int]] = []
    offset = next_position = 0
    for value in values:
        last = -1
        for token in chain.run(value):
            place = next_position + token.position
            found.append((token.text, place, offset + token.start, offset + token.end, token.span))
            last = token.position
        offset += len(value) + 1
        next_position += last + 1 + VALUE_GAP
    return found


@dataclass
class Wanted:
    """One thing that a reading looks for: how often each record has it."""

    name: tuple[str, str]
    times: int
    worth: float
    bits: int
    frequencies: list[float]
    idf: float

    def part(self, record: int, k1: float, norm: float) -> float:
        frequency = self.frequencies[record]
        return self.times * self.worth * self.idf * frequency * (k1 + 1) / (frequency + norm) if frequency else 0.0


class PlainReading:
    """Every record's tokens in one reading, and what a query looks for in them."""

    def __init__(self, records: Records, plan: QueryPlan, number: int) -> None:
        self.reading: Reading = plan.readings[number]
        self.plan = plan
        self.literal = plan.is_literal(number)
        chain = record_chain_of(self.reading.chain, None)
        self.tokens = [spanning(record.get(self.reading.field, []), chain) for record in records]
        self.count = len(records)
        self.average = sum(map(len, self.tokens)) / len(records) or 1.0
        self.slackened = self.pairs = 0
        self.vocabulary = sorted({token[0] for own in self.tokens for token in own})

    def looks_for(self, leaf: object) -> bool:
        if isinstance(leaf, ValueRange):
            return False
        field = leaf.field  # pyright: ignore[reportAttributeAccessIssue]
        if field is not None and field != self.reading.field:
            return False
        if isinstance(leaf, LiteralWords):
            return self.literal and self.reading.chain == (value_chain() if leaf.whole else literal_chain())
        own = [r for i, r in enumerate(self.plan.readings) if not self.plan.is_literal(i)]
        of_field = [r.chain for r in own if r.field == self.reading.field]
        if not of_field:
            return True
        if isinstance(leaf, WordRun):
            return not self.literal
        # Beginnings and endings: in words that no stage cut, once.
        is_whole = self.reading.chain in [unstemmed(chain) for chain in of_field]
        return is_whole and (not self.literal or self.reading.chain not in of_field)

    def frequencies(self, term: str) -> list[float]:
        return [sum(token[0] == term for token in own) for own in self.tokens]

    def idf(self, frequencies: list[float]) -> float:
        holding = sum(frequency > 0 for frequency in frequencies)
        return log(1 + (self.count - holding + 0.5) / (holding + 0.5))

    def norm(self, record: int) -> float:
        return self.reading.k1 * self.length_share(record)

    def length_share(self, record: int) -> float:
        return 1 - self.reading.b + self.reading.b * len(self.tokens[record]) / self.average

    def pooled(self, wanted: Wanted, record: int) -> float:
        frequency = wanted.frequencies[record]
        return self.reading.weight * wanted.worth * frequency / self.length_share(record) if frequency else 0.0

    def query_tokens(self, text: str) -> list[Token]:
        tokens = query_chain_of(self.reading.query_chain, text).run(text)
        return [token.with_text(self._as_held(token.text)) for token in tokens]

    def _as_held(self, term: str) -> str:
        bare = regex.sub(r"^\p{P}+|\p{P}+$", "", term)
        return bare if bare and term not in self.vocabulary else term

    def wanted(
        self, held: dict[tuple[int, int], int], begun: int | None, whole: Mapping[str, set[int]]
    ) -> list[Wanted]:
        found: list[Wanted] = []
        for number, leaf in enumerate(self.plan.leaves):
            if self.looks_for(leaf):
                if isinstance(leaf, WordRun):
                    found += self._run(leaf, {word: held.get((number, word), 0) for word in range(len(leaf.words))})
                elif isinstance(leaf, OpenWord):
                    found.append(self._open(leaf))
                elif isinstance(leaf, TypedWord):
                    found += self._beginning(leaf, begun, whole)
                elif isinstance(leaf, LiteralWords):
                    found += self._phrase(leaf)
        return found

    def _run(self, run: WordRun, held: dict[int, int]) -> list[Wanted]:
        tokens = self.query_tokens(run.text)
        ways = ways_of(query_chain_of(self.reading.query_chain, run.text), run.text)
        beside = {number for way in ways for word in way.words for number in word}
        typed = [token for number, token in enumerate(tokens) if number not in beside]
        worth = float(run.scored)
        found: list[Wanted] = []
        for term in dict.fromkeys(token.text for token in typed):
            own = [token for token in typed if token.text == term]
            words = {word for token in own for word in overlapped(token, run)}
            bits = self._bits(words, run) if self.reading.share == 0 else 0
            for way in ways:
                if self._alone(way, tokens) == term:
                    bits |= self._bits(self._said_by(way, run), run)
            plain = Wanted(("term", term), len(own), worth, bits, self.frequencies(term), 0)
            plain.idf = self.idf(plain.frequencies)
            found.append(plain)
            if run.scored and self.takes_slack:
                found += self._slack(plain, max([held[word] for word in words], default=0))
        found += self._otherwise(run, tokens, ways, typed)
        if self.reading.share > 0:
            found += self._enough(run, typed)
        if run.scored and self.reading.nearness is not None:
            found += self._near(tokens)
        return found

    @staticmethod
    def _bits(words: set[int], run: WordRun) -> int:
        return sum(1 << run.words[word][2] for word in words)

    @staticmethod
    def _said_by(way: Way, run: WordRun) -> set[int]:
        return {n for n, (start, end, _) in enumerate(run.words) if way.start < end and start < way.end}

    def _alone(self, way: Way, tokens: list[Token]) -> str | None:
        terms = {tokens[number].text for word in way.words for number in word}
        return min(terms) if len(terms) == 1 and len(way.words) == 1 and self.reading.share == 0 else None

    def _otherwise(self, run: WordRun, tokens: list[Token], ways: list[Way], typed: list[Token]) -> list[Wanted]:
        found: list[Wanted] = []
        said = {token.text for token in typed}
        flat = [(tokens[n].text, way) for way in ways for word in way.words for n in word]
        for term in dict.fromkeys(term for term, _ in flat if term not in said):
            own = [way for text, way in flat if text == term]
            bits = [self._bits(self._said_by(way, run), run) for way in own if self._alone(way, tokens) == term]
            wanted = Wanted(
                ("term" if own[0].instead else "otherwise", term), len(own), 0.0, 0, self.frequencies(term), 0
            )
            for one in bits:
                wanted.bits |= one
            wanted.idf = self.idf(wanted.frequencies)
            if not own[0].instead:
                stands_for = [t for t in typed if t.start < own[0].end and own[0].start < t.end]
                held = [self.frequencies(t.text) for t in stands_for if any(self.frequencies(t.text))]
                if held:
                    wanted.idf = min(wanted.idf, max(self.idf(one) for one in held))
            if run.scored:
                wanted.worth = 1.0 if own[0].instead else self.reading.synonyms
            found.append(wanted)
        for way in ways:
            if self._alone(way, tokens) is None and any(way.words):
                held = [self._holds_way(own, way, tokens) for own in self.tokens]
                bits_of_way = self._bits(self._said_by(way, run), run)
                found.append(Wanted(("way", str(way)), 1, 0.0, bits_of_way, held, 0.0))
        return found

    def _holds_way(self, own: list[tuple[str, int, int, int, int]], way: Way, tokens: list[Token]) -> float:
        here = {token[0] for token in own}
        for word in way.words:
            terms = {tokens[number].text for number in word}
            if terms and len(terms & here) < max(1, ceil(round(self.reading.share * len(terms), 9))):
                return 0.0
        return 1.0

    def stop_words(self) -> set[int]:
        """The bits of words that only the stop words of this reading's chain leave out."""
        bits: set[int] = set()
        for leaf in self.plan.leaves:
            if isinstance(leaf, WordRun) and leaf.scored and self.looks_for(leaf):
                chain = query_chain_of(self.reading.query_chain, leaf.text)
                stops = [i for i, call in enumerate(chain.calls) if call.name == "stopwords"]
                kept = {word for token in chain.run(leaf.text) for word in overlapped(token, leaf)}
                for stop in stops:
                    before = chain.trace(leaf.text)[stop - 1].tokens
                    after = chain.trace(leaf.text)[stop].tokens
                    for token in before:
                        if (token.start, token.end) not in {(one.start, one.end) for one in after}:
                            bits |= {leaf.words[word][2] for word in set(overlapped(token, leaf)) - kept}
        return bits - {-1}

    @property
    def takes_slack(self) -> bool:
        ranker = self.plan.ranker
        return ranker.spelling is not None and self.reading.slack and self.reading.share == 0 and not self.literal

    def _slack(self, plain: Wanted, held: int) -> list[Wanted]:
        spelling = self.plan.ranker.spelling
        assert spelling is not None
        term = plain.name[1]
        if (spelling.when is SlackWhen.MISSING and held) or (spelling.when is SlackWhen.RARE and held >= spelling.rare):
            return []
        digits = any(letter.isdigit() for letter in term)
        edits = spelling.edits_for(term)
        if (edits == 0 and (spelling.similar is None or digits)) or self.slackened == MOST_SLACKENED:
            return []
        self.slackened += 1
        candidates: list[tuple[float, int, str, int]] = []
        for other in self.vocabulary:
            distance = edit_distance(term, other)
            near = 0 < distance <= edits and other[: spelling.fixed_start] == term[: spelling.fixed_start]
            similar = trigram_similarity(term, other)
            alike = spelling.similar is not None and not digits and similar >= spelling.similar and other != term
            worth = max(spelling.worth**distance if near else 0.0, similar if alike else 0.0)
            if near or alike:
                candidates.append((-worth, -sum(f > 0 for f in self.frequencies(other)), other, distance))
        found: list[Wanted] = []
        exact_held = any(plain.frequencies)
        for worth, _, other, _ in sorted(candidates)[: spelling.most]:
            frequencies = self.frequencies(other)
            idf = min(self.idf(frequencies), plain.idf) if exact_held else self.idf(frequencies)
            found.append(Wanted(("slack", other), plain.times, -worth, plain.bits, frequencies, idf))
        return found

    def _enough(self, run: WordRun, tokens: list[Token]) -> list[Wanted]:
        found: list[Wanted] = []
        for start, end, bit in run.words:
            of_word = [token for token in tokens if token.start < end and start < token.end]
            wholes = {token.text for token in of_word if stands_beside_its_parts(token, of_word)}
            own = {token.text for token in of_word} - wholes
            if own:
                enough = max(1, ceil(round(self.reading.share * len(own), 9)))
                texts = [{token[0] for token in tokens} for tokens in self.tokens]
                held = [float(len(own & text) >= enough or bool(wholes & text)) for text in texts]
                found.append(Wanted(("enough", run.text[start:end]), 1, 0.0, 1 << bit, held, 0.0))
        return found

    def _near(self, tokens: list[Token]) -> list[Wanted]:
        nearness = self.reading.nearness
        assert nearness is not None
        pairs: list[tuple[str, str, int]] = []
        for first in tokens:
            ends = first.position + first.span
            after = min((token.position for token in tokens if token.position >= ends), default=None)
            pairs += [(first.text, t.text, after - ends) for t in tokens if after is not None and t.position == after]
        found: list[Wanted] = []
        for a, b, apart in list(dict.fromkeys(pairs))[: MOST_PAIRS - self.pairs]:
            self.pairs += 1
            idf = min(self.idf(self.frequencies(a)), self.idf(self.frequencies(b)))
            frequencies: list[float] = []
            for own in self.tokens:
                total = 0.0
                for _, place, _, _, span in (token for token in own if token[0] == a):
                    off: float = inf
                    for _, other, _, _, other_span in (token for token in own if token[0] == b):
                        if other >= place + span:
                            off = min(off, abs(other - place - span - apart))
                        elif place >= other + other_span and not nearness.same_order:
                            off = min(off, abs(place - other - other_span - apart))
                    total += 1 / (off + 1) ** 2 if off <= nearness.gap else 0.0
                frequencies.append(total)
            found.append(Wanted(("near", f"{a} {b}"), pairs.count((a, b, apart)), nearness.weight, 0, frequencies, idf))
        return found

    def _open(self, word: OpenWord) -> Wanted:
        chain = record_chain_of(self.reading.chain, None)
        text = word.text.lower() if any(call.name == "lower" for call in chain.calls) else word.text
        fits = [t for t in self.vocabulary if (t.startswith(text) if word.begins else t.endswith(text))]
        frequencies = [float(sum(token[0] in fits for token in own)) for own in self.tokens]
        name = ("open", text + str(word.begins))
        return Wanted(name, 1, float(word.scored), 1 << word.bit, frequencies, self.idf(frequencies))

    def typed_texts(self, run: WordRun) -> dict[str, int]:
        """The letters of a run's last word as records of this reading have it, and the bits of what they are of."""
        ending = [t for t in record_chain_of(self.reading.chain, None).run(run.text) if t.end == len(run.text)]
        if not ending:
            start, end, bit = run.words[-1]
            return {folded(run.text[start:end], self.reading): 1 << bit}
        longest = min(ending, key=lambda token: token.start)
        return {longest.text: self._bits(set(overlapped(longest, run)), run)}

    def beginning_so(self, text: str, edits: int) -> list[str]:
        """Terms whose nearest beginning is so many edits away; with edits the first letter has to agree."""
        if edits == 0:
            return [term for term in self.vocabulary if term.startswith(text)]
        near = [term for term in self.vocabulary if term[:1] == text[:1]]
        return [t for t in near if min(edit_distance(text, t[:i]) for i in range(len(t) + 1)) == edits]

    def whole_words(self, run: WordRun) -> set[str]:
        tokens = query_chain_of(self.reading.query_chain, run.text).run(run.text)
        return {token.text for token in tokens if len(run.words) - 1 in overlapped(token, run)}

    def _beginning(self, leaf: TypedWord, begun: int | None, whole: Mapping[str, set[int]]) -> list[Wanted]:
        typing = self.plan.ranker.typing
        found: list[Wanted] = []
        for text, bits in self.typed_texts(leaf.run).items():
            if typing is None or begun is None or begun > typing.edits_for(text):
                continue
            fits = self.beginning_so(text, begun)
            fits = sorted(fits, key=lambda term: (-sum(f > 0 for f in self.frequencies(term)), term))[: typing.most]
            frequencies = [float(sum(token[0] in fits for token in own)) for own in self.tokens]
            idf = self.idf(frequencies)
            alone = [0.0 if i in whole[self.reading.field] else one for i, one in enumerate(frequencies)]
            worth = typing.worth * typing.slack_worth**begun
            found.append(Wanted(("open", f"{text}*"), 1, worth, bits, alone, idf))
        return found

    def _phrase(self, words: LiteralWords) -> list[Wanted]:
        terms = [token.text for token in self.query_tokens(words.text)]
        if not terms:
            return []
        frequencies: list[float] = []
        for own in self.tokens:
            at = {token[1]: token[0] for token in own}
            frequencies.append(sum(all(at.get(place + i) == term for i, term in enumerate(terms)) for place in at))
        return [
            Wanted(
                ("phrase", " ".join(terms)), 1, float(words.scored), 1 << words.bit, frequencies, self.idf(frequencies)
            )
        ]


def overlapped(token: Token, run: WordRun) -> list[int]:
    return [word for word, (start, end, _) in enumerate(run.words) if token.start < end and start < token.end]


def within(values: list[str], leaf: ValueRange) -> bool:
    return any(
        (leaf.low is None or value >= leaf.low) and (leaf.high is None or value <= leaf.high) for value in values
    )


def beginnings(
    readings: Sequence[PlainReading], held: dict[tuple[int, int], int]
) -> tuple[int | None, Mapping[str, set[int]]]:
    """How many edits away the nearest beginnings are, and by field which records hold the typed word itself."""
    if not readings:
        return None, {}
    plan = readings[0].plan
    leaf = next((one for one in plan.leaves if isinstance(one, TypedWord)), None)
    whole: dict[str, set[int]] = {one.reading.field: set() for one in readings}
    typing = plan.ranker.typing
    if leaf is None or typing is None:
        return None, whole
    for one in readings:
        if not one.literal and one.reading.share == 0:
            for word in one.whole_words(leaf.run):
                whole[one.reading.field] |= {i for i, f in enumerate(one.frequencies(word)) if f}
    if leaf.if_missing and any(whole.values()):
        return None, whole
    for edits in range(typing.slack + 1):
        counts = [
            sum(f > 0 for f in one.frequencies(term))
            for one in readings
            if one.looks_for(leaf)
            for text in one.typed_texts(leaf.run)
            if edits <= typing.edits_for(text)
            for term in one.beginning_so(text, edits)
        ]
        if counts:
            word = plan.leaves.index(leaf.run), len(leaf.run.words) - 1
            held[word] = max(held.get(word, 0), *counts)
            return edits, whole
    return None, whole


def ranked(records: Records, ranker: Ranker, query: str, order: list[int]) -> list[tuple[int, float]]:
    """(record, score) of every match, best first; equal scores (to nine digits) by `order`."""
    plan = plan_of(parse_query(query, ["title", "text"]), ranker)
    readings = [PlainReading(records, plan, number) for number in range(len(plan.readings))]
    held: dict[tuple[int, int], int] = {}
    for reading in readings:
        for number, leaf in enumerate(plan.leaves):
            if isinstance(leaf, WordRun) and leaf.scored and reading.takes_slack and reading.looks_for(leaf):
                for token in reading.query_tokens(leaf.text):
                    holding = sum(f > 0 for f in reading.frequencies(token.text))
                    for word in overlapped(token, leaf):
                        held[number, word] = max(held.get((number, word), 0), holding)
    begun, whole = beginnings(readings, held)
    wanted = [reading.wanted(held, begun, whole) for reading in readings]
    live = 0
    for one in (one for own in wanted for one in own):
        live |= one.bits
    ranges = [leaf for leaf in plan.leaves if isinstance(leaf, ValueRange)]
    live |= sum(1 << leaf.bit for leaf in ranges)
    asked_for = live & ~sum(1 << bit for bit in {bit for reading in readings for bit in reading.stop_words()})
    demand = live_demand(plan.demand, asked_for) or live_demand(plan.demand, live)
    scores: dict[int, float] = {}
    for record in range(len(records)):
        bits = sum(1 << leaf.bit for leaf in ranges if within(records[record].get(leaf.field, []), leaf))
        for one in (one for own in wanted for one in own if one.frequencies[record]):
            bits |= one.bits
        if demand is not None and is_met(demand, bits, ranker.need):
            scores[record] = _combined(ranker, readings, wanted, record)
    matched = sorted(scores, key=lambda record: (-float(f"{scores[record]:.9g}"), order[record]))
    return [(record, scores[record]) for record in matched]


def _combined(ranker: Ranker, readings: list[PlainReading], wanted: list[list[Wanted]], record: int) -> float:
    combine = ranker.combine
    if combine.how is not CombineHow.POOLED:
        scores = [
            reading.reading.weight * sum(one.part(record, reading.reading.k1, reading.norm(record)) for one in own)
            for reading, own in zip(readings, wanted, strict=True)
        ]
        if combine.how is CombineHow.STRONGEST:
            strongest = max(scores, default=0.0)
            return strongest + combine.share * (sum(scores) - strongest)
        return sum(scores)
    total = 0.0
    for name in dict.fromkeys(one.name for own in wanted for one in own if one.worth):
        parts = [(r, o) for r, own in zip(readings, wanted, strict=True) for o in own if o.name == name and o.worth]
        pooled = sum(r.pooled(o, record) for r, o in parts)
        anywhere = [float(any(o.frequencies[i] for _, o in parts)) for i in range(len(readings[0].tokens))]
        idf = min(o.idf for _, o in parts) if name[0] in ("near", "slack", "otherwise") else readings[0].idf(anywhere)
        if pooled:
            total += max(o.times for _, o in parts) * idf * pooled * (combine.k1 + 1) / (pooled + combine.k1)
    return total
