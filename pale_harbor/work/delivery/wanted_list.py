"""What a visitor's page asks of the search endpoint."""

from dataclasses import dataclass

from pale_harbor.core.fields import Filter
from pale_harbor.core.ranking import FieldOrder
from pale_harbor.errors import BadInput
from pale_harbor.work.delivery.audience import Audience
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.passages import PassagesWanted
from pale_harbor.work.ranking.searching import FacetWanted


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedList:
    """A query with what it is narrowed to, and which page of its list. session: what the asking page made up for
    itself; time_ms: after which it is answered with what there is. per: the field of whose values the list shows one
    record each, "" for none; None: as the ranker has it."""

    query: str
    filters: tuple[Filter, ...] = ()
    sort: tuple[FieldOrder, ...] = ()
    facets: tuple[FacetWanted, ...] = ()
    top: int = 10
    skip: int = 0
    language: str | None = None
    is_typed: bool = False
    as_said: bool = False
    passages: PassagesWanted | None = None
    session: str | None = None
    time_ms: int | None = None
    per: str | None = None

    @property
    def question(self) -> Question:
        """As the layers below take it."""
        return Question(self.query, self.filters, self.language, self.sort, self.is_typed, self.as_said)

    def check(self, audience: Audience) -> None:
        """Raises BadInput where it names fields that whoever asks may not see, in the words for what is not there."""
        named = [
            *(("filters", one.field) for one in self.filters),
            *(("sort", one.field) for one in self.sort),
            *(("facets", one.field) for one in self.facets),
            *((("per", self.per),) if self.per else ()),
        ]
        problems = [
            (where, f'there is no field "{name}" here. There are: {", ".join(audience.shown)}.')
            for where, name in named
            if name not in audience.shown
        ]
        if problems:
            raise BadInput("This cannot be asked.", problems)
