"""What each stage makes of a text, by worked examples and by published ones."""

from itertools import accumulate

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text import Token, chain_of, patterns
from pale_harbor.core.text.alternatives import taken_apart
from pale_harbor.core.text.errors import GreedyPattern, SlowPattern, TiringPattern, TooManyTokens
from pale_harbor.core.text.patterns import patterns_within_bounds, safe_pattern
from pale_harbor.core.text.place import place_of
from pale_harbor.core.text.sounding import cologne, metaphone, soundex
from pale_harbor.core.text.stemmers import english_light
from pale_harbor.core.text.word_lists import Replacements, SynonymRule, Synonyms, WordSet

SEAFARING = Synonyms(
    (
        SynonymRule(("foghorn",), ("fog horn", "fog signal")),
        SynonymRule(("lance",), ("killing iron",), both_ways=False),
        SynonymRule(("old man",), ("capstan",), both_ways=False),
    )
)
LISTS = {
    "seafaring": SEAFARING,
    "names": WordSet(frozenset({"Herring", "constancy"})),
    "parts": WordSet(frozenset({"schiff", "schiffs", "arzt", "fog", "horn", "lamp", "light", "house"})),
    "letters": Replacements((("ſ", "s"), ("ſſ", "ß"), ("ne'er", "never"))),
    "geese": Replacements((("geese", "goose"),)),
}


@pytest.mark.parametrize(
    ("notation", "text", "expected"),
    [
        ("nfc > whole", "e\u0301 ﬁ", ["é ﬁ"]),
        ("markup > words", "<p>Fog&amp;be<b>ll</b><br/>buoy</p><!-- no --> a < b", ["Fog", "bell", "buoy", "a", "b"]),
        ("markup > words", "<script>var fog</script>quay<td>1<td>2", ["quay", "1", "2"]),
        ("markup > words", '<img alt="a > b">bell &eacute;t&#233; &#x43;', ["bell", "été", "C"]),
        ("markup > words", "<![CDATA[a <b> c]]>", ["a", "b", "c"]),
        ("markup > words", "fog <!-- no end <b>bell</b>", ["fog", "bell"]),
        ("markup > words", "a<STYLE>x</style >b <?xml no?> c <script>all", ["a", "b", "c", "all"]),
        ("markup > words", "x < y <1 <b", ["x", "y", "1", "b"]),
        ('replace(/(\\d)\\s(\\d)/, "\\\\1\\\\2") > words', "12 500 t", ["12500", "t"]),
        ("swap(@letters) > words", "ſloop meſſer ne'er", ["sloop", "meßer", "never"]),
        ("elide(fr) > words", "L’amarre d'un canot aujourd'hui", ["amarre", "un", "canot", "aujourd'hui"]),
        ("elide(it) > words", "dell'acqua un'ancora l'", ["acqua", "ancora", "l"]),
        ("elide(ca) > words", "l'àncora d'un", ["àncora", "un"]),
        ("letters", "SKR-2070b Łódź e\u0301", ["SKR", "b", "Łódź", "e\u0301"]),
        ("find(/[A-Z]+-\\d+/) > lower", "see SMC-1907 and QX-3", ["smc-1907", "qx-3"]),
        ("find(/no\\. (\\d+)/)", "no. 12, no. 7", ["12", "7"]),
        ("split_at(/\\s*;\\s*/)", "oak; elm ;iron;", ["oak", "elm", "iron"]),
        ("grams(3, 3)", "fog b", ["fog", "og ", "g b"]),
        ("prefixes(2, 4)", "fog bell", ["fo", "fog", "fog "]),
        ('hierarchy("/")', "/coast/harbor//quay", ["coast", "coast/harbor", "coast/harbor//quay"]),
        ('hierarchy(" > ")', "coast > quay", ["coast", "coast > quay"]),
        ("words > lower(tr)", "IŞIK İZ I\u0307z", ["ışık", "iz", "iz"]),
        ("words > lower", "ΟΔΟΣ ΣΑΣ İZ", ["οδος", "σας", "i̇z"]),
        ("words > casefold", "STRASSE Straße ΟΔΟΣ", ["strasse", "strasse", "οδοσ"]),
        ("words > stopwords(@names)", "Herring constancy fog", ["fog"]),
        ("words > as_is(@names) > lower > stem(en)", "Herring Bells constancy", ["Herring", "bell", "constancy"]),
        ("words > lemmas(@geese)", "geese gees", ["goose", "gees"]),
        ("words > parts", "SKR2070b XMLParser été2", ["SKR", "2070", "b", "XML", "Parser", "été", "2"]),
        ("words > parts", "camelCase plain", ["camel", "Case", "plain"]),
        ("blanks > parts", "fog-horn a_b", ["fog", "horn", "a", "b"]),
        ("blanks > parts(whole=yes)", "fog-horn x", ["fog-horn", "fog", "horn", "x"]),
        ("words > decompound(@parts)", "foghorn lighthouselamp", ["fog", "horn", "light", "house", "lamp"]),
        ('words > decompound(@parts, links="s n")', "schiffsarzt", ["schiffs", "arzt"]),
        ("words > possessive", "keeper's boats’s sailors", ["keeper", "boats", "sailors"]),
        ("blanks > possessive", "keepers' 's s'", ["keepers", "'s", "s'"]),
        ("words > grams(3, 4)", "fog bell", ["fog", "bel", "bell", "ell"]),
        ("words > prefixes(2, 3)", "fog a bell", ["fo", "fog", "be", "bel"]),
        ("words > latin > lower", "Петров Ольга 北京 Παππάς Ölga", ["petrov", "olga", "bei", "jing", "pappas", "ölga"]),
        ("words > latin", "محمد हिन्दी O’Brien ＡＢ", ["mhmd", "hindi", "O’Brien", "ＡＢ"]),
        ("words > reverse", "fog e\u0301t", ["gof", "te\u0301"]),
        ("words > length(3, 8)", "an old lighthouse", ["old"]),
        ("words > length(2, 3)", "a an old bell", ["an", "old"]),
        ("words > length(max=3)", "a an old bell", ["a", "an", "old"]),
        ("words > unique", "fog fog bell fog", ["fog", "bell"]),
        ("words > limit(2)", "fog bell horn", ["fog", "bell"]),
        ("words > cjk_pairs", "港の霧 fog 漢", ["港", "港の", "の霧", "霧", "fog", "漢"]),
        ("words > word_grams(2, 2)", "fog bell rings", ["fog", "fog bell", "bell", "bell rings", "rings"]),
        ('words > word_grams(2, 3, join="_", single=no)', "fog bell rang", ["fog_bell", "fog_bell_rang", "bell_rang"]),
        ("words > stopwords(en) > word_grams(2, 2)", "fog of war here", ["fog", "war"]),
        ("words > sounds(soundex)", "Aldersen 1907", ["A436", "1907"]),
        ("words > stem(en, light)", "ferries quays compass boxes", ["ferry", "quay", "compass", "boxe"]),
    ],
)  # fmt: skip
def test_what_a_stage_makes_of_a_text(notation: str, text: str, expected: list[str]):
    chain = chain_of(notation, LISTS)
    assert [token.text for token in chain.run(text)] == expected
    assert chain.read([text, "", text]).tokens_of(2) == chain.run(text)


def placed(tokens: list[Token]) -> list[tuple[str, int, int]]:
    return [(token.text, token.position, token.span) for token in tokens]


def test_synonyms_of_several_words_leave_every_phrase_right():
    chain = chain_of("words > synonyms(@seafaring)", LISTS)
    assert placed(chain.run("a foghorn rang")) == [
        ("a", 0, 1),
        ("foghorn", 1, 3),
        ("fog", 1, 1),
        ("fog", 1, 2),
        ("horn", 2, 2),
        ("signal", 3, 1),
        ("rang", 4, 1),
    ]
    assert placed(chain.run("the fog horn")) == [
        ("the", 0, 1),
        ("fog", 1, 1),
        ("foghorn", 1, 3),
        ("fog", 1, 2),
        ("horn", 2, 2),
        ("signal", 3, 1),
    ]


def test_one_way_synonyms_hold_in_one_direction():
    chain = chain_of("words > synonyms(@seafaring)", LISTS)
    assert chain.terms("lance") == ["lance", "killing", "iron"]
    assert chain.terms("killing iron") == ["killing", "iron"]
    assert placed(chain.run("old man here")) == [("old", 0, 1), ("capstan", 0, 2), ("man", 1, 1), ("here", 2, 1)]


def test_synonyms_in_the_place_of_a_word():
    chain = chain_of("words > synonyms(@seafaring, beside=no)", LISTS)
    assert placed(chain.run("old man here")) == [("capstan", 0, 2), ("here", 2, 1)]
    assert placed(chain.run("a lance x")) == [("a", 0, 1), ("killing", 1, 1), ("iron", 2, 1), ("x", 3, 1)]


def test_synonyms_are_marked_on_all_they_stand_for():
    text = "the old man here"
    tokens = chain_of("words > synonyms(@seafaring)", LISTS).run(text)
    assert [text[token.start : token.end] for token in tokens if token.text == "capstan"] == ["old man"]


@pytest.mark.parametrize(
    ("pattern", "put_in", "text", "token", "marked"),
    [
        (r".*?(\d{4}).*", r"\1", "Built in 1912, Saltmere", "1912", "1912"),
        (r"(\d)\s(\d)", r"\1\2", "12 500", "12500", "12 500"),
        (r"no\. (\d+) of (\w+)", r"\1/\2", "no. 7 of oak", "7/oak", "7 of oak"),
        # What is put in beside a group goes with it; at the ends of what was found, with all up to there.
        (r"x(\d+)", r"n\1", "x12", "n12", "x12"),
        (r"(\d+)", r"n\1!", "12", "n12!", "12"),
        # A group that found nothing says nothing; groups that change places are all that was found.
        (r"a(b)?(c)", r"\1\2", "ac", "c", "c"),
        (r"<(\w+) (\w+)>", r"\2 \1", "<ab cd>", "cd ab", "<ab cd>"),
        (r"<(\w+)>", r"\1\1", "<ab>", "abab", "<ab>"),
        (r"<\w+>", "word", "<ab>", "word", "<ab>"),
    ],
)
def test_a_group_that_is_put_in_is_marked_where_it_stood(pattern: str, put_in: str, text: str, token: str, marked: str):
    doubled = put_in.replace("\\", "\\\\")
    (found,) = chain_of(f'replace(/{pattern.replace("/", "[/]")}/, "{doubled}") > whole').run(text)
    assert (found.text, text[found.start : found.end]) == (token, marked)


def test_no_synonym_is_found_across_a_dropped_word():
    chain = chain_of("words > stopwords(en) > synonyms(@seafaring)", LISTS)
    assert chain.terms("fog the horn") == ["fog", "horn"]


def paths(tokens: list[Token]) -> set[str]:
    """What can be read along the tokens from the first position to the end."""
    end = max(token.position + token.span for token in tokens)

    def onwards(position: int) -> set[str]:
        if position == end:
            return {""}
        return {
            f"{token.text} {rest}".strip()
            for token in tokens
            if token.position == position
            for rest in onwards(position + token.span)
        }

    return onwards(0)


_FEW = st.sampled_from(["a", "b", "c", "d"])
_PHRASE = st.lists(_FEW, min_size=1, max_size=3).map(" ".join)


@given(
    rules=st.lists(st.builds(SynonymRule, st.tuples(_PHRASE), st.tuples(_PHRASE), st.booleans()), max_size=3),
    text=st.lists(_FEW, min_size=1, max_size=6).map(" ".join),
)
def test_synonyms_add_whole_ways_of_reading_and_never_a_mixture(rules: list[SynonymRule], text: str):
    synonyms = Synonyms(tuple(rules))
    read = paths(chain_of("words > synonyms(@some)", {"some": synonyms}).run(text))
    assert text in read
    # By the plain way: at each place the longest entry, read as itself or as any of its meanings.
    words, expected = text.split(), {""}
    while words:
        entry = next(
            (tuple(words[:n]) for n in range(len(words), 0, -1) if tuple(words[:n]) in synonyms.meanings), None
        )
        ways = [entry, *synonyms.meanings[entry]] if entry else [tuple(words[:1])]
        expected = {f"{before} {' '.join(way)}".strip() for before in expected for way in ways}
        words = words[len(entry or words[:1]) :]
    assert read == expected


@given(
    rules=st.lists(st.builds(SynonymRule, st.tuples(_PHRASE), st.tuples(_PHRASE), st.booleans()), max_size=3),
    text=st.lists(st.sampled_from(["a", "b", "ab", "cd"]), min_size=1, max_size=5).map(" ".join),
    keep=st.booleans(),
)
def test_parts_of_words_that_stand_beside_each_other_are_never_a_mixture_after_synonyms(
    rules: list[SynonymRule], text: str, keep: bool
):
    def renamed(words: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(word.replace("d", "cd") for word in words)

    both = tuple(SynonymRule(renamed(rule.words), renamed(rule.means), rule.both_ways) for rule in rules)
    lists = {"some": Synonyms(both)}
    apart = {"ab": "a b", "cd": "c d"}
    before = paths(chain_of("words > synonyms(@some)", lists).run(text))
    tokens = chain_of("words > synonyms(@some)", lists).run(text)
    made = taken_apart(tokens, lambda token: [(0, 1), (1, 2)] if token.text in apart else [], keep=keep)
    expected: set[str] = set()
    for path in before:
        ways = [""]
        for word in path.split():
            own = [*([word] if keep or word not in apart else []), *([apart[word]] if word in apart else [])]
            ways = [f"{way} {one}".strip() for way in ways for one in own]
        expected.update(ways)
    assert paths([token for token, _ in made]) == expected


def test_parts_stand_on_their_own_letters_and_keep_a_phrase_right():
    tokens = chain_of("words > parts(whole=yes)").run("an SKR2070b here")
    assert [(token.text, token.start, token.end, token.position, token.span) for token in tokens] == [
        ("an", 0, 2, 0, 1),
        ("SKR2070b", 3, 11, 1, 3),
        ("SKR", 3, 6, 1, 1),
        ("2070", 6, 10, 2, 1),
        ("b", 10, 11, 3, 1),
        ("here", 12, 16, 4, 1),
    ]


def test_grams_of_the_whole_text_stand_where_they_begin():
    assert [(token.text, token.position) for token in chain_of("grams(1, 2)").run("fog")] == [
        ("f", 0),
        ("fo", 0),
        ("o", 1),
        ("og", 1),
        ("g", 2),
    ]


@pytest.mark.parametrize(
    ("word", "expected"),
    [("Washington", "W252"), ("Lee", "L000"), ("Gutierrez", "G362"), ("Pfister", "P236"), ("Jackson", "J250"),
     ("Tymczak", "T522"), ("VanDeusen", "V532"), ("Ashcraft", "A261"), ("Łódka", "L320"), ("", ""), ("1907", "")],
)  # fmt: skip
def test_soundex_codes_as_the_archives_give_them(word: str, expected: str):
    assert soundex.code(word) == expected


@pytest.mark.parametrize(
    ("word", "expected"),
    [("Müller-Lüdenscheidt", "65752682"), ("Wikipedia", "3412"), ("Breschnew", "17863"), ("Xaver", "4837"),
     ("Phonetik", "3624"), ("Schmidt", "862"), ("Aax", "048"), ("", "")],
)  # fmt: skip
def test_cologne_codes(word: str, expected: str):
    assert cologne.code(word) == expected


@pytest.mark.parametrize(
    ("word", "expected"),
    [("Knight", "NT"), ("Night", "NT"), ("Thatch", "0X"), ("Schooner", "SKNR"), ("Lamb", "LM"), ("Physics", "FSKS"),
     ("Wreck", "RK"), ("Xebec", "SBK"), ("Bridge", "BRJ"), ("Nation", "NXN"), ("Shore", "XR"), ("Whale", "WL"),
     ("Ghost", "KST"), ("Sign", "SN"), ("Yawl", "YL"), ("Aft", "AFT"), ("", "")],
)  # fmt: skip
def test_metaphone_codes(word: str, expected: str):
    assert metaphone.code(word) == expected


@pytest.mark.parametrize(
    ("word", "expected"),
    [("ferries", "ferry"), ("eies", "eie"), ("boxes", "boxe"), ("toes", "toe"), ("quays", "quay"), ("gas", "ga"),
     ("compass", "compass"), ("opus", "opus"), ("fog", "fog")],
)  # fmt: skip
def test_the_light_stemmer_takes_plurals_only(word: str, expected: str):
    assert english_light.stem(word) == expected


def test_a_runaway_pattern_is_stopped_and_told():
    with pytest.raises(SlowPattern) as caught:
        chain_of("find(/(a|a)*$/)").run("a" * 60 + "b")
    assert str(caught.value) == (
        "line 1, column 6: the pattern /(a|a)*$/ took longer than 1 s on one text and was stopped (it begins: "
        f"'{'a' * 40}…'). Repetitions inside repetitions are the usual reason."
    )


def test_a_pattern_that_calls_itself_too_deep_is_stopped_and_told(monkeypatch: pytest.MonkeyPatch):
    # On a slow machine its time would be over first.
    monkeypatch.setattr(patterns, "SECONDS_ALLOWED", 60.0)
    with pytest.raises(GreedyPattern) as caught:
        chain_of(r"find(/a(?R)?b|(?R)c/)").run("a" * 200_000)
    assert str(caught.value).startswith("line 1, column 6: the pattern /a(?R)?b|(?R)c/ calls itself too deep")


def test_a_pattern_has_so_long_for_all_texts_together():
    times = iter(accumulate([0.0, 2.0, 0.0, 3.0015, 0.0, 0.001, 0.0, 0.0016]))
    pattern = safe_pattern("fog", place_of("find(/fog/)", 5, 10))
    with patterns_within_bounds(lambda: next(times)):
        # 2 s, and 5.0015 s after two texts: five seconds and one thousandth of a second for each are allowed.
        assert len(pattern.matches("fog fog")) == 2
        assert pattern.matches("fog")
        assert pattern.is_in("fog")
        with pytest.raises(TiringPattern) as caught:
            pattern.matches("fog")
    said = "line 1, column 6: the pattern /fog/ took 5 s on 4 texts together and was stopped: that is 1,251 ms each"
    assert str(caught.value).startswith(said)


def test_each_piece_of_work_has_time_of_its_own(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(patterns, "SECONDS_IN_ALL", -1.0)
    pattern = safe_pattern("fog", place_of("", 0, 0))
    assert pattern.matches("fog")
    with patterns_within_bounds(lambda: 0.0), pytest.raises(TiringPattern):
        pattern.matches("fog")
    assert pattern.matches("fog")


def test_a_chain_that_makes_too_much_of_one_text_is_stopped_and_told():
    with pytest.raises(TooManyTokens) as caught:
        chain_of("whole > grams(1, 40)").run("a" * 20_000)
    assert str(caught.value) == (
        'line 1, column 9: "grams" makes more than 500,000 tokens of one text and was stopped. Cut the text first, '
        "ask for fewer lengths, or leave out one of the stages that multiply."
    )
    with pytest.raises(TooManyTokens):
        chain_of("whole > grams(1, 40)").read(["a" * 20_000])
    for way in ("run", "read"):
        with pytest.raises(TooManyTokens, match='"grams" makes more than 500,000 tokens of one text'):
            getattr(chain_of("grams(1, 40)"), way)("a" * 20_000 if way == "run" else ["a" * 20_000])


@pytest.mark.parametrize("piece", ["<!--", "<![CDATA[", "<?", "<a href='", '<a "', "<script>", "&#", "<", "<b x=<"])
def test_markup_that_never_ends_takes_no_longer_than_other_text(piece: str):
    # Looked for its end anew at each beginning, this would take hours: it would not come back.
    tokens = chain_of("markup > words").run(piece * 60_000)
    assert len(tokens) <= 200_000


def test_a_path_has_so_many_levels_and_no_more():
    tokens = chain_of('hierarchy("/")').run("a/" * 100_000)
    assert len(tokens) == 64
    assert tokens[-1].text == "/".join("a" * 64)
