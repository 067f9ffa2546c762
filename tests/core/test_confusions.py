"""What a machine takes for what: learnt from words, and made one by a stage."""

import pytest

from pale_harbor.core.pages.confusions import Confusion, confusions_in
from pale_harbor.core.text import ChainError, chain_of

KNOWN = {"fresh": 5, "ship": 9, "noise": 7, "passage": 6, "modern": 8, "stern": 5, "morning": 6}


def swaps(**read: int) -> list[tuple[str, str, int]]:
    return [(one.read, one.meant, one.words) for one in confusions_in(KNOWN | read)]


def test_rare_words_beside_frequent_ones_tell_what_was_read_for_what():
    (found,) = confusions_in(KNOWN | {"frefh": 1, "fhip": 2, "noife": 1})
    assert found == Confusion("f", "s", 3, 0, (("fhip", "ship"), ("frefh", "fresh"), ("noife", "noise")))


def test_two_letters_for_one_and_one_for_two():
    assert swaps(modem=1, stem=1, moming=1) == [("m", "rn", 3)]
    held = {"lamps": 5, "timber": 5, "amber": 5, "larnps": 1, "tirnber": 1, "arnber": 1}
    assert [(one.read, one.meant) for one in confusions_in(held)] == [("rn", "m")]


def test_three_words_have_to_show_it():
    assert swaps(frefh=1, fhip=1) == []
    assert swaps(frefh=1, fhip=1, noife=1) == [("f", "s", 3)]


def test_a_word_of_five_records_is_there_and_one_of_two_may_be_misread():
    assert swaps(frefh=1, fhip=1, noife=3) == []
    assert swaps(frefh=2, fhip=2, noife=2) == [("f", "s", 3)]
    assert [one.words for one in confusions_in({**KNOWN, "fresh": 4, "frefh": 1, "fhip": 1, "noife": 1})] == []


def test_what_many_words_that_are_there_differ_by_is_no_confusion():
    # "sold" and "told", "sale" and "tale": s and t make words, and three rare ones prove nothing.
    there = {"sold": 9, "told": 9, "sale": 9, "tale": 9, "seam": 9, "team": 9, "tide": 9, "take": 9, "turn": 9}
    rare = {"side": 1, "sake": 1, "surn": 1}
    assert [(one.read, one.meant) for one in confusions_in(there | rare)] == []
    fewer = {word: count for word, count in there.items() if word not in ("sold", "sale")}
    assert [(one.read, one.meant, one.known) for one in confusions_in(fewer | rare)] == [("s", "t", 1)]


def test_inflected_words_short_ones_and_numbers_prove_nothing():
    assert swaps(ships=1, noises=1, sterns=1, moderns=1) == []
    assert [*confusions_in({"fog": 9, "sog": 1, "fat": 9, "sat": 1, "fit": 9, "sit": 1})] == []
    assert [*confusions_in({"1846": 9, "1896": 1, "1847": 9, "1897": 1, "1848": 9, "1898": 1})] == []


def tokens(chain: str, text: str) -> list[str]:
    return [token.text for token in chain_of(chain).run(text)]


def test_letters_that_are_taken_for_each_other_become_one():
    assert tokens("words > lower > misread", "modern modem ſhip sh0re 1amp 1846") == [
        "modem", "modem", "ship", "shore", "lamp", "1846"
    ]  # fmt: skip
    assert tokens('words > lower > misread("f=s c=e")', "frefh fresh cat eat") == ["sresh", "sresh", "eat", "eat"]


def test_the_longest_pair_goes_first():
    assert tokens('words > misread("r=x rn=m")', "rn r m") == ["m", "x", "m"]


def test_pairs_that_lead_on_to_one_another_make_all_of_them_one():
    assert len(set(tokens('words > misread("f=s s=c")', "frefh fresh frech srech crech"))) == 1
    assert len(set(tokens('words > misread("m=rn r=x")', "modem modern modexn"))) == 1
    assert tokens('words > misread("a=b b=c c=d")', "abcd") == ["dddd"]


@pytest.mark.parametrize("pairs", ["m=rn rn=m", "a=b b=c c=a", "m=mm", "a=bb b=aa"])
def test_pairs_that_lead_in_a_circle_are_told(pairs: str):
    with pytest.raises(ChainError, match="leads back to itself"):
        chain_of(f'words > misread("{pairs}")')


def test_a_token_keeps_the_letters_that_it_came_from():
    (token,) = chain_of("words > misread").run("  modern ")
    assert (token.text, token.start, token.end) == ("modem", 2, 8)


@pytest.mark.parametrize(
    "pairs",
    ["", "rn", "=m", "rn=", "rn=rn", "abcd=e", "a=bcde", " ".join(f"{chr(0x430 + number)}=x" for number in range(41))],
)
def test_what_is_no_pair_is_told(pairs: str):
    with pytest.raises(ChainError, match=r"is no pair|pairs; from 1 to 40"):
        chain_of(f'words > misread("{pairs}")')


def test_three_letters_and_forty_pairs_are_allowed():
    assert tokens('words > misread("abc=xyz")', "abc") == ["xyz"]
    many = " ".join(f"{chr(0x430 + number)}={chr(0x4E00 + number)}" for number in range(40))
    assert tokens(f'words > misread("{many}")', "\u0430") == ["\u4e00"]
