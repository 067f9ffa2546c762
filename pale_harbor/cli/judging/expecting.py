"""`judged expect` and its kin: expectations, and complaints, which make judged queries with them."""

from dataclasses import asdict
from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.options import SetArgument
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.core.judging import Expectation, ExpectationKind, expectation
from pale_harbor.errors import BadInput

AmongFirst = Annotated[int | None, typer.Option(min=1, help="The record stands among so many first ones.")]
Never = Annotated[bool, typer.Option("--never", help="The record is not found.")]
MoreThan = Annotated[int | None, typer.Option(min=0, help="More records are found than this.")]
Nothing = Annotated[bool, typer.Option("--nothing", help="Nothing is found.")]
RecordOption = Annotated[str | None, typer.Option(help="The key of the record.")]


def add_to(judged: typer.Typer) -> None:
    judged.command()(expect)
    judged.command()(expected)
    judged.command("expect-no-more")(expect_no_more)
    judged.command()(complain)


def expect(
    collection: str,
    judged_set: SetArgument,
    query_id: str,
    among_first: AmongFirst = None,
    never: Never = False,
    more_than: MoreThan = None,
    nothing: Nothing = False,
    record: RecordOption = None,
    note: str = "",
) -> None:
    """Adds an expectation, which every measurement checks."""
    from pale_harbor.work.judging.expecting import expect as add_expectation

    wanted = _expectation_of(among_first, never, more_than, nothing, record, note)
    with workbench() as bench:
        number = add_expectation(bench, collection, judged_set, query_id, wanted)
    print(f"expectation {number} is kept")


def expected(collection: str, judged_set: SetArgument, as_json: AsJson = False) -> None:
    """Lists a set's expectations; whether they hold is told by `measure`."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.judging.expectations import expectations_of
    from pale_harbor.store.judging.judged_sets import set_named

    with database() as pool, pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, collection).id, judged_set)
        found = expectations_of(connection, kept.id)
    if as_json:
        print_json([asdict(one) for one in found])
        return
    print_columns(
        [
            ["number", "query", "expected", "note"],
            *[[one.id, one.query_id, one.wanted, one.note] for one in found],
        ]
    )


def expect_no_more(collection: str, judged_set: SetArgument, number: int) -> None:
    """Ends an expectation; earlier revisions still know it."""
    from pale_harbor.work.judging.expecting import expect_no_more as end_expectation

    with workbench() as bench:
        end_expectation(bench, collection, judged_set, number)
    print(f"expectation {number} is ended")


def complain(
    collection: str,
    judged_set: SetArgument,
    query: str,
    among_first: AmongFirst = None,
    never: Never = False,
    more_than: MoreThan = None,
    nothing: Nothing = False,
    record: RecordOption = None,
    need: Annotated[str, typer.Option(help="What the visitor wanted.")] = "",
    words: Annotated[str, typer.Option(help="The complaint, in whose words it came.")] = "",
) -> None:
    """Makes a judged query of a complaint. A record that is missing is exactly it, one out of place is off topic."""
    from pale_harbor.work.judging.complaining import Complaint
    from pale_harbor.work.judging.complaining import complain as keep_complaint

    wanted = _expectation_of(among_first, never, more_than, nothing, record, words)
    grade = {"among_first": 3, "never": 0}.get(wanted.kind)
    with workbench() as bench:
        complaint = Complaint(
            query=query, need=need, complaint=words, record_key=wanted.record_key, grade=grade, wanted=wanted
        )
        query_id = keep_complaint(bench, collection, judged_set, complaint)
    print(f"kept as {query_id} of {judged_set}")


def _expectation_of(
    among_first: int | None, never: bool, more_than: int | None, nothing: bool, record: str | None, note: str
) -> Expectation:
    given: list[tuple[ExpectationKind, int | None]] = []
    if among_first is not None:
        given.append(("among_first", among_first))
    if never:
        given.append(("never", None))
    if more_than is not None:
        given.append(("more_than", more_than))
    if nothing:
        given.append(("nothing", None))
    if len(given) != 1:
        raise BadInput("Say one thing that is expected: --among-first N, --never, --more-than N or --nothing.")
    (kind, number) = given[0]
    return expectation(kind, record, number, note)
