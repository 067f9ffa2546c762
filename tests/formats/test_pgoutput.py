"""Messages of logical decoding by hand, as PostgreSQL's documentation lays them out."""

import struct

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.formats.following.pgoutput import (
    UNSAID,
    Begun,
    Changed,
    Committed,
    Emptied,
    Garbled,
    Listener,
    position_of,
    position_text,
)


def value(text: str | None) -> bytes:
    return b"n" if text is None else b"t" + struct.pack(">i", len(text.encode())) + text.encode()


def row(*values: str | None) -> bytes:
    return struct.pack(">h", len(values)) + b"".join(map(value, values))


def relation(number: int, schema: str, name: str, *columns: str) -> bytes:
    own = b"".join(b"\x00" + column.encode() + b"\0" + struct.pack(">Ii", 23, -1) for column in columns)
    head = struct.pack(">I", number) + schema.encode() + b"\0" + name.encode() + b"\0d"
    return b"R" + head + struct.pack(">h", len(columns)) + own


@pytest.fixture
def listener() -> Listener:
    heard = Listener()
    assert heard.heard(relation(7, "public", "comments", "id", "article_id")) is None
    return heard


def test_a_transaction_has_its_ends_and_its_moment(listener: Listener):
    # 2000-01-01 00:00:01 UTC is a second after what the protocol counts from.
    assert listener.heard(b"B" + struct.pack(">qqI", 100, 1_000_000, 42)) == Begun(100, 946_684_801.0, 42)
    assert listener.heard(b"C\x00" + struct.pack(">qqq", 100, 120, 1_000_000)) == Committed(120)


def test_a_row_that_came(listener: Listener):
    said = listener.heard(b"I" + struct.pack(">I", 7) + b"N" + row("1", None))
    assert said == Changed("public.comments", "insert", None, {"id": "1", "article_id": None})


@pytest.mark.parametrize(("how", "old"), [(b"", None), (b"K" + row("1", None), True), (b"O" + row("1", "5"), True)])
def test_a_row_that_is_otherwise_tells_what_it_was_as_far_as_its_table_says(
    listener: Listener, how: bytes, old: object
):
    said = listener.heard(b"U" + struct.pack(">I", 7) + how + b"N" + row("1", "6"))
    assert isinstance(said, Changed)
    assert (said.how, said.new) == ("update", {"id": "1", "article_id": "6"})
    assert (said.old is None) == (old is None)
    if how[:1] == b"O":
        assert said.old == {"id": "1", "article_id": "5"}


def test_a_row_that_went(listener: Listener):
    said = listener.heard(b"D" + struct.pack(">I", 7) + b"O" + row("1", "5"))
    assert said == Changed("public.comments", "delete", {"id": "1", "article_id": "5"}, None)


def test_a_value_that_is_not_said_again_is_no_null(listener: Listener):
    said = listener.heard(b"U" + struct.pack(">I", 7) + b"N" + struct.pack(">h", 2) + value("1") + b"u")
    assert isinstance(said, Changed)
    assert said.new is not None
    assert said.new["article_id"] is UNSAID


def test_tables_that_were_emptied(listener: Listener):
    listener.heard(relation(8, "", "pg_like", "id"))
    said = listener.heard(b"T" + struct.pack(">IbII", 2, 0, 7, 8))
    assert said == Emptied(["public.comments", "pg_catalog.pg_like"])


@pytest.mark.parametrize("letter", [b"O", b"Y", b"M"])
def test_what_concerns_no_row_is_passed_over(listener: Listener, letter: bytes):
    assert listener.heard(letter + b"whatever") is None


def test_a_table_that_was_never_named_is_not_guessed(listener: Listener):
    with pytest.raises(Garbled):
        listener.heard(b"I" + struct.pack(">I", 9) + b"N" + row("1", "2"))


@given(cut=st.integers(1, 30))
def test_a_message_that_breaks_off_is_told(cut: int):
    heard = Listener()
    heard.heard(relation(7, "public", "comments", "id", "article_id"))
    whole = b"I" + struct.pack(">I", 7) + b"N" + row("12345", "67890")
    if cut < len(whole):
        with pytest.raises(Garbled):
            heard.heard(whole[:-cut])


@given(st.integers(0, 2**64 - 1))
def test_a_place_in_the_log_is_written_as_it_is_read(place: int):
    assert position_of(position_text(place)) == place
