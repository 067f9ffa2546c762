"""From a plan to prepared queries, one for each slab.

A collection's records lie in one slab or in several; a record that was changed or deleted is dead in
its slab. What a term is worth is counted over all slabs' living records, so that a list is the same
however the records are spread.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Collection, Hashable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import ceil
from typing import Final

import numpy as np

from pale_harbor.core.arrays import IntArray, Mask
from pale_harbor.core.fields import FieldColumn, Within, passing_records
from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.query import parse_query
from pale_harbor.core.ranking.beginnings import held_in, most_held, numbers_beginning
from pale_harbor.core.ranking.bm25 import inverse_document_frequency
from pale_harbor.core.ranking.demands import live_demand
from pale_harbor.core.ranking.found import (
    FoundTerm,
    all_of,
    any_of,
    enough_of,
    found_in_either,
    found_of,
    found_only,
    near,
    phrase,
)
from pale_harbor.core.ranking.looked_up import LookedUp, reading_name
from pale_harbor.core.ranking.plan import (
    Leaf,
    LiteralWords,
    OpenWord,
    QueryPlan,
    TypedWord,
    ValueRange,
    WordRun,
    plan_of,
)
from pale_harbor.core.ranking.prepared import (
    Alive,
    Marker,
    PreparedQuery,
    PreparedReading,
    QueryTerm,
    ReadingStatistics,
    TermKind,
    statistics_of,
)
from pale_harbor.core.ranking.ranker import Nearness, Ranker, Reading
from pale_harbor.core.ranking.remembered import HeldWords, ReadingFound, Remember, made_afresh
from pale_harbor.core.ranking.slack import Candidate, candidates_for
from pale_harbor.core.text.chain import Chain, chain_of
from pale_harbor.core.text.chain_choice import ChainsByLanguage, query_chain_of, query_chains_of
from pale_harbor.core.text.outer_signs import without_outer_signs
from pale_harbor.core.text.tokens import Token
from pale_harbor.core.text.ways import Way, ways_of

Columns = Callable[[str], FieldColumn]

# Words of a query that are given spelling slack, and pairs that are looked for near each other.
MOST_SLACKENED: Final = 20
MOST_PAIRS: Final = 40


@dataclass(frozen=True, slots=True, eq=False)
class SlabView:
    """One slab as a query needs it: the index of each of the plan's readings, which records live, field columns."""

    indexes: Sequence[ReadingIndex]
    alive: Alive | None
    record_count: int
    columns: Columns


def no_columns(name: str) -> FieldColumn:
    """Stands for the columns of fields where there are none. Raises KeyError."""
    raise KeyError(f'there is no column of "{name}"')


def prepare(
    query: str,
    ranker: Ranker,
    indexes: Sequence[ReadingIndex],
    language: str | None = None,
    columns: Columns = no_columns,
) -> PreparedQuery:
    """A query against one slab in which all records live; the query may not ask for fields, quote words or leave them
    open.

    indexes: one for each of the ranker's readings; columns: of the fields by which chains are chosen.
    """
    plan = plan_of(parse_query(query), ranker)
    active = [index for index, reading in zip(indexes, ranker.readings, strict=True) if reading.weight > 0]
    statistics = [statistics_of([(index, None)]) for index in active]
    count = indexes[0].record_count if indexes else 0
    (prepared,) = prepare_slabs(plan, statistics, [SlabView(active, None, count, columns)], language)
    return prepared


def prepare_slabs(
    plan: QueryPlan, statistics: Sequence[ReadingStatistics], slabs: Sequence[SlabView], language: str | None = None
) -> list[PreparedQuery]:
    """The plan's words looked up in every slab, and weighed as the plan says."""
    return look_up(plan, statistics, slabs, language).for_plan(plan)


def look_up(
    plan: QueryPlan,
    statistics: Sequence[ReadingStatistics],
    slabs: Sequence[SlabView],
    language: str | None = None,
    remember: Remember = made_afresh,
) -> LookedUp:
    """The plan's words looked up in every slab.

    statistics: of each of the plan's readings, as are the slabs' indexes; language: the query's, for
    readings that choose their chain by it; guessed where it is None; remember: keeps what single readings found.
    """
    by_reading = [
        _ReadingTerms(plan, number, statistics[number], slabs, language) for number in range(len(plan.readings))
    ]
    held = _held_words(by_reading, len(plan.leaves), remember)
    begun = _begun(by_reading, held)
    by_words = tuple(tuple(sorted(own.items())) for own in held)
    found = [
        # How many records hold a word anywhere matters to spelling slack alone.
        remember(
            ("found", terms.name, begun, by_words if terms.takes_slack else ()),
            lambda terms=terms: terms.looked_up(held, begun),
        )
        for terms in by_reading
    ]
    ranges = [leaf for leaf in plan.leaves if isinstance(leaf, ValueRange)]
    words = passed_over = 0
    for bits in (*(one.bits for one in found), *(1 << leaf.bit for leaf in ranges)):
        words |= bits
    for one in found:
        passed_over |= one.passed_over
    # A stop word of one reading need not be held in another, unless nothing else is asked for.
    if live_demand(plan.demand, words & ~passed_over) is not None:
        words &= ~passed_over
    prepared = [
        PreparedQuery(
            plan=plan,
            readings=tuple(terms.prepare(one, number) for terms, one in zip(by_reading, found, strict=True)),
            alive=slab.alive,
            demand=None,
            words=words,
            record_count=slab.record_count,
            markers=tuple(_marker(leaf, slab) for leaf in ranges),
        )
        for number, slab in enumerate(slabs)
    ]
    counted = all(
        term.bits & words or term.kind is TermKind.NEAR for one in found for own in one.terms[:1] for term in own
    )
    return LookedUp(slabs=prepared, words=words, all_counted=counted)


def _held_words(by_reading: "Sequence[_ReadingTerms]", leaves: int, remember: Remember) -> list[dict[int, int]]:
    """For each leaf and word of it: how many records hold it in the reading that holds it most."""
    held: list[dict[int, int]] = [{} for _ in range(leaves)]
    for terms in by_reading:
        if terms.takes_slack:
            known = remember(("held", terms.name), lambda terms=terms: terms.held_words())
            for leaf, words in enumerate(known.by_leaf):
                for word, holding in words:
                    held[leaf][word] = max(held[leaf].get(word, 0), holding)
    return held


@dataclass(frozen=True, slots=True)
class _Begun:
    """How the beginning of the word that is being typed is met. edits: of the nearest beginnings that records hold
    anywhere, None where there are none, or none are wanted."""

    leaf: TypedWord
    edits: int | None


def _begun(by_reading: "Sequence[_ReadingTerms]", held: list[dict[int, int]]) -> _Begun | None:
    """What records make of the word that is being typed; that those with longer words hold it is noted in held."""
    plan = by_reading[0].plan if by_reading else None
    typing = None if plan is None else plan.ranker.typing
    number = -1 if plan is None else next((i for i, one in enumerate(plan.leaves) if isinstance(one, TypedWord)), -1)
    if plan is None or typing is None or number < 0:
        return None
    leaf = plan.leaves[number]
    assert isinstance(leaf, TypedWord)
    if leaf.if_missing and any(terms.holds_whole(leaf.run) for terms in by_reading):
        return _Begun(leaf, None)
    looking = [terms for terms in by_reading if terms.looks_for(leaf)]
    for edits in range(typing.slack + 1):
        holding = max((terms.holding_beginnings(leaf, edits) for terms in looking), default=0)
        if holding:
            run, word = plan.leaves.index(leaf.run), len(leaf.run.words) - 1
            held[run][word] = max(held[run].get(word, 0), holding)
            return _Begun(leaf, edits)
    return _Begun(leaf, None)


def _marker(leaf: ValueRange, slab: SlabView) -> Marker:
    inside = passing_records(Within(leaf.field, leaf.low, leaf.high), slab.columns(leaf.field))
    record_ids = np.flatnonzero(inside).astype(np.int32)
    record_ids.setflags(write=False)
    return Marker(record_ids, 1 << leaf.bit)


@dataclass(slots=True, kw_only=True)
class _Wanted:
    """One thing to look for, before idf: found in each slab."""

    kind: TermKind
    text: str
    said: str
    times: int
    worth: float
    bits: int
    found: list[FoundTerm | None]
    edits: int = 0
    places: tuple[tuple[str, int], ...] = ()
    numbers: Sequence[IntArray] | None = None
    idf: float | None = None


class _ReadingTerms:
    """Everything that one reading looks for, in all slabs."""

    def __init__(
        self,
        plan: QueryPlan,
        number: int,
        statistics: ReadingStatistics,
        slabs: Sequence[SlabView],
        language: str | None,
    ) -> None:
        self.plan = plan
        self.number = number
        self.reading: Reading = plan.readings[number]
        self.literal = plan.is_literal(number)
        self.statistics = statistics
        self.slabs = slabs
        self.language = language
        self.indexes = [slab.indexes[number] for slab in slabs]
        self.terms: list[list[QueryTerm]] = [[] for _ in slabs]
        self.bits = 0
        self.passed_over = 0
        self.slackened = 0
        self.pairs = 0
        self.begun: _Begun | None = None
        self.read: dict[tuple[Chain, str], list[Token]] = {}
        # The chain that is being read through: of several where a query may be of any language.
        self.chain = query_chains_of(self.reading.query_chain, "", language)[0]

    @property
    def name(self) -> Hashable:
        """The same for readings of any plan that find the same, but for how many records hold a word anywhere."""
        plan, reading = self.plan, self.reading
        looked_for = tuple(plan.looks_for(self.number, leaf) for leaf in plan.leaves)
        known = plan.leaves, looked_for, reading_name(reading), self.literal, plan.ranker.spelling, self.language
        if not any(isinstance(leaf, TypedWord) for leaf in plan.leaves):
            return known
        # What holds the word itself is no beginning of it, whichever reading of the field finds it.
        beside = tuple(reading_name(one) for one in plan.readings if one.field == reading.field)
        return *known, plan.ranker.typing, beside

    @property
    def takes_slack(self) -> bool:
        """Whether words are given slack here: not where only enough of their terms count, nor in quotes."""
        return (
            self.plan.ranker.spelling is not None
            and self.reading.slack
            and self.reading.share == 0
            and not self.literal
        )

    def held_words(self) -> HeldWords:
        """For each token of a run of words: which word it belongs to, and how many records hold it."""
        return HeldWords([list(self._held_words(leaf)) for leaf in range(len(self.plan.leaves))])

    def _held_words(self, leaf: int) -> Iterator[tuple[int, int]]:
        run = self.plan.leaves[leaf]
        if isinstance(run, WordRun) and run.scored and self.looks_for(run):
            for chain in query_chains_of(self.reading.query_chain, run.text, self.language):
                self.chain = chain
                for token in self._tokens(run.text):
                    holding = self._holding(self._plain(token.text))
                    for word in _words_of(token, run):
                        yield word, holding

    def holds_whole(self, run: WordRun) -> bool:
        """Whether some living record holds the last word of a run as it stands; parts of words say nothing."""
        return self.is_of_whole_words and any(self._holding(self._plain(one)) for one in self.whole_words(run))

    @property
    def is_of_whole_words(self) -> bool:
        """Whether a single term of the reading holds a word."""
        return not self.literal and self.reading.share == 0

    def whole_words(self, run: WordRun) -> list[str]:
        """What the query chain makes of the last word of a run, in every language that the query may be of."""
        last = len(run.words) - 1
        chains = query_chains_of(self.reading.query_chain, run.text, self.language)
        tokens = [token for chain in chains for token in chain.run(run.text)]
        return list(dict.fromkeys(token.text for token in tokens if last in _words_of(token, run)))

    def _typed(self, run: WordRun) -> dict[str, int]:
        """What the last word of a run is among the reading's terms, by chain: its letters, and the bits of the words
        that they are of, since a chain may leave in one what counts as several."""
        found: dict[str, int] = {}
        for chain in query_chains_of(self.reading.chain, run.text, self.language):
            ending = [token for token in chain.run(run.text) if token.end == len(run.text)]
            if ending:
                longest = min(ending, key=lambda token: token.start)
                found[longest.text] = found.get(longest.text, 0) | _bits_of(longest, run)
        if not found:
            start, end, bit = run.words[-1]
            found[folded(run.text[start:end], self.reading)] = 1 << bit
        return found

    def holding_beginnings(self, leaf: TypedWord, edits: int) -> int:
        """How many records hold the longer word that most of them hold, so many edits away."""
        typing = self.plan.ranker.typing
        assert typing is not None
        most = 0
        for text in self._typed(leaf.run):
            if edits <= typing.edits_for(text):
                for index, slab in zip(self.indexes, self.slabs, strict=True):
                    counts = held_in(index, slab.alive, numbers_beginning(index, text, edits))
                    most = max(most, int(counts.max(initial=0)))
        return most

    def looked_up(self, held: Sequence[dict[int, int]], begun: _Begun | None = None) -> ReadingFound:
        """Looks for everything. held: for each leaf and word of it, how many records hold it anywhere; begun: how the
        word that is being typed is met."""
        self.begun = begun
        for number, leaf in enumerate(self.plan.leaves):
            if self.looks_for(leaf):
                for wanted in self._wanted(leaf, held[number]):
                    self._add(wanted)
        return ReadingFound(
            reading=self.reading,
            terms=[tuple(own) for own in self.terms],
            bits=self.bits,
            passed_over=self.passed_over,
        )

    def prepare(self, found: ReadingFound, slab: int) -> PreparedReading:
        """What was found in a slab, weighed as it was when it was looked up."""
        return PreparedReading(
            number=-1 if self.literal else self.plan.numbers[self.number],
            reading=found.reading,
            literal=self.literal,
            index=self.indexes[slab],
            terms=found.terms[slab],
            statistics=self.statistics,
        )

    def looks_for(self, leaf: Leaf) -> bool:
        """Whether this reading looks for a leaf of the plan."""
        return self.plan.looks_for(self.number, leaf)

    def _wanted(self, leaf: Leaf, held: dict[int, int]) -> Iterator[_Wanted]:
        match leaf:
            case WordRun():
                return self._run_in_each(leaf, held)
            case TypedWord():
                return self._typed_word(leaf)
            case OpenWord():
                return self._open_word(leaf)
            case LiteralWords():
                return self._literal_words(leaf)
            case ValueRange():
                return iter(())

    def _add(self, wanted: _Wanted) -> None:
        holding = self._holding(wanted.found)
        idf = wanted.idf
        if idf is None:
            idf = inverse_document_frequency(self.statistics.record_count, holding)
        self.bits |= wanted.bits
        for slab, own in enumerate(self.terms):
            own.append(
                QueryTerm(
                    kind=wanted.kind,
                    text=wanted.text,
                    said=wanted.said,
                    times=wanted.times,
                    worth=wanted.worth,
                    bits=wanted.bits,
                    holding=holding,
                    idf=idf,
                    found=wanted.found[slab],
                    edits=wanted.edits,
                    places=wanted.places,
                    numbers=None if wanted.numbers is None else wanted.numbers[slab],
                )
            )

    def _holding(self, found: Sequence[FoundTerm | None]) -> int:
        return sum(_count_living(own, slab.alive) for own, slab in zip(found, self.slabs, strict=True))

    def _tokens(self, text: str) -> list[Token]:
        name = self.chain, text
        if name not in self.read:
            self.read[name] = [self._without_outer_signs(token) for token in self.chain.run_on_word(text)]
        return self.read[name]

    def _without_outer_signs(self, token: Token) -> Token:
        """The token as it was typed where some record has it so, else without the commas and the like around it."""
        bare = without_outer_signs(token.text)
        if bare in ("", token.text) or any(index.postings(token.text) for index in self.indexes):
            return token
        return token.with_text(bare)

    def _plain(self, term: str) -> list[FoundTerm | None]:
        return [found_of(index.postings(term)) for index in self.indexes]

    def _run_in_each(self, run: WordRun, held: dict[int, int]) -> Iterator[_Wanted]:
        """A run of words, read as each language has it where nobody knows which it is; records are met in their own."""
        choice = self.reading.query_chain
        chains = query_chains_of(choice, run.text, self.language)
        together: dict[tuple[object, ...], _Wanted] = {}
        columns = [] if isinstance(choice, Chain) else [slab.columns(choice.by) for slab in self.slabs]
        for chain in chains:
            self.chain = chain
            reads = [] if isinstance(choice, Chain) else [_values_read_by(chain, choice, one) for one in columns]
            for wanted in self._run(run, held):
                if len(chains) == 1 or isinstance(choice, Chain):
                    yield wanted
                    continue
                wanted.found = [
                    None if own is None else found_only(own, _is_read(column, values, own.record_ids))
                    for own, column, values in zip(wanted.found, columns, reads, strict=True)
                ]
                alike = (wanted.kind, wanted.text, wanted.said, wanted.times, wanted.worth, wanted.bits, wanted.edits)
                known = together.setdefault(alike, wanted)
                if known is not wanted:
                    known.found = [found_in_either(*own) for own in zip(known.found, wanted.found, strict=True)]
        yield from together.values()

    def _run(self, run: WordRun, held: dict[int, int]) -> Iterator[_Wanted]:
        tokens, ways = self._tokens(run.text), self._ways(run.text)
        beside = {number for way in ways for word in way.words for number in word}
        typed = [token for number, token in enumerate(tokens) if number not in beside]
        if run.scored:
            self.passed_over |= self._stop_words(run, tokens)
        worth = 1.0 if run.scored else 0.0
        times: dict[str, int] = {}
        bits: dict[str, int] = {}
        holding: dict[str, int] = {}
        for token in typed:
            own_words = (held.get(word, 0) for word in _words_of(token, run))
            holding[token.text] = max(holding.get(token.text, 0), *own_words, 0)
            times[token.text] = times.get(token.text, 0) + 1
            bits[token.text] = bits.get(token.text, 0) | _bits_of(token, run)
        for way in ways:
            # A word that was typed as well is no synonym, but holds what it stands beside.
            alone = self._alone_in(way, tokens)
            if alone in bits:
                bits[alone] |= _bits_between(way.start, way.end, run)
        for term, said in times.items():
            # Where only enough of a word's terms count, none of them holds the word by itself.
            own = 0 if self.reading.share > 0 else bits[term]
            found = self._plain(term)
            yield _Wanted(kind=TermKind.TERM, text=term, said=term, times=said, worth=worth, bits=own, found=found)
            if run.scored and self.takes_slack:
                yield from self._slack(term, said, own, found, holding[term])
        yield from self._said_otherwise(run, tokens, ways, set(times))
        if self.reading.share > 0:
            yield from self._enough(run, typed)
        if run.scored and self.reading.nearness is not None:
            yield from self._near_pairs(tokens, self.reading.nearness)

    def _ways(self, text: str) -> list[Way]:
        return ways_of(self.chain, text)

    def _alone_in(self, way: Way, tokens: Sequence[Token]) -> str | None:
        """The one term that a way comes to, if it does: to hold it is to hold what was said."""
        terms = {tokens[number].text for word in way.words for number in word}
        return terms.pop() if len(way.words) == 1 and len(terms) == 1 and self.reading.share == 0 else None

    def _said_otherwise(
        self, run: WordRun, tokens: Sequence[Token], ways: Sequence[Way], typed: set[str]
    ) -> Iterator[_Wanted]:
        """The words of ways, and each way of several words as one: only all of it holds what was said."""
        terms: dict[str, _Wanted] = {}
        for way in ways:
            said, bits = run.text[way.start : way.end], _bits_between(way.start, way.end, run)
            alone = self._alone_in(way, tokens)
            for term in (tokens[number].text for word in way.words for number in word):
                if term in typed:
                    continue
                if term not in terms:
                    found = self._plain(term)
                    terms[term] = _Wanted(
                        kind=TermKind.TERM if way.instead else TermKind.SYNONYM,
                        text=term,
                        said=said,
                        times=0,
                        worth=(1.0 if way.instead else self.reading.synonyms) if run.scored else 0.0,
                        bits=0,
                        found=found,
                        idf=None if way.instead else self._idf_beside(found, way, tokens, ways),
                    )
                terms[term].times += 1
                terms[term].bits |= bits if term == alone else 0
        yield from terms.values()
        for way in ways:
            words = [list(dict.fromkeys(tokens[number].text for number in word)) for word in way.words if word]
            if words and self._alone_in(way, tokens) is None:
                said = run.text[way.start : way.end]
                yield _Wanted(
                    kind=TermKind.ENOUGH,
                    text=f"{' '.join(word[0] for word in words)} for {said}",
                    said=said,
                    times=1,
                    worth=0.0,
                    bits=_bits_between(way.start, way.end, run),
                    found=[all_of(index, [self._enough_of(index, own) for own in words]) for index in self.indexes],
                )

    def _idf_beside(
        self, found: Sequence[FoundTerm | None], way: Way, tokens: Sequence[Token], ways: Sequence[Way]
    ) -> float:
        """A synonym's idf: never taken for rarer than the word that was typed, where that is there."""
        beside = {number for own in ways for word in own.words for number in word}
        idf = inverse_document_frequency(self.statistics.record_count, self._holding(found))
        said = [
            inverse_document_frequency(self.statistics.record_count, holding)
            for number, token in enumerate(tokens)
            if number not in beside and token.start < way.end and way.start < token.end
            if (holding := self._holding(self._plain(token.text)))
        ]
        return min(idf, max(said)) if said else idf

    def _stop_words(self, run: WordRun, tokens: Sequence[Token]) -> int:
        """The bits of words that the reading's list of stop words leaves out."""
        left: set[int] = set()
        for token in tokens:
            left.update(_words_of(token, run))
        chain = self.chain
        if len(left) == len(run.words) or all(call.name != "stopwords" for call in chain.calls):
            return 0
        bits = 0
        for before, after in pairwise(chain.trace(run.text)):
            if after.stage.startswith("stopwords"):
                for place in after.dropped:
                    token = before.tokens[place]
                    bits |= 0 if left.intersection(_words_of(token, run)) else _bits_of(token, run)
        return bits

    def _slack(
        self, term: str, times: int, bits: int, exact: Sequence[FoundTerm | None], held: int
    ) -> Iterator[_Wanted]:
        """Terms that stand in for a term. held: how many records hold its word in any reading."""
        spelling = self.plan.ranker.spelling
        if spelling is None or self.slackened == MOST_SLACKENED:
            return
        found = candidates_for(term, held, spelling, self.indexes)
        self.slackened += found is not None
        holding = self._holding(exact)
        if not found:
            return
        # Never taken for rarer than the word that was typed: a slip in a record is no treasure.
        most = inverse_document_frequency(self.statistics.record_count, holding) if holding else None
        ranked = [(one, self._plain(one.text)) for one in found]
        counted = [(one, own, self._holding(own)) for one, own in ranked]
        alive = [(one, own, count) for one, own, count in counted if count]
        alive.sort(key=lambda item: (-item[0].worth, -item[2], item[0].text))
        for one, own, count in alive[: spelling.most]:
            idf = inverse_document_frequency(self.statistics.record_count, count)
            yield self._candidate(one, term, times, bits, own, idf if most is None else min(idf, most))

    def _candidate(
        self, one: Candidate, term: str, times: int, bits: int, found: list[FoundTerm | None], idf: float
    ) -> _Wanted:
        kind = TermKind.SPELLING if one.edits else TermKind.SIMILAR
        return _Wanted(
            kind=kind,
            text=one.text,
            said=term,
            times=times,
            worth=one.worth,
            bits=bits,
            found=found,
            edits=one.edits,
            idf=idf,
        )

    def _enough(self, run: WordRun, tokens: Sequence[Token]) -> Iterator[_Wanted]:
        for start, end, bit in run.words:
            of_word = [t for t in tokens if t.start < end and start < t.end]
            # A word beside its own parts is all of them: whoever holds it need not hold the parts, nor they it.
            wholes = {t.text for t in of_word if stands_beside_its_parts(t, of_word)}
            own = list(dict.fromkeys(t.text for t in of_word if t.text not in wholes))
            if own and bit >= 0:
                found = [self._enough_of(index, own, wholes) for index in self.indexes]
                said = f"{self._how_many(own)} of {len(own)} of {run.text[start:end]}"
                yield _Wanted(
                    kind=TermKind.ENOUGH,
                    text=said,
                    said=run.text[start:end],
                    times=1,
                    worth=0.0,
                    bits=1 << bit,
                    found=found,
                )

    def _how_many(self, terms: Sequence[str]) -> int:
        """How many of a word's terms hold the word."""
        return max(1, ceil(round(self.reading.share * len(terms), 9)))

    def _enough_of(self, index: ReadingIndex, terms: Sequence[str], wholes: Collection[str] = ()) -> FoundTerm | None:
        known, alone = (
            [postings for term in some if (postings := index.postings(term)) is not None] for some in (terms, wholes)
        )
        return enough_of(index, known, self._how_many(terms), alone)

    def _near_pairs(self, tokens: Sequence[Token], nearness: Nearness) -> Iterator[_Wanted]:
        pairs: dict[tuple[str, str, int], int] = {}
        positions = sorted({token.position for token in tokens})
        for first in tokens:
            after = next((position for position in positions if position >= first.position + first.span), None)
            if after is not None:
                apart = after - first.position - first.span
                for second in tokens:
                    if second.position == after:
                        pairs[first.text, second.text, apart] = pairs.get((first.text, second.text, apart), 0) + 1
        for (first, second, apart), times in pairs.items():
            if self.pairs == MOST_PAIRS:
                return
            self.pairs += 1
            both = [(index, index.postings(first), index.postings(second)) for index in self.indexes]
            found = [
                near(index, a, b, apart, nearness.gap, nearness.same_order) if a is not None and b is not None else None
                for index, a, b in both
            ]
            idf = min(
                inverse_document_frequency(self.statistics.record_count, self._holding(self._plain(term)))
                for term in (first, second)
            )
            text = f"{first} {second}"
            yield _Wanted(
                kind=TermKind.NEAR,
                text=text,
                said=text,
                times=times,
                worth=nearness.weight,
                bits=0,
                found=found,
                idf=idf,
            )

    def _open_word(self, word: OpenWord) -> Iterator[_Wanted]:
        # The letters are folded as the reading folds them.
        text = folded(word.text, self.reading)
        vocabularies = [index.vocabulary for index in self.indexes]
        if word.begins:
            ranges = [vocabulary.numbers_beginning(text) for vocabulary in vocabularies]
            numbers: list[IntArray] = [np.arange(own.start, own.stop, dtype=np.int32) for own in ranges]
        else:
            numbers = [vocabulary.numbers_ending(text) for vocabulary in vocabularies]
        found = [any_of(index, own) for index, own in zip(self.indexes, numbers, strict=True)]
        kind, shown = (TermKind.BEGINNING, f"{text}*") if word.begins else (TermKind.ENDING, f"*{text}")
        worth = 1.0 if word.scored else 0.0
        yield _Wanted(
            kind=kind, text=shown, said=shown, times=1, worth=worth, bits=1 << word.bit, found=found, numbers=numbers
        )

    def _typed_word(self, leaf: TypedWord) -> Iterator[_Wanted]:
        """The longer words of which the beginning was typed, as one; records that hold the word itself hold no longer
        one."""
        typing, begun = self.plan.ranker.typing, self.begun
        if typing is None or begun is None or begun.edits is None:
            return
        alive = [slab.alive for slab in self.slabs]
        start, end = leaf.stretch
        for text, bits in self._typed(leaf.run).items():
            if begun.edits > typing.edits_for(text):
                continue
            numbers = [numbers_beginning(index, text, begun.edits) for index in self.indexes]
            numbers = most_held(self.indexes, alive, numbers, typing.most)
            found = [any_of(index, own) for index, own in zip(self.indexes, numbers, strict=True)]
            idf = inverse_document_frequency(self.statistics.record_count, self._holding(found))
            yield _Wanted(
                kind=TermKind.BEGINNING,
                text=f"{text}*",
                said=leaf.run.text[start:end],
                times=1,
                worth=typing.worth * typing.slack_worth**begun.edits,
                bits=bits,
                found=[self._without_whole(slab, own, leaf.run) for slab, own in enumerate(found)],
                edits=begun.edits,
                numbers=numbers,
                idf=idf,
            )

    def _without_whole(self, slab: int, found: FoundTerm | None, run: WordRun) -> FoundTerm | None:
        """The records of a slab in which no reading of the field finds the word itself."""
        if found is None:
            return None
        kept = np.ones(found.record_ids.size, np.bool_)
        for number, index in enumerate(self.slabs[slab].indexes):
            beside = _ReadingTerms(self.plan, number, self.statistics, self.slabs, self.language)
            if beside.reading.field == self.reading.field and beside.is_of_whole_words:
                for word in beside.whole_words(run):
                    if (postings := index.postings(word)) is not None:
                        kept &= ~np.isin(found.record_ids, postings.record_ids, assume_unique=True)
        return found_only(found, kept)

    def _literal_words(self, words: LiteralWords) -> Iterator[_Wanted]:
        tokens = self._tokens(words.text)
        if not tokens:
            return
        first = tokens[0].position
        places = tuple((token.text, token.position - first) for token in tokens)
        found: list[FoundTerm | None] = []
        for index in self.indexes:
            postings = [(index.postings(term), place) for term, place in places]
            known = [(own, place) for own, place in postings if own is not None]
            if len(known) < len(places):
                found.append(None)
            else:
                found.append(found_of(known[0][0]) if len(known) == 1 else phrase(index, known))
        text = " ".join(term for term, _ in places)
        worth = 1.0 if words.scored else 0.0
        yield _Wanted(
            kind=TermKind.PHRASE,
            text=text,
            said=text,
            times=1,
            worth=worth,
            bits=1 << words.bit,
            found=found,
            places=places,
        )


def _bits_of(token: Token, run: WordRun) -> int:
    """The bits of the words that a token's stretch reaches into."""
    bits = 0
    for word in _words_of(token, run):
        bit = run.words[word][2]
        bits |= 1 << bit if bit >= 0 else 0
    return bits


def _values_read_by(chain: Chain, choice: ChainsByLanguage, column: FieldColumn) -> Mask:
    """Which languages of a column a chain of the choice reads, and last whether it reads records that name none: bool
    (distinct values + 1,)."""
    return np.array([choice.chain_for(name) == chain for name in (*column.texts, None)])


def _is_read(column: FieldColumn, reads: Mask, record_ids: IntArray) -> Mask:
    """Which of some records are in a language that is read: bool (records,)."""
    firsts = column.firsts[record_ids]
    named = firsts < column.firsts[record_ids + 1]
    codes = np.full(record_ids.size, len(column.texts))
    codes[named] = column.codes[firsts[named]]
    return reads[codes]


def _bits_between(start: int, end: int, run: WordRun) -> int:
    """The bits of the words that a stretch reaches into."""
    return sum(1 << run.words[word][2] for word in _reached(start, end, run) if run.words[word][2] >= 0)


def _words_of(token: Token, run: WordRun) -> list[int]:
    """The numbers of the words that a token's stretch reaches into."""
    return list(_reached(token.start, token.end, run))


def _reached(start: int, end: int, run: WordRun) -> range:
    """The numbers of the words that a stretch reaches into. Words stand one after another: looked up, not walked."""
    first = bisect_right(run.words, start, key=lambda word: word[1])
    last = bisect_left(run.words, end, first, key=lambda word: word[0])
    return range(first, last)


def stands_beside_its_parts(token: Token, others: Sequence[Token]) -> bool:
    """Whether a token spans several positions that others of the same word fill one by one."""
    within = range(token.position, token.position + token.span)
    return token.span > 1 and any(
        one.span < token.span and one.position in within and token.start <= one.start and one.end <= token.end
        for one in others
    )


# Stages that change letters one by one, or the whole writing, but never cut a word short.
_FOLDING: Final = ("nfc", "nfkc", "lower", "casefold", "accents", "latin")


def folded(text: str, reading: Reading) -> str:
    """A part of a word with its letters written as the reading's terms are."""

    chain = query_chain_of(reading.chain, text)
    folding = [str(call) for call in chain.calls if call.name in _FOLDING]
    before = [call for call in folding if call.startswith(("nfc", "nfkc"))]
    after = [call for call in folding if call not in before]
    tokens = chain_of(" > ".join([*before, "whole", *after])).run(text)
    return tokens[0].text if tokens else text


def _count_living(found: FoundTerm | None, alive: Alive | None) -> int:
    if found is None:
        return 0
    return found.record_ids.size if alive is None else int(np.count_nonzero(alive[found.record_ids]))
