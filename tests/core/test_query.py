"""What visitors type is read, whatever it is, and the page can say how."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.query import (
    Both,
    Either,
    Group,
    InField,
    Node,
    Not,
    ParsedQuery,
    QueryWord,
    how_it_was_read,
    parse_query,
)
from pale_harbor.core.query.parser import DEEPEST, MOST_WORDS
from pale_harbor.core.query.words import word_stretches
from tests.strategies import queries, texts

FIELDS = ["title", "maker", "year"]


def nodes_of(node: Node) -> list[Node]:
    match node:
        case Both(nodes) | Either(nodes) | Group(nodes):
            return [node, *(inner for one in nodes for inner in nodes_of(one))]
        case Not(inner):
            return [node, *nodes_of(inner)]
        case InField(_, inner):
            return [node, *nodes_of(inner)]
        case _:
            return [node]


def depth_of(node: Node) -> int:
    match node:
        case Both(nodes) | Either(nodes) | Group(nodes):
            return 1 + max((depth_of(one) for one in nodes), default=0)
        case Not(inner):
            return 1 + depth_of(inner)
        case InField(_, inner):
            return 1 + depth_of(inner)
        case _:
            return 0


@given(st.one_of(texts(), queries(), st.text('ab"()-:*. ORANDNOT\n', max_size=60)))
def test_nothing_is_an_error_and_every_node_knows_its_letters(text: str):
    parsed = parse_query(text, FIELDS)
    for node in nodes_of(parsed.root):
        assert 0 <= node.start <= node.end <= len(text)
        if isinstance(node, QueryWord) and not (node.begins or node.ends):
            assert text[node.start : node.end] == node.text
    assert isinstance(how_it_was_read(parsed), str)


@given(st.lists(st.sampled_from(["fog", "bells", "SMC-1907", "d'or", "or", "and", "No.", "été"]), max_size=8))
def test_plain_words_are_words_and_nothing_is_said_of_them(words: list[str]):
    parsed = parse_query(" ".join(words), FIELDS)
    assert [node.text for node in parsed.root.nodes if isinstance(node, QueryWord)] == words
    assert how_it_was_read(parsed) == ""
    assert parsed.notes == ()


@pytest.mark.parametrize(
    ("query", "read"),
    [
        ("harpoon -gun", "harpoon, without gun"),
        ("harpoon NOT gun", "harpoon, without gun"),
        ("NOT NOT gun lamp", ""),
        ('the "pale harbor" light', "the, exactly “pale harbor”, light"),
        ("“pale harbor”", "exactly “pale harbor”"),
        ('="pale harbor"', "the whole value “pale harbor”"),
        ("=łódź bell", "the whole value “łódź”, bell"),
        ('title:="fog bell"', "title: the whole value “fog bell”"),
        ("maker:=Coyle", "maker: the whole value “Coyle”"),
        ("-=fog", "without the whole value “fog”"),
        ("==fog", ""),
        ("a=b", ""),
        ("= fog", ""),
        ('="fog', ""),
        ("(=fog)", "the whole value “fog”"),
        ("bell OR gong", "(bell or gong)"),
        ("bell AND gong OR lamp", "(bell and gong or lamp)"),
        ("bell AND (gong OR lamp)", "bell and (gong or lamp)"),
        ("-(fog bell)", "without (fog bell)"),
        ("harp* *oon", "words beginning with harp, words ending in oon"),
        ("title:bell", "title: bell"),
        ("TITLE:bell", "title: bell"),
        ('maker:"Ephraim Coyle"', "maker: exactly “Ephraim Coyle”"),
        ("title:(bell gong) lamp", "title: (bell gong), lamp"),
        ("-title:bell", "without title: bell"),
        ("year:1890..1910", "year from 1890 to 1910"),
        ("year:1890.. bell", "year from 1890 on, bell"),
        ("year:..1910", "year up to 1910"),
        # What stands for nothing is a word, or nothing.
        ("color:red", ""),
        ("a well-known 1890..1910 lamp", ""),
        ("* - h*p *a*", ""),
        ("()", ""),
        ('a 5" gun and an o"neil', ""),
        ('<img src="x y"> -"iron head"', '<img src="x y">, without exactly “iron head”'),
        ("(((bell)))", ""),
    ],
)
def test_each_sign_is_read(query: str, read: str):
    assert how_it_was_read(parse_query(query, FIELDS)) == read


@pytest.mark.parametrize(
    ("query", "words", "note"),
    [
        ('fog "bell', ["fog", "bell"], "A quotation mark without its partner was passed over."),
        ("fog (bell", ["fog", "bell"], "A parenthesis without its partner was passed over."),
        ("fog) bell", ["fog", "bell"], "A parenthesis without its partner was passed over."),
        ("OR fog", ["OR", "fog"], '"OR" has nothing to work on and was read as a word.'),
        ("fog AND", ["fog", "AND"], '"AND" has nothing to work on and was read as a word.'),
        ("fog NOT", ["fog", "NOT"], '"NOT" has nothing to work on and was read as a word.'),
        ("title: fog", ["title:", "fog"], '"title:" has nothing to work on and was read as a word.'),
    ],
)
def test_what_does_not_parse_is_read_as_words_and_said(query: str, words: list[str], note: str):
    parsed = parse_query(query, FIELDS)
    assert [node.text for node in nodes_of(parsed.root) if isinstance(node, QueryWord)] == words
    assert parsed.notes == (note,)


@pytest.mark.parametrize(
    "query",
    [
        "bell OR " * 20_000,
        "(" * 20_000 + "bell" + ")" * 20_000,
        "(bell OR (" * 5_000,
        "-" * 50_000 + "bell",
        "NOT " * 20_000 + "bell",
        '"' * 30_001,
        "title:" * 20_000,
        "*" * 50_000,
        "b" * 100_000,
        "\u202e\u0301\u05d0\u0644 " * 10_000,
    ],
    ids=["ors", "parentheses", "open", "minuses", "nots", "quotes", "fields", "stars", "long", "marks"],
)
def test_hostile_queries_are_cut_to_a_visitors_size(query: str):
    parsed = parse_query(query, FIELDS)
    assert sum(isinstance(node, QueryWord) for node in nodes_of(parsed.root)) <= MOST_WORDS + 1
    # An OR, an AND, a NOT and a field at each depth.
    assert depth_of(parsed.root) <= 5 * (DEEPEST + 1)


def test_words_are_counted_by_the_word_boundaries_of_unicode():
    def words(text: str) -> list[str]:
        return [text[start:end] for start, end in word_stretches(text)]

    assert words("SMC-1907-41, Åsmøe's") == ["SMC", "1907", "41", "Åsmøe's"]
    assert words("fog ♥ — C++") == ["fog", "♥", "C"]
    # Signs that stand by themselves are words only where there is nothing else.
    assert words("— ++") == ["—", "++"]
    assert words("  ") == []


def test_an_empty_query_holds_nothing():
    assert parse_query("  ") == ParsedQuery("  ", Group((), 0, 2))
