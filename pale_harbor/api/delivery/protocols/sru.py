"""SRU by key: a library's catalogue asks in CQL, and gets records in Dublin Core."""

from collections.abc import Callable, Mapping
from typing import Final
from urllib.parse import parse_qsl

from starlette.requests import Request
from starlette.responses import Response

from pale_harbor.api.delivery.by_key import ByKey, body_of
from pale_harbor.api.ranking.models import DEEPEST_ROW
from pale_harbor.errors import BadInput
from pale_harbor.formats.cql import Clause, CqlFault, read_cql
from pale_harbor.formats.dublin_core import values_in_dublin_core
from pale_harbor.formats.sru import (
    DC_NAMES,
    DIALECTS,
    ESCAPINGS,
    Diagnostic,
    Dialect,
    ListTold,
    RecordTold,
    ServerTold,
    explain_response,
    scan_response,
    search_response,
)
from pale_harbor.work.delivery.catalogue import (
    FIELDS,
    MODIFIERS,
    RELATIONS,
    CatalogueFields,
    CatalogueQuery,
    catalogue_fields,
    catalogue_query,
    fields_of_index,
)
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.delivery.wanted_list import WantedList

_MEDIA_TYPE: Final = "application/xml"
_USUAL, _MOST = 10, 100
_USUAL_TERMS, _MOST_TERMS = 20, 100
_PARAMETERS: Final = (
    *("version", "operation", "query", "querytype", "startrecord", "maximumrecords", "recordschema", "key"),
    *("recordpacking", "recordxmlescaping", "resultsetttl", "stylesheet", "renderedby", "httpaccept", "responsetype"),
    *("scanclause", "responseposition", "maximumterms"),
)
_ECHOED: Final = ("version", "query", "queryType", "startRecord", "maximumRecords", "recordSchema")


async def searched(by: ByKey, request: Request) -> Response:
    """What a catalogue asks, as a search, a scan or an explanation."""

    async def work(known: Known, headers: dict[str, str]) -> Response:
        said = await _said(request)
        version = said.get("version", "2.0")
        dialect = DIALECTS.get(version, DIALECTS["2.0"])
        asking = _Asking(by.delivery, known, dialect, said, request)
        content = await by.in_thread(lambda: asking.answer(version))
        return Response(content, headers=headers, media_type=_MEDIA_TYPE)

    return await by.answer(request, work)


class _Asking:
    """One request. said: its parameters, by names in small letters."""

    def __init__(
        self, delivery: Delivery, known: Known, dialect: Dialect, said: Mapping[str, str], request: Request
    ) -> None:
        self._delivery, self._known, self._dialect, self._said = delivery, known, dialect, said
        self._request = request

    def answer(self, version: str) -> bytes:
        operation = self._said.get("operation") or self._meant_operation()
        answers: Mapping[str, Callable[[], bytes]] = {
            "searchRetrieve": self._search,
            "scan": self._scan,
            "explain": self._explain,
        }
        try:
            if version not in DIALECTS:
                raise CqlFault(5, "2.0", f"SRU is answered by versions {', '.join(sorted(DIALECTS))} here.")
            if operation not in answers:
                raise CqlFault(4, operation, f"There is no operation {operation[:100]}.")
            strange = [name for name in self._said if name not in _PARAMETERS and not name.startswith("x-")]
            if strange:
                raise CqlFault(8, strange[0], f"There is no parameter {strange[0][:100]} here.")
            return answers[operation]()
        except CqlFault as fault:
            return self._refused(operation, Diagnostic(fault.number, fault.about, fault.message))
        except BadInput as error:
            # What the endpoint itself cannot be asked, in its own words.
            return self._refused(operation, Diagnostic(47, "", str(error)))

    def _refused(self, operation: str, told: Diagnostic) -> bytes:
        if operation == "scan":
            return scan_response(self._dialect, [], [told])
        return search_response(self._dialect, None, [told])

    def _meant_operation(self) -> str:
        """Which one is meant where none is named: by what is said."""
        if "scanclause" in self._said:
            return "scan"
        return "searchRetrieve" if "query" in self._said else "explain"

    def _fields(self) -> CatalogueFields:
        return catalogue_fields(self._known, *self._delivery.answering.loosely_read(self._known))

    def _search(self) -> bytes:
        if "query" not in self._said:
            raise CqlFault(7, "query", "A query must be said.")
        first = self._number("startrecord", "startRecord", 1, 1, DEEPEST_ROW)
        most = min(_MOST, self._number("maximumrecords", "maximumRecords", _USUAL, 0, 10**9))
        escaping = self._escaping()
        schema = self._said.get("recordschema", DC_NAMES[0])
        if schema not in DC_NAMES:
            raise CqlFault(66, schema, f"Records are told in Dublin Core ({DC_NAMES[0]}) alone.")
        fields = self._fields()
        query = self._query(fields)
        # A catalogue cannot be told that another query was taken for it.
        wanted = WantedList(query=query.query, sort=query.sort, top=max(1, most), skip=first - 1, as_said=True)
        found = self._delivery.listed(self._known, wanted)
        if first > max(1, found.rows):
            raise CqlFault(61, str(first), f"The list has {found.rows:,} records.")
        rows = found.results[:most]
        records = [
            RecordTold(row.key, row.rank, values_in_dublin_core(row.field_values, fields.dublin_core)) for row in rows
        ]
        following = first + len(rows)
        # By the names of the standard, in its order.
        echoed = [(name, self._said[name.lower()]) for name in _ECHOED if name.lower() in self._said]
        told = ListTold(
            found=found.rows,
            records=records,
            next_position=following if rows and following <= found.rows else None,
            echoed=echoed,
            escaping=escaping,
        )
        late = [Diagnostic(2, one, f"There was no time for: {one}.") for one in found.left_out]
        return search_response(self._dialect, told, late)

    def _query(self, fields: CatalogueFields) -> CatalogueQuery:
        kind = self._said.get("querytype", "cql")
        if kind == "searchTerms":
            # Words side by side, as visitors type them.
            return CatalogueQuery(self._said["query"], ())
        if kind != "cql":
            raise CqlFault(6, "queryType", "Queries are asked in cql, or as searchTerms.")
        return catalogue_query(read_cql(self._said["query"]), fields)

    def _scan(self) -> bytes:
        if "scanclause" not in self._said:
            raise CqlFault(7, "scanClause", "What is to be scanned must be said.")
        most = min(_MOST_TERMS, self._number("maximumterms", "maximumTerms", _USUAL_TERMS, 1, 10**9))
        # Which of the terms that are told is the one that was named; 0: it is just before the first.
        position = self._number("responseposition", "responsePosition", 1, 0, most + 1)
        clause = read_cql(self._said["scanclause"])
        if not isinstance(clause.root, Clause):
            raise CqlFault(10, "scanClause", "An index, a relation and one term are scanned.")
        fields = self._fields()
        field = fields_of_index(clause.root.index, fields, clause.prefixes)[0]
        by_words = fields.kinds.get(field) == "text"
        before, after = self._delivery.answering.terms(
            self._known,
            field,
            clause.root.term,
            max(0, position - 1),
            max(0, most - position + 1) + (1 if position == 0 else 0),
            by_words=by_words,
        )
        terms = [(one.word, one.records) for one in (*before, *after)]
        if position == 0 and terms and terms[0][0].casefold() == clause.root.term.casefold():
            terms = terms[1:]
        return scan_response(self._dialect, terms[:most], [])

    def _explain(self) -> bytes:
        fields = self._fields()
        url = self._request.url
        indexes = [("serverChoice", "cql", "whatever the search reads")]
        indexes += [(name, FIELDS, name.replace("_", " ")) for name in fields.searched]
        for element, own in fields.dublin_core.items():
            if any(name in fields.searched for name in own):
                indexes.append((element, "dc", ", ".join(own)))
        collection = self._known.key.collection
        told = ServerTold(
            host=url.hostname or "",
            port=url.port or (443 if url.scheme == "https" else 80),
            database=url.path.lstrip("/"),
            title=collection,
            description=f"The collection {collection}, ranked as its own search box ranks it.",
            indexes=indexes,
            relations=RELATIONS,
            modifiers=MODIFIERS,
            most=_MOST,
            usual=_USUAL,
        )
        return explain_response(self._dialect, told, [])

    def _escaping(self) -> str:
        """Whether records stand in the answer as XML, or as a text of it; version 2 has another name for that."""
        said = self._said.get("recordxmlescaping")
        if said is None and self._dialect.version is not None:
            said = self._said.get("recordpacking")
        if said is not None and said not in ESCAPINGS:
            raise CqlFault(71, said, f"Records are told as {' or '.join(ESCAPINGS)}.")
        return said or ESCAPINGS[0]

    def _number(self, name: str, called: str, usual: int, least: int, most: int) -> int:
        said = self._said.get(name)
        if said is None:
            return usual
        if not (said.isascii() and said.isdecimal() and len(said) <= 10 and least <= int(said) <= most):
            raise CqlFault(6, called, f"{called} is a whole number from {least:,} to {most:,}.")
        return int(said)


async def _said(request: Request) -> dict[str, str]:
    """The parameters, as an address or a form says them."""
    pairs = request.query_params.multi_items()
    if request.method == "POST":
        body = (await body_of(request)).decode("utf-8", "replace")
        pairs += parse_qsl(body, keep_blank_values=True, max_num_fields=100)
    said = {name.lower(): value.replace("\x00", "\ufffd") for name, value in pairs}
    said.pop("key", None)
    return said
