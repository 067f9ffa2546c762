"""`search`: ranked lists out."""

from collections.abc import Sequence
from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated, Any, Final

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, score_digits
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.core.ranking import FieldOrder, Why
    from pale_harbor.formats.ranker.document import FilterDocument
    from pale_harbor.work.ranking.searching import Found, Result, WhyRecord
    from pale_harbor.work.ranking.why_not import Suggestion, WhyNot


def add_to(app: typer.Typer) -> None:
    app.command()(search)


def search(
    collection: str,
    query: str,
    ranker: RankerName = None,
    top: Annotated[int, typer.Option(min=1, max=1_000)] = 10,
    skip: Annotated[int, typer.Option(min=0, max=10_000, help="Rows before the first one shown.")] = 0,
    why: Annotated[bool, typer.Option("--why", help="Add the parts of each score.")] = False,
    why_not: Annotated[
        str | None, typer.Option("--why-not", metavar="KEY", help="Say what keeps this record out, and what would not.")
    ] = None,
    filters: Annotated[
        list[str] | None,
        typer.Option("--filter", metavar="FILTER", help="FIELD=VALUE, FIELD:LOW..HIGH or FIELD for any value."),
    ] = None,
    facets: Annotated[
        list[str] | None, typer.Option("--facet", metavar="FIELD", help="Count a field's values.")
    ] = None,
    sort: Annotated[
        list[str] | None, typer.Option("--sort", metavar="FIELD", help="By a field, - for the greatest first.")
    ] = None,
    language: Annotated[
        str | None, typer.Option(help="The query's language, for chains chosen by it; guessed without it.")
    ] = None,
    typed: Annotated[
        bool, typer.Option("--typing", help="As it is being typed: of the last word the beginning may be there only.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Searches a collection."""
    from pale_harbor.formats.judged_files import LONGEST_QUERY
    from pale_harbor.formats.ranker.reading import filter_of
    from pale_harbor.formats.storable import well_formed
    from pale_harbor.store.collections.collections import fields_of
    from pale_harbor.work.collections.opened import OpenCollection
    from pale_harbor.work.ranking.asked import Question
    from pale_harbor.work.ranking.searching import FacetWanted, find, why_record
    from pale_harbor.work.ranking.why_not import why_not as why_not_record
    from pale_harbor.work.workbench import display_of

    if len(query) > LONGEST_QUERY:
        raise BadInput(f"A query has {LONGEST_QUERY:,} characters at most; this one has {len(query):,}.")
    narrowed = tuple(filter_of(_filter(text)) for text in filters or ())
    question = Question(well_formed(query), narrowed, language, _orders(sort or []), typed)
    wanted = [FacetWanted(name) for name in facets or ()]
    used = [one.field for one in narrowed] + [by.field for by in question.sort] + [one.field for one in wanted]
    with workbench() as bench:
        choice = ranker_choice(ranker)

        def work(opened: OpenCollection) -> dict[str, Any]:
            _check_fields(used, opened.field_names)
            chosen = bench.choose(opened.collection, choice)
            if why_not is not None:
                return _why_not(why_not_record(bench, opened, choice, question, why_not))
            # The first time loads the kernels that it needs: the second one is what a search takes.
            find(opened, chosen.ranker, question, top, skip, wanted)
            found = find(opened, chosen.ranker, question, top, skip, wanted)
            with bench.pool.connection() as connection:
                title = display_of(opened.collection, fields_of(connection, opened.collection.id)).title
            results = [_row(result, found, title) for result in found.results]
            if why:
                for row in results:
                    row.update(_why_row(why_record(opened, chosen.ranker, question, row["key"]), found))
            answer: dict[str, Any] = {"matched": found.matched, "elapsed_ms": found.elapsed_ms, "results": results}
            if found.read_as or found.notes:
                answer |= {"read_as": found.read_as, "notes": found.notes}
            if found.kind is not None:
                answer["kind"] = found.kind
            if found.mended is not None:
                answer["mended"] = found.mended
            if found.fed_back is not None:
                answer["fed_back"] = [one.term for one in found.fed_back.terms]
            return answer | (_facets(found) if wanted else {})

        answer = bench.with_collection(collection, work)
    if as_json:
        print_json(answer)
    elif why_not is not None:
        _print_why_not(answer)
    else:
        _print_results(answer, why)


def _row(result: "Result", found: "Found", title: str | None) -> dict[str, Any]:
    from pale_harbor.work.records.values import texts_of

    row: dict[str, Any] = {"rank": result.rank, "key": result.key, "score": result.score}
    if title is not None:
        row["title"] = " ".join(", ".join(texts_of(result.field_values.get(title))).split())
    if result.second is not None:
        row["second_stage"] = result.second
    if result.others:
        row["others"] = result.others
    if found.lists:
        row["ranks"] = dict(zip(found.lists, result.ranks, strict=True))
    if result.passage is not None:
        row["passage"] = asdict(result.passage)
    return row


def _why_row(asked: "WhyRecord", found: "Found") -> dict[str, Any]:
    row = _why(asked.why)
    if asked.blended is not None:
        lists = zip(found.lists, asked.blended.list_scores, asked.blended.parts, strict=True)
        row["blend"] = [{"list": name, "score": own, "part": part} for name, own, part in lists]
        look = asked.blended.second_look
        if look is not None:
            row["second_look"] = {"place": look.place, "similarity": look.similarity.value}
    return row


def _check_fields(used: Sequence[str], known: Sequence[str]) -> None:
    from pale_harbor.core.text.errors import hint, nearest_name

    problems = [(name, hint(nearest_name(name, known), known)) for name in used if name not in known]
    if problems and known:
        raise BadInput("The collection does not have these fields.", problems)


def _facets(found: "Found") -> dict[str, Any]:
    return {"facets": {field: [(one.value, one.count) for one in counts] for field, counts in found.facets.items()}}


def _orders(names: Sequence[str]) -> "tuple[FieldOrder, ...]":
    from pale_harbor.formats.ranker.forms import field_order

    return tuple(field_order(name) for name in names)


def _filter(text: str) -> "FilterDocument":
    """FIELD=VALUE, FIELD:LOW..HIGH, or FIELD alone."""
    from pale_harbor.formats.ranker.document import FilterDocument

    field, equals, value = text.partition("=")
    if equals:
        return FilterDocument({"field": field, "one_of": [value]})
    field, colon, stretch = text.partition(":")
    low, dots, high = stretch.partition("..")
    if colon and (not dots or not (low or high)):
        raise BadInput(f'"{text}" is no filter. Write FIELD=VALUE, FIELD:LOW..HIGH, or FIELD for any value.')
    if colon:
        return FilterDocument({"field": field, "low": low or None, "high": high or None})
    return FilterDocument({"field": text, "has": True})


def _why(found: "Why") -> dict[str, Any]:
    parts: dict[str, Any] = {
        "parts": [asdict(part) | {"unweighted": part.unweighted, "score": part.score} for part in found.readings]
    }
    if found.pool is not None:
        parts["pool"] = [asdict(part) for part in found.pool]
    if found.signals:
        parts["signals"] = [
            {"field": p.signal.field, "shape": p.signal.shape, "value": p.value, "amount": p.amount}
            for p in found.signals
        ]
    return parts | ({"lifts": found.lifts} if found.lifts else {})


def _why_not(found: "WhyNot") -> dict[str, Any]:
    return {
        "rank": found.why.rank,
        "score": found.why.why.score,
        "shut_out": found.shut_out,
        "missing": [
            {
                "word": word.word,
                "near": [asdict(miss) for miss in word.near],
            }
            for word in found.missing
        ],
        "suggestions": _suggested(found.suggestions),
        "synonyms": _suggested(found.synonyms),
        "tried": found.tried,
        "untried": found.untried,
    }


def _suggested(found: "list[Suggestion]") -> list[dict[str, Any]]:
    return [
        {
            "change": one.words,
            "rank": one.rank,
            "ranker": one.document.brief,
            "new_list": one.new_list and asdict(one.new_list),
        }
        for one in found
    ]


def _print_why_not(answer: dict[str, Any]) -> None:
    print("It is not in the list." if answer["rank"] is None else f"It is number {answer['rank']}.")
    for line in answer["shut_out"]:
        print(line)
    for word in answer["missing"]:
        near = ", ".join(f"{miss['said']} ({miss['edits']} edits)" for miss in word["near"]) or "nothing like it"
        print(f"  {word['word']}: it holds {near}")
    for one in answer["suggestions"]:
        print(f"  {one['change']}: number {one['rank']}")
    for one in answer["synonyms"]:
        print(f"  if they mean the same: {one['change']}: number {one['rank']}")
    if answer["tried"] and not answer["suggestions"]:
        print(f"  None of {answer['tried']} changes that were tried brings it in.")
    if answer["untried"]:
        print(f"  {answer['untried']} others were not tried: each builds an index of its own.")


_LONGEST_TITLE: Final = 80


def shortened(title: str) -> str:
    """A title that leaves a row on its line."""
    return title if len(title) <= _LONGEST_TITLE else f"{title[: _LONGEST_TITLE - 1]}…"


def _print_results(answer: dict[str, Any], why: bool) -> None:
    print(f"{answer['matched']} matched in {answer['elapsed_ms']:.1f} ms")
    if answer.get("read_as"):
        print(f"read as: {answer['read_as']}")
    for note in answer.get("notes", ()):
        print(note)
    if "mended" in answer:
        print(f"spaces read: {answer['mended']}")
    if "fed_back" in answer:
        print(f"fed back: {' '.join(dict.fromkeys(answer['fed_back'])) or 'no word'}")
    digits = score_digits([row["score"] for row in answer["results"]])
    rows = answer["results"]
    # What the second stage looked at is ordered by its own figures.
    seconds = [row["second_stage"] for row in rows if "second_stage" in row]
    own_digits = score_digits(seconds)
    print_columns(
        [
            (
                row["rank"],
                f"{row['score']:.{digits}f}",
                *([f"{row['second_stage']:.{own_digits}f}" if "second_stage" in row else "–"] if seconds else []),
                row["key"],
                shortened(row.get("title", "")),
            )
            for row in rows
        ]
    )
    if seconds:
        print("The second figure is the second stage's, which ordered these rows.")
    for field, counts in answer.get("facets", {}).items():
        print(f"{field}: " + ", ".join(f"{value} {count}" for value, count in counts))
    if why:
        for row in answer["results"]:
            print(f"\n{row['key']}  {row['score']:.6f}")
            for part in row["parts"]:
                terms = " + ".join(f"{term['term']} {term['score']:.4f}" for term in part["terms"]) or "nothing"
                print(f"  {part['score']:.6f} = {part['weight']:g} x ({terms})  {part['field']}: {part['chain']}")
            for part in row.get("pool", ()):
                print(f"  {part['score']:.6f}  {part['term']}, pooled from {len(part['shares'])} readings")
            for part in row.get("blend", ()):
                rank = row["ranks"][part["list"]] or "not in it"
                print(f"  {part['part']:.6f}  {part['list']}: rank {rank}, {part['score']:.4f} there")
            if "second_look" in row:
                look = row["second_look"]
                print(
                    f"  {row['second_stage']:.6f}  second stage: {look['similarity']:.4f} alike, word by word; "
                    f"{look['place']:.4f} for its place before"
                )
            for part in row.get("signals", ()):
                print(f"  {part['amount']:+.6f}  signal {part['field']}")
