"""`chain`: run a chain on a text."""

import sys
from collections.abc import Iterable
from typing import Annotated, Any

import orjson
import typer

from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.core.text import Chain, Token, chain_of
from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import well_formed

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
    ready = chain_of(text_of(notation.removeprefix("@")) if notation.startswith(("-", "@")) else notation)
    if text is not None:
        _print_trace(ready, well_formed(text), as_json)
    elif lines is not None:
        _print_lines(ready, lines)


def _print_trace(ready: Chain, text: str, as_json: bool) -> None:
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


def _print_lines(ready: Chain, path: str) -> None:
    batch: list[str] = []
    for number, line in enumerate(_lines(path), start=1):
        batch.append(_line_text(line, number))
        if len(batch) == _BATCH:
            _print_batch(ready, batch)
            batch = []
    _print_batch(ready, batch)


def _print_batch(ready: Chain, texts: list[str]) -> None:
    table = ready.read(texts)
    columns = (table.term_ids, table.starts, table.ends, table.positions, table.spans)
    terms = [well_formed(term) for term in table.terms]
    by_text: list[list[dict[str, Any]]] = [[] for _ in texts]
    rows = zip(table.text_ids.tolist(), *(column.tolist() for column in columns), strict=True)
    for text_id, term, start, end, position, span in rows:
        by_text[text_id].append({"text": terms[term], "start": start, "end": end, "position": position, "span": span})
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


def _plain(tokens: Iterable[Token]) -> list[dict[str, Any]]:
    return [
        {"text": well_formed(t.text), "start": t.start, "end": t.end, "position": t.position, "span": t.span}
        for t in tokens
    ]
