"""PDF files of scanned pages: the text behind the picture with its boxes, and the picture."""

import io

import pytest
from fpdf import FPDF
from fpdf.enums import TextMode
from PIL import Image

from pale_harbor.core.pages import composed
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.page_read import PageRead
from pale_harbor.formats.pages.pdf import is_scan, pdf_pages, pdf_pictures

WIDTH, HEIGHT = 300, 400


def scanned(
    *pages: list[tuple[str, int, int]], with_picture: bool = True, rotated: int = 0, covered: int = HEIGHT
) -> bytes:
    """A PDF of pictures with text behind them: lines with where they begin, in points."""
    made = FPDF(unit="pt", format=(WIDTH, HEIGHT))
    made.set_auto_page_break(False)
    made.set_font("Helvetica", size=20)
    for lines in pages:
        made.add_page()
        if with_picture:
            picture = io.BytesIO()
            Image.new("RGB", (600, 800), "white").save(picture, "JPEG")
            made.image(picture, x=0, y=0, w=WIDTH, h=covered)
        made.text_mode = TextMode.INVISIBLE
        for text, x, y in lines:
            made.text(x, y, text)
    content = bytes(made.output())
    if rotated:
        return content.replace(b"/Type /Page\n", b"/Type /Page\n/Rotate %d\n" % rotated)
    return content


def read(content: bytes) -> list[PageRead]:
    return list(pdf_pages(content))


def test_words_are_read_with_their_boxes_as_the_page_is_seen():
    (page,) = read(scanned([("Fog bell", 30, 60), ("rung all night", 30, 90)]))
    assert composed(page.words).text == "Fog bell\nrung all night"
    # In tenths of a point.
    assert (page.width, page.height, page.picture) == (3_000, 4_000, "#page=1")
    fog, bell, rung = page.words[:3]
    assert fog.box is not None
    assert bell.box is not None
    assert rung.box is not None
    assert 295 <= fog.box.x <= 330
    assert 430 <= fog.box.y <= 480
    assert fog.box.x + fog.box.width < bell.box.x
    assert rung.box.y > fog.box.y + fog.box.height
    assert all(word.box is not None and word.box.lies_within(3_000, 4_000) for word in page.words)


def test_a_page_that_is_turned_is_read_as_it_is_seen():
    (page,) = read(scanned([("Fog bell", 30, 60)], rotated=90))
    assert (page.width, page.height) == (4_000, 3_000)
    fog, bell = page.words
    assert fog.box is not None
    assert bell.box is not None
    # The words run downwards, near the right edge.
    assert fog.box.height > fog.box.width
    assert fog.box.x > 3_000
    assert bell.box.y > fog.box.y + fog.box.height


def test_a_word_that_is_parted_is_one():
    (page,) = read(scanned([("the light-", 30, 60), ("house", 30, 90)]))
    assert composed(page.words).text == "the lighthouse"


def test_lines_that_stand_far_apart_are_of_different_blocks():
    (page,) = read(scanned([("one", 30, 60), ("two", 30, 85), ("three", 30, 200), ("four", 160, 60)]))
    assert composed(page.words).text == "one\ntwo\n\nthree\n\nfour"


def test_each_page_has_its_picture_as_fine_as_it_was_scanned():
    content = scanned([("one", 30, 60)], [("two", 30, 60)])
    pictures = dict(pdf_pictures(content, [2, 1, 7]))
    assert sorted(pictures) == [1, 2]
    image = Image.open(io.BytesIO(pictures[1]))
    assert (image.format, image.size) == ("JPEG", (600, 800))
    assert [page.picture for page in read(content)] == ["#page=1", "#page=2"]


def test_a_text_without_a_picture_is_no_scan():
    assert is_scan(scanned([("Fog", 30, 60)]))
    assert not is_scan(scanned([("Fog", 30, 60)], with_picture=False))
    assert not is_scan(scanned([]))
    # Half of the page has to be picture.
    assert is_scan(scanned([("Fog", 30, 60)], covered=200))
    assert not is_scan(scanned([("Fog", 30, 60)], covered=199))
    assert not is_scan(b"%PDF-1.7 damaged")
    assert [page.picture for page in read(scanned([("Fog", 30, 60)], with_picture=False))] == [None]


@pytest.mark.parametrize("content", [b"", b"no PDF", b"%PDF-1.7\n%%EOF"])
def test_what_cannot_be_read_is_told(content: bytes):
    with pytest.raises(BadInput, match="cannot be read as PDF"):
        read(content)


def test_a_protected_file_is_told():
    made = FPDF()
    made.set_encryption(owner_password="owner", user_password="user")
    made.add_page()
    with pytest.raises(BadInput, match="protected by a password"):
        read(bytes(made.output()))


def test_a_file_has_twenty_thousand_pages_at_most(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.formats.pages.pdf.MOST_PAGES", 1)
    assert len(read(scanned([("one", 30, 60)]))) == 1
    with pytest.raises(BadInput, match="it has 2 pages; 1 are read at most"):
        read(scanned([("one", 30, 60)], [("two", 30, 60)]))
