"""`chain`: run a chain on a text, save it, see what it does to a collection."""

import sys
from collections.abc import Iterable
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import orjson
import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import well_formed

if TYPE_CHECKING:
    from pale_harbor.core.text import Chain, Token
    from pale_harbor.core.text.word_lists import WordList

app = typer.Typer(help="Chains: how text is cut and normalised.", no_args_is_help=True)

# Lines read, run and printed at a time.
_BATCH = 2_000


@app.callback()
def chain() -> None:
    """Chains: how text is cut and normalised."""


@app.command()
def run(
    notation: Annotated[str, typer.Argument(help="Chain notation; @FILE or - reads it from there.")],
    text: Annotated[str | None, typer.Option(help="The text to run the chain on.")] = None,
    lines: Annotated[str | None, typer.Option(help="A file with one text per line; - for standard input.")] = None,
    collection: Annotated[str | None, typer.Option(help="Whose saved chains and word lists are meant.")] = None,
    word_list: Annotated[
        list[str] | None, typer.Option("--list", help="NAME=FILE: a word list as CSV; may be given several times.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Runs a chain on a text and shows its tokens and what every stage did.

    With --lines, one JSON line of tokens for each line of input; a line that begins with a double
    quote is read as a JSON string.
    """
    if (text is None) == (lines is None):
        raise BadInput("Give either --text TEXT or --lines FILE.")
    if notation == "-" and lines == "-":
        raise BadInput("Standard input can hold the chain or the lines, not both.")
    ready = _ready(notation, collection, word_list or [])
    if text is not None:
        _print_trace(ready, well_formed(text), as_json)
    elif lines is not None:
        _print_lines(ready, lines)


@app.command(name="list")
def list_chains(collection: str, as_json: AsJson = False) -> None:
    """Lists saved chains with their newest versions, and the rankers that use them."""
    from pale_harbor.work.chains.uses import chains_in_use

    with workbench() as bench:
        chains = chains_in_use(bench, collection)
    if as_json:
        print_json([asdict(chain) for chain in chains])
        return
    print_columns(
        [
            (
                f"@{chain.name}",
                chain.version,
                chain.notation,
                ", ".join(f"{use.ranker} {use.ranker_version}" for use in chain.used_by),
            )
            for chain in chains
        ]
    )


@app.command()
def put(
    collection: str,
    name: str,
    notation: Annotated[str, typer.Argument(help="Chain notation; @FILE or - reads it from there.")],
    as_json: AsJson = False,
) -> None:
    """Saves a chain as a new version of its name."""
    with workbench() as bench:
        saved = bench.put_chain(collection, name, _notation_from(notation))
    if as_json:
        print_json({"name": saved.name, "version": saved.version})
    else:
        print(f"@{saved.name}, version {saved.version}")


@app.command()
def consequences(
    collection: str,
    field: str,
    notation: Annotated[str, typer.Argument(help="The record chain; @FILE or - reads it from there.")],
    query_chain: Annotated[str | None, typer.Option(help="The query chain, where it is another one.")] = None,
    judged_set: Annotated[str | None, typer.Option("--set", help="Whose queries are tried too.")] = None,
    as_json: AsJson = False,
) -> None:
    """What a chain does to a field of the whole collection, and what the chain doctor says."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.work.chains.consequences import exact, findings

    with workbench() as bench:
        with bench.pool.connection() as connection:
            kept = collection_named(connection, collection)

        def chain_from(written: str) -> "Chain":
            return bench.chain(kept, written)

        record_chain = chain_from(_notation_from(notation))
        gathered = exact(bench, collection, field, record_chain)
        both = (record_chain, chain_from(query_chain) if query_chain else record_chain)
        found = findings(bench, kept, field, both, gathered, chain_from=chain_from, judged_set=judged_set)
    figures = gathered.consequences
    if as_json:
        shown = asdict(figures) | {"index_bytes": figures.index_bytes.total, "languages": dict(gathered.languages)}
        print_json(shown | {"findings": [asdict(finding) for finding in found]})
        return
    mean, median, most = figures.tokens_per_record
    print_columns(
        [
            ("records", f"{figures.records:,}"),
            ("terms", f"{figures.vocabulary:,}"),
            ("tokens per record", f"{mean:.1f} (median {median:g}, most {most:,})"),
            ("index", f"{figures.index_bytes.total / 1e6:,.2f} MB"),
            ("terms shared by several words", f"{figures.merging_terms:,}"),
            ("words dropped", f"{figures.dropped_words:,}"),
            ("values left empty", f"{figures.empty_count:,}"),
        ]
    )
    for finding in found:
        print(f"\n{finding.sentence}")
        for line in finding.evidence:
            print(f"  {line}")
        if finding.mend is not None:
            print(f"  Mend: {finding.mend.label}. {finding.mend.would}")


def _notation_from(notation: str) -> str:
    """A notation as given, or read from a file or standard input."""
    from_file = notation == "-" or (notation.startswith("@") and Path(notation[1:]).is_file())
    return text_of(notation.removeprefix("@")) if from_file else notation


def _ready(notation: str, collection: str | None, word_lists: list[str]) -> "Chain":
    from pale_harbor.core.text import chain_of
    from pale_harbor.formats.word_lists import word_list_of

    written = _notation_from(notation)
    if collection is not None:
        from pale_harbor.store.collections.collections import collection_named

        with workbench() as bench, bench.pool.connection() as connection:
            return bench.chain(collection_named(connection, collection), written)
    if written.startswith("@"):
        raise BadInput(f"{written[1:]} is no file. For a saved chain say whose: --collection NAME.")
    lists: dict[str, WordList] = {}
    for given in word_lists:
        name, equals, path = given.partition("=")
        if not equals:
            raise BadInput(f"--list {given}: say NAME=FILE.")
        lists[name] = word_list_of(text_of(path))
    return chain_of(written, lists)


def _print_trace(ready: "Chain", text: str, as_json: bool) -> None:
    traces = ready.trace(text)
    tokens = traces[-1].tokens
    if as_json:
        stages = [
            {"stage": trace.stage, "tokens": _plain(trace.tokens)}
            | ({"text": trace.text} if trace.text is not None else {})
            for trace in traces
        ]
        print_json({"tokens": _plain(tokens), "stages": stages})
        return
    for trace in traces:
        shown = trace.text if trace.text is not None else "  ".join(token.text for token in trace.tokens)
        print(f"{trace.stage:<16} {shown}")
    print()
    print_columns([("token", "start", "end", "position"), *((t.text, t.start, t.end, t.position) for t in tokens)])


def _print_lines(ready: "Chain", path: str) -> None:
    batch: list[str] = []
    for number, line in enumerate(_lines(path), start=1):
        batch.append(_line_text(line, number))
        if len(batch) == _BATCH:
            _print_batch(ready, batch)
            batch = []
    _print_batch(ready, batch)


def _print_batch(ready: "Chain", texts: list[str]) -> None:
    table = ready.read(texts)
    columns = (table.term_ids, table.starts, table.ends, table.positions, table.spans)
    texts_of_terms = [well_formed(term) for term in table.terms]
    by_text: list[list[dict[str, Any]]] = [[] for _ in texts]
    rows = zip(table.text_ids.tolist(), *(column.tolist() for column in columns), strict=True)
    for text_id, term, start, end, position, span in rows:
        shown = {"text": texts_of_terms[term], "start": start, "end": end, "position": position, "span": span}
        by_text[text_id].append(shown)
    for tokens in by_text:
        sys.stdout.buffer.write(orjson.dumps({"tokens": tokens}) + b"\n")
    sys.stdout.buffer.flush()


def _lines(path: str) -> Iterable[bytes]:
    if path == "-":
        yield from sys.stdin.buffer
        return
    try:
        with open(path, "rb") as file:
            yield from file
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error


def _line_text(line: bytes, number: int) -> str:
    content = line.rstrip(b"\r\n")
    if not content.startswith(b'"'):
        return content.decode("utf-8", "replace")
    # The standard library's reader, because it lets lone surrogates pass.
    import json

    try:
        text = json.loads(content.decode("utf-8", "replace"))
    except json.JSONDecodeError as error:
        raise BadInput(f"line {number} begins with a double quote but is no JSON string: {error.msg}.") from error
    if not isinstance(text, str):
        raise BadInput(f"line {number} is no JSON string.")
    return well_formed(text)


def _plain(tokens: "Iterable[Token]") -> list[dict[str, Any]]:
    return [
        {"text": well_formed(t.text), "start": t.start, "end": t.end, "position": t.position, "span": t.span}
        for t in tokens
    ]
