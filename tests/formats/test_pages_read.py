"""Pages that a machine read: ALTO and hOCR, good, odd and hostile."""

import pytest

from pale_harbor.core.pages import Box, composed
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.alto import alto_pages, looks_like_alto
from pale_harbor.formats.pages.hocr import hocr_pages, looks_like_hocr
from pale_harbor.formats.pages.page_read import PageRead

NS = "http://www.loc.gov/standards/alto/ns-v4#"


def alto(layout: str, ns: str = NS, page: str = 'WIDTH="1000" HEIGHT="1500"', before: str = "") -> bytes:
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>{before}<alto xmlns="{ns}"><Description><sourceImageInformation>'
        "<fileName> log-3.png </fileName></sourceImageInformation></Description>"
        f'<Layout><Page ID="p3" {page}><PrintSpace>{layout}</PrintSpace></Page></Layout></alto>'
    ).encode()


def string(content: str, box: str = 'HPOS="100" VPOS="200" WIDTH="80" HEIGHT="30"', more: str = "") -> str:
    return f'<String CONTENT="{content}" {box} {more}/>'


def line(*strings: str) -> str:
    return f"<TextLine>{'<SP/>'.join(strings)}</TextLine>"


def block(*lines: str, more: str = "") -> str:
    return f"<TextBlock {more}>{''.join(lines)}</TextBlock>"


def the_page(content: bytes) -> PageRead:
    (page,) = alto_pages(content)
    return page


def text_of(page: PageRead) -> str:
    return composed(page.words).text


@pytest.mark.parametrize("version", [2, 3, 4])
def test_alto_of_each_version(version: int):
    ns = f"http://www.loc.gov/standards/alto/ns-v{version}#"
    page = the_page(alto(block(line(string("Wind", more='WC="0.93"'), string("fresh"))), ns))
    assert (page.name, page.width, page.height, page.picture) == ("p3", 1000, 1500, "log-3.png")
    assert text_of(page) == "Wind fresh"
    assert page.words[0].box == Box(100, 200, 80, 30)
    assert [one.confidence for one in page.words] == [0.93, None]
    assert page.faults == ()


@pytest.mark.parametrize(
    "ns", ["http://www.loc.gov/standards/alto/ns-v1#", "http://www.loc.gov/standards/alto/ns-v5#", "urn:other"]
)
def test_another_namespace_is_told(ns: str):
    with pytest.raises(BadInput, match="it is no ALTO of version 2, 3 or 4"):
        alto_pages(alto("", ns))


def test_a_parted_word_is_one():
    layout = block(
        line(string("the"), string("light", more='SUBS_TYPE="HypPart1" SUBS_CONTENT="lighthouse"')).replace(
            "</TextLine>", '<HYP CONTENT="-"/></TextLine>'
        ),
        line(string("house", more='SUBS_TYPE="HypPart2" SUBS_CONTENT="lighthouse"'), string("keeper")),
    )
    assert text_of(the_page(alto(layout))) == "the lighthouse\nkeeper"


def test_an_abbreviation_is_no_part():
    page = the_page(alto(block(line(string("Capt.", more='SUBS_TYPE="Abbreviation" SUBS_CONTENT="Captain"')))))
    assert text_of(page) == "Capt."


def test_blocks_come_as_they_stand_or_as_they_lead_to_one_another():
    left, right = (block(line(string(name)), more=f'ID="{name}"') for name in ("left", "right"))
    assert text_of(the_page(alto(right + left))) == "right\n\nleft"
    led = right + left.replace('ID="left"', 'ID="left" IDNEXT="right"')
    assert text_of(the_page(alto(led))) == "left\n\nright"
    # In a circle, to nowhere, to itself: as they stand.
    circle = right.replace('ID="right"', 'ID="right" IDNEXT="left"') + left.replace(
        'ID="left"', 'ID="left" IDNEXT="right"'
    )
    assert text_of(the_page(alto(circle))) == "right\n\nleft"
    nowhere = right.replace('ID="right"', 'ID="right" IDNEXT="gone"') + left
    assert text_of(the_page(alto(nowhere))) == "right\n\nleft"
    alone = right + left.replace('ID="left"', 'ID="left" IDNEXT="left"')
    assert text_of(the_page(alto(alone))) == "right\n\nleft"


def test_blocks_within_blocks_and_in_margins_are_read():
    layout = f"<ComposedBlock>{block(line(string('inner')))}</ComposedBlock>"
    content = alto(layout).replace(
        b"<PrintSpace>", f"<TopMargin>{block(line(string('head')))}</TopMargin><PrintSpace>".encode()
    )
    assert text_of(the_page(content)) == "head\n\ninner"


def test_what_is_wrong_is_told_by_line_and_the_rest_is_read():
    layout = block(
        line(string("good"), string(" ")),
        line(
            string("none", box=""),
            string("flat", box='HPOS="1" VPOS="1" WIDTH="5" HEIGHT="0"'),
            string("out", box='HPOS="990" VPOS="1" WIDTH="11" HEIGHT="5"'),
            string("edge", box='HPOS="990" VPOS="1" WIDTH="10" HEIGHT="5"'),
            string("odd", box='HPOS="nan" VPOS="1" WIDTH="10" HEIGHT="5"', more='WC="7"'),
        ),
    )
    page = the_page(alto(layout))
    assert page.faults == (
        (1, "a word has no letters"),
        (2, 'the box of "none" is missing'),
        (2, 'the box of "flat" is empty'),
        (2, 'the box of "out" lies outside the page'),
        (2, 'the box of "odd" is missing'),
    )
    assert text_of(page) == "good\nnone flat out edge odd"
    assert [one.box is None for one in page.words] == [False, True, True, False, False, True]
    assert page.words[-1].confidence is None
    assert the_page(alto("", page="")).faults == ((0, "the page does not say how large it is"),)


def test_confidence_is_a_share():
    strings = [string("a", more=f'WC="{said}"') for said in ("0", "1", "1.01", "-0.1", "high")]
    page = the_page(alto(block(line(*strings))))
    assert [one.confidence for one in page.words] == [0, 1, None, None, None]


def test_the_language_is_what_most_words_are_of():
    layout = block(line(string("a"), string("b", more='LANG="nb"')), more='LANG="en"') + block(
        line(string("c")), more='language="en"'
    )
    assert the_page(alto(layout)).language == "en"
    assert the_page(alto(block(line(string("a"))))).language is None


HOSTILE = '<!DOCTYPE alto [<!ENTITY a "eel"><!ENTITY b "&a;&a;&a;&a;"><!ENTITY f SYSTEM "file:///etc/hostname">]>'


@pytest.mark.parametrize("said", ["&a;", "&b;", "&f;"])
def test_entities_are_refused(said: str):
    with pytest.raises(BadInput, match="document type or entities"):
        alto_pages(alto(block(line(string(said))), before=HOSTILE))


@pytest.mark.parametrize(
    "content", [b"", b"<alto", b"\xff\xfe\x00", b"plain", b"<?xml version='1.0' encoding='no-such'?><a/>"]
)
def test_what_is_no_xml_is_told(content: bytes):
    with pytest.raises(BadInput, match="it is no XML"):
        alto_pages(content)


def test_many_elements_in_one_another_are_read():
    deep = "<ComposedBlock>" * 5_000 + block(line(string("deep"))) + "</ComposedBlock>" * 5_000
    assert text_of(the_page(alto(deep))) == "deep"


def test_files_are_told_by_how_they_begin():
    assert looks_like_alto(alto(""))
    assert looks_like_alto("<a:alto xmlns:a='urn:x'>".encode("utf-16"))
    assert not looks_like_alto(b"<altogether>")
    assert looks_like_hocr(hocr(""))
    assert not looks_like_hocr(b"<p class='ocr_pages'>")


def hocr(body: str, title: str = 'image "log 3.png"; bbox 0 0 1000 1500; ppageno 0') -> bytes:
    return (
        '<!DOCTYPE html PUBLIC "-//W3C//DTD XHTML 1.0 Transitional//EN" '
        '"http://www.w3.org/TR/xhtml1/DTD/xhtml1-transitional.dtd">'
        "<html><head><meta charset='utf-8'/><title></title></head><body>"
        f"<div class='ocr_page' id='page_1' title='{title}'>"
        f"{body}</div></body></html>"
    ).encode()


def span(letters: str, title: str = "bbox 100 200 180 230; x_wconf 93") -> str:
    return f"<span class='ocrx_word' title='{title}'>{letters}</span>"


def par(*lines: str, more: str = "") -> str:
    return f"<p class='ocr_par' {more}>" + "".join(f"<span class='ocr_line'>{one}</span>" for one in lines) + "</p>"


def test_hocr_is_read():
    (page,) = hocr_pages(
        hocr(par(span("Wind") + " " + span("<strong>fre</strong>sh &amp; cold")) + par(span("Noon"), more="lang='eng'"))
    )
    assert (page.name, page.width, page.height, page.picture) == ("page_1", 1000, 1500, "log 3.png")
    assert text_of(page) == "Wind fresh & cold\n\nNoon"
    assert page.words[0].box == Box(100, 200, 80, 30)
    assert page.words[0].confidence == 0.93
    assert page.language == "eng"
    assert page.faults == ()


def test_hyphens_of_hocr_part_words():
    (page,) = hocr_pages(hocr(par(span("light-"), span("house"))))
    assert text_of(page) == "lighthouse"


def test_several_pages_of_hocr_each_begin_anew():
    one = hocr(par(span("Wind"), span(""))).decode()
    both = one.replace(
        "</body>",
        "<div class='ocr_page' id='page_2' title='bbox 0 0 10 10'>"
        + par(span("x", "bbox 0 0 10 11"))
        + "</div></body>",
    )
    first, second = hocr_pages(both.encode())
    assert first.faults == ((2, "a word has no letters"),)
    assert second.faults == ((1, 'the box of "x" lies outside the page'),)
    assert (second.name, second.picture, second.words[0].line) == ("page_2", None, 0)


def test_a_page_that_is_part_of_a_picture_counts_from_its_own_corner():
    (page,) = hocr_pages(hocr(par(span("Wind")), "bbox 50 100 1050 1600"))
    assert (page.width, page.height, page.words[0].box) == (1000, 1500, Box(50, 100, 80, 30))


@pytest.mark.parametrize(("said", "read"), [("0", 0), ("100", 1), ("101", None), ("-1", None), ("x", None)])
def test_confidence_of_hocr_is_in_hundredths(said: str, read: float | None):
    (page,) = hocr_pages(hocr(par(span("Wind", f"bbox 0 0 1 1; x_wconf {said}"))))
    assert page.words[0].confidence == read


def test_elements_that_are_left_open_end_with_those_around_them():
    body = (
        "<p class='ocr_par'><span class='ocr_line'><span class='ocrx_word' title='bbox 0 0 1 1'>Wind<br>s</p>"
        "<p class='ocr_par'>" + span("Noon")
    )
    (page,) = hocr_pages(hocr(body))
    assert text_of(page) == "Winds\n\nNoon"


def test_boxes_that_are_none_are_told():
    (page,) = hocr_pages(hocr(par(span("a", "x_wconf 3") + span("b", "bbox 1 2 3") + span("c", "bbox 5 5 4 9"))))
    assert [one[1] for one in page.faults] == [
        'the box of "a" is missing',
        'the box of "b" is missing',
        'the box of "c" is empty',
    ]


def test_hostile_html_is_read_as_what_it_is_or_refused():
    with pytest.raises(BadInput, match="more than 200 deep"):
        hocr_pages(hocr("<b>" * 300))
    with pytest.raises(BadInput, match="no UTF-8 text"):
        hocr_pages(b"\xff\xfe")
    with pytest.raises(BadInput, match="it has no page"):
        hocr_pages(b"<p>Wind</p>")
    (page,) = hocr_pages(hocr("</div></p></html>" + span("after") + "<script>x</script>"))
    assert "script" not in text_of(page)


def in_order(order: str, *blocks: str) -> str:
    """The text of a page whose file says what is read after what (ALTO 4.3)."""
    content = alto("".join(blocks)).decode()
    return text_of(the_page(content.replace("<Layout>", f"<ReadingOrder>{order}</ReadingOrder><Layout>").encode()))


FIRST = block(line(string("one")), more='ID="b1"')
SECOND = block('<TextLine ID="l1"><String CONTENT="two"/></TextLine>', line(string("three")), more='ID="b2"')
THIRD = block(line(string("four")), more='ID="b3"')


def test_a_reading_order_goes_before_all_others():
    group = '<OrderedGroup ID="g"><ElementRef ID="r1" REF="b3"/><ElementRef ID="r2" REF="b1"/></OrderedGroup>'
    # What nobody names comes last.
    assert in_order(group, FIRST, SECOND, THIRD) == "four\n\none\n\ntwo\nthree"
    nested = (
        '<OrderedGroup><ElementRef REF="b2"/><UnorderedGroup><ElementRef REF="b3"/></UnorderedGroup>'
        '<ElementRef REF="b1"/></OrderedGroup>'
    )
    assert in_order(nested, FIRST, SECOND, THIRD) == "two\nthree\n\nfour\n\none"
    assert in_order("", FIRST, SECOND) == "one\n\ntwo\nthree"


def test_a_reading_order_names_what_blocks_are_in_or_their_lines():
    composed_block = f'<ComposedBlock ID="c1">{FIRST}</ComposedBlock>'
    by_what_is_around = '<OrderedGroup><ElementRef REF="b2"/><ElementRef REF="c1"/></OrderedGroup>'
    assert in_order(by_what_is_around, composed_block, SECOND) == "two\nthree\n\none"
    by_line = '<OrderedGroup><ElementRef REF="l1"/><ElementRef REF="b1"/></OrderedGroup>'
    assert in_order(by_line, FIRST, SECOND) == "two\nthree\n\none"
    lines = block(
        '<TextLine ID="x"><String CONTENT="second"/></TextLine>',
        '<TextLine ID="y"><String CONTENT="first"/></TextLine>',
    )
    both = '<OrderedGroup><ElementRef REF="y"/><ElementRef REF="x"/></OrderedGroup>'
    assert in_order(both, lines) == "first\nsecond"
