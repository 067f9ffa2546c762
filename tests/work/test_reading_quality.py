"""How well pages were read: the worst first, by page and by thing."""

from dataclasses import replace
from pathlib import Path

import pytest

from pale_harbor.core.pages.confusions import Confusion
from pale_harbor.core.pages.doubts import Doubt
from pale_harbor.errors import NotFound
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.store.chains.word_lists import save_list
from pale_harbor.store.collections.collections import collection_named, fields_of, put_fields
from pale_harbor.store.database import Pool
from pale_harbor.work.imports.importing import import_now
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.records.changes import put_records
from pale_harbor.work.records.reading_quality import as_stage, reading_quality
from tests.loading import load_rows
from tests.pages import alto, line_of

ALL = "wind fog bell keeper lamp light clock noon night oil"


def logs(pool: Pool, folder: Path, pages: dict[str, str]) -> None:
    for name, text in pages.items():
        path = folder / f"{name}.xml"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(alto([line_of(text, 40)], size=(2_000, 600)))
    import_now(pool, "logs", FileSource(Source(folder)), ImportPlan())


def test_the_worst_page_comes_first_with_its_doubtful_words(pool: Pool, tmp_path: Path):
    logs(
        pool,
        tmp_path,
        {"a/1": ALL, "a/2": ALL.replace("fog", "f0g"), "b/1": ALL.replace("fog", "frog").replace("bell", "hell")},
    )
    found = reading_quality(pool, "logs", "thing")
    assert (found.pages, found.looked_at, found.unfit, found.words, found.doubtful) == (3, 3, 0, 30, 3)
    assert [(one.key, one.doubtful, one.unknown) for one in found.worst] == [
        ("b/1.xml", 2, 2),
        ("a/1.xml", 1, 1),
        ("a/2.xml", 0, 0),
    ]
    # Of "fog" one page knows, of "bell" two.
    assert [(one.word, one.doubts) for one in found.worst[0].doubts] == [
        ("frog", (Doubt.UNKNOWN,)),
        ("hell", (Doubt.UNKNOWN,)),
    ]
    assert [one.word for one in found.worst[1].doubts] == ["fog"]
    assert [(one.thing, one.pages, one.doubtful, one.words) for one in found.things] == [
        ("b", 1, 2, 10),
        ("a", 2, 1, 20),
    ]
    assert found.confidence == 0.9


def test_a_word_of_a_list_is_known(pool: Pool, tmp_path: Path):
    logs(pool, tmp_path, {"a/1": ALL, "a/2": ALL.replace("fog", "haar")})
    with pool.connection() as connection:
        collection = collection_named(connection, "logs")
        save_list(connection, collection.id, "sea", "words", ["Haar frost"])
    assert [one.doubtful for one in reading_quality(pool, "logs").worst] == [1, 0]


def test_a_page_of_which_hardly_a_word_is_known_is_told(pool: Pool, tmp_path: Path):
    strange = "qwan zzof bxll kvvper lqmp lxght clqck nqqn nxght qil"
    logs(pool, tmp_path, {"a/1": ALL, "a/2": ALL, "a/3": strange})
    found = reading_quality(pool, "logs")
    assert [(one.key, one.remark != "") for one in found.worst] == [
        ("a/3.xml", True),
        ("a/1.xml", False),
        ("a/2.xml", False),
    ]
    assert "upside down" in found.worst[0].remark


def test_where_every_page_stands_alone_none_is_remarked_on(pool: Pool, tmp_path: Path):
    logs(pool, tmp_path, {"a/1": ALL, "a/2": "qwan zzof bxll kvvper lqmp lxght clqck nqqn nxght qil"})
    assert [one.remark for one in reading_quality(pool, "logs").worst] == ["", ""]


def test_of_nine_words_nobody_can_tell(pool: Pool, tmp_path: Path):
    pages = {"a/1": ALL, "a/2": ALL, "a/3": "qwan zzof bxll kvvper lqmp lxght clqck nqqn nxght"}
    logs(pool, tmp_path, pages)
    assert [one.remark for one in reading_quality(pool, "logs").worst] == ["", "", ""]


@pytest.mark.parametrize(
    ("said", "remark"),
    [
        ("en", ""),
        ("eng", ""),
        ("en-GB", ""),
        ("ger", "reads like en, and is said to be ger"),
        ("de", "reads like en, and is said to be de"),
        ("xyz", ""),
        (None, ""),
    ],
)
def test_a_language_that_a_page_is_not_in_is_told(pool: Pool, tmp_path: Path, said: str | None, remark: str):
    text = "the keeper of the light was at the lamp and it was not in the boat that he had"
    logs(pool, tmp_path, {"a/1": text, "a/2": text})
    values = {"file": "a/1.xml", "text": text, "places": places_of(pool, "a/1.xml")}
    put_records(pool, "logs", [values | ({} if said is None else {"language": said})])
    with pool.connection() as connection:
        collection = collection_named(connection, "logs").id
        fields = [
            replace(one, role="language") if one.name == "language" else one
            for one in fields_of(connection, collection)
        ]
        put_fields(connection, collection, fields)
    (one,) = [one for one in reading_quality(pool, "logs").worst if one.key == "a/1.xml"]
    assert (one.language, one.remark) == ("en", remark)


def places_of(pool: Pool, key: str) -> str:
    with pool.connection() as connection:
        row = connection.execute("select field_values ->> 'places' from records where key = %s", [key]).fetchone()
    assert row is not None
    return str(row[0])


def test_places_of_another_text_are_counted_and_not_read(pool: Pool, tmp_path: Path):
    logs(pool, tmp_path, {"a/1": ALL, "a/2": ALL})
    put_records(pool, "logs", [{"file": "a/3", "text": "Else", "places": places_of(pool, "a/1.xml")}])
    found = reading_quality(pool, "logs")
    assert (found.pages, found.unfit, [one.key for one in found.worst]) == (3, 1, ["a/1.xml", "a/2.xml"])


def test_a_collection_without_pages_is_told(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": "a", "title": "Lamp"}])
    with pytest.raises(NotFound, match="has no pages that a machine read"):
        reading_quality(pool, "coast")


def test_of_more_pages_than_anybody_waits_for_a_sample_is_looked_at(
    pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    logs(pool, tmp_path, {"a/1": ALL, "a/2": ALL, "a/3": ALL})
    for most, looked_at in ((3, 3), (2, 2)):
        monkeypatch.setattr("pale_harbor.work.records.reading_quality.MOST_READ", most)
        found = reading_quality(pool, "logs")
        assert (found.records, found.looked_at, found.pages, len(found.worst)) == (3, looked_at, looked_at, looked_at)


def test_records_that_are_no_pages_are_not_counted_as_pages(pool: Pool, tmp_path: Path):
    logs(pool, tmp_path, {"a/1": ALL, "a/2": ALL})
    put_records(pool, "logs", [{"file": "note", "text": "no page"}])
    found = reading_quality(pool, "logs")
    assert (found.records, found.looked_at, found.pages, found.unfit) == (3, 3, 2, 0)


def strange(count: int) -> str:
    """Ten words, so many of them known to no other page."""
    unknown = "qwan zzof bxll kvvper lqmp lxght clqck nqqn nxght qil".split()
    return " ".join(unknown[:count] + ALL.split()[count:])


@pytest.mark.parametrize(("count", "told"), [(6, False), (7, True)])
def test_seven_of_ten_words_are_hardly_a_text(pool: Pool, tmp_path: Path, count: int, told: bool):
    logs(pool, tmp_path, {"a/1": ALL, "a/2": ALL, "a/3": strange(count)})
    assert (reading_quality(pool, "logs").worst[0].remark != "") is told


@pytest.mark.parametrize(("usual", "told"), [(4, True), (5, False)])
def test_where_it_is_usual_only_twice_as_much_is_remarked_on(pool: Pool, tmp_path: Path, usual: int, told: bool):
    own = ["".join(chr(97 + (7 * page + number) % 26) for number in range(5 + page % 3)) for page in range(60)]
    pages = {f"a/{n}": " ".join([*own[10 * n : 10 * n + usual], *ALL.split()[usual:]]) for n in range(3)}
    # Of three pages the middle one has so many unknown words; the last has nine of ten.
    logs(pool, tmp_path, pages | {"a/9": strange(9)})
    worst = reading_quality(pool, "logs").worst
    assert worst[0].key == "a/9.xml"
    assert [one.unknown for one in worst[1:]] == [usual] * 3
    assert (worst[0].remark != "") is told


def test_letters_that_are_confused_are_told_with_a_stage_that_makes_them_one(pool: Pool, tmp_path: Path):
    pages = {f"a/{n}": "fresh ship noise" for n in range(5)}
    logs(pool, tmp_path, pages | {"b/1": "frefh fhip noife"})
    found = reading_quality(pool, "logs")
    assert [(one.read, one.meant, one.words) for one in found.confusions] == [("f", "s", 3)]
    assert found.stage == 'misread("f=s")'


def test_a_stage_of_confusions_leads_in_no_circle():
    told = [Confusion(read, meant, 3, 0, ()) for read, meant in ("ab", "bc", "ca", "de")]
    assert as_stage(told) == 'misread("a=b b=c d=e")'
