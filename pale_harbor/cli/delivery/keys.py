"""`key`: who may ask the search endpoint of a collection, and programs that work with it."""

from typing import TYPE_CHECKING, Annotated, Literal

import orjson
import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.formats.visitor_terms import VisitorTerms

app = typer.Typer(help="Keys of a collection: of sites' pages, and of programs.", no_args_is_help=True)

LabelArgument = Annotated[str, typer.Argument(help="What it is for.")]
Days = Annotated[float | None, typer.Option(min=0.001, max=3_650, help="For how long it holds.")]
Number = Annotated[int, typer.Argument(min=1, max=2**31 - 1, help="Its number, as `key list` tells it.")]
TermsFile = Annotated[
    str | None,
    typer.Option("--terms", help="What it may ask for and gets to see, as JSON (docs/delivery.md); - to read."),
]
Origins = Annotated[
    list[str] | None, typer.Option("--origin", help="A site whose pages may ask, such as https://www.example.org.")
]


@app.command()
def visitor(
    collection: str,
    label: LabelArgument,
    terms: TermsFile = None,
    origin: Origins = None,
    days: Days = None,
    as_json: AsJson = False,
) -> None:
    """Makes a key for a site's pages, and prints it, this once."""
    from pale_harbor.work.delivery.keeping import make_visitor_key

    wanted = _terms(terms, origin)
    with workbench() as bench:
        made = make_visitor_key(bench, collection, label, wanted, days)
    _print(made.id, made.shown, as_json)


@app.command()
def program(
    collection: str,
    label: LabelArgument,
    role: Annotated[Literal["reader", "engineer", "owner"], typer.Option(help="What it may do.")] = "reader",
    days: Days = 365.0,
    as_json: AsJson = False,
) -> None:
    """Makes a key for a program that works with a collection, and prints it, this once."""
    from pale_harbor.work.delivery.keeping import make_program_key

    with workbench() as bench:
        made = make_program_key(bench, collection, label, role, days)
    _print(made.id, made.shown, as_json)


@app.command("list")
def list_keys(collection: str, as_json: AsJson = False) -> None:
    """Lists a collection's keys, those that hold first."""
    from pale_harbor.work.delivery.keeping import keys_told

    with workbench() as bench:
        told = keys_told(bench, collection)
    if as_json:
        print_json(
            [
                {
                    "id": one.id,
                    "kind": one.kind,
                    "label": one.label,
                    "terms": one.terms,
                    "role": one.role,
                    "made_at": one.made_at,
                    "used_at": one.used_at,
                    "ended": one.ended,
                }
                for one in told
            ]
        )
        return
    rows = [
        (one.id, one.kind, one.label, one.role or "", "ended" if one.ended else "holds", one.by_person or "")
        for one in told
    ]
    print_columns([("number", "kind", "label", "role", "", "made by"), *rows])


@app.command()
def change(
    collection: str,
    number: Number,
    label: LabelArgument,
    terms: TermsFile = None,
    origin: Origins = None,
) -> None:
    """Gives a visitor's key other terms."""
    from pale_harbor.work.delivery.keeping import change_terms

    wanted = _terms(terms, origin)
    with workbench() as bench:
        change_terms(bench, collection, number, label, wanted)
    print("changed")


@app.command()
def revoke(collection: str, number: Number) -> None:
    """From now on a key is good for nothing."""
    from pale_harbor.work.delivery.keeping import revoke as revoked

    with workbench() as bench:
        revoked(bench, collection, number)
    print("revoked")


def _terms(file: str | None, origins: list[str] | None) -> "VisitorTerms":
    from pale_harbor.formats.visitor_terms import visitor_terms

    said: dict[str, object] = {}
    if file is not None:
        try:
            said = orjson.loads(text_of(file))
        except orjson.JSONDecodeError as error:
            raise BadInput(f"{file} is not JSON: {error.msg} (line {error.lineno}, column {error.colno}).") from error
    if origins:
        said = {**said, "origins": origins}
    return visitor_terms(said)


def _print(number: int, shown: str, as_json: bool) -> None:
    if as_json:
        print_json({"id": number, "key": shown})
    else:
        print(shown)
