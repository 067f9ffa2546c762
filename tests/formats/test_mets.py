"""METS: the order of a thing's pages, good, odd and hostile."""

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.mets import Mets, MetsPage, mets_in

DIVISIONS = """
<div TYPE="volume" ORDER="1">
  <div TYPE="page" ORDER="2" ORDERLABEL="ii"><fptr FILEID="A2"/><fptr FILEID="I2"/></div>
  <div TYPE="page" ORDER="1" LABEL=" i "><fptr FILEID="A1"/><fptr><area FILEID="I1"/></fptr></div>
</div>"""


def mets(
    divisions: str = DIVISIONS, label: str = 'LABEL="Log of 1846"', more: str = "", kind: str = "PHYSICAL"
) -> bytes:
    files = "".join(
        f'<file ID="{name}"><FLocat LOCTYPE="URL" x:href="{href}"/></file>'
        for name, href in {
            "A1": "./alto/1.xml",
            "A2": "file://./alto/2.xml",
            "I1": "img/1.png",
            "I2": "img/page%202.png",
            "far": "https://elsewhere.example/3.xml",
        }.items()
    )
    return (
        f'<mets xmlns="http://www.loc.gov/METS/" xmlns:x="http://www.w3.org/1999/xlink" {label}>{more}'
        f'<fileSec><fileGrp>{files}</fileGrp></fileSec><structMap TYPE="{kind}">{divisions}</structMap></mets>'
    ).encode()


def test_pages_come_in_their_order_with_the_files_that_show_them():
    assert mets_in(mets()) == Mets(
        "Log of 1846",
        (
            MetsPage(("alto/1.xml", "img/1.png"), "i"),
            MetsPage(("alto/2.xml", "img/page 2.png"), "ii"),
        ),
    )


def labels(divisions: str, **more: str) -> list[str | None]:
    return [one.label for one in mets_in(mets(divisions, **more)).pages]


def test_where_not_all_say_their_order_they_come_as_they_stand():
    first, second = ('<div {} LABEL="' + name + '"><fptr FILEID="A1"/></div>' for name in "ab")
    assert labels(first.format('ORDER="2"') + second.format('ORDER="1"')) == ["b", "a"]
    assert labels(first.format('ORDER="2"') + second.format("")) == ["a", "b"]
    assert labels(first.format('ORDER="1"') + second.format('ORDER="1"')) == ["a", "b"]
    assert labels(first.format('ORDER="10"') + second.format('ORDER="9"')) == ["b", "a"]


def test_what_holds_pages_is_none_though_it_points_to_a_file():
    assert labels('<div LABEL="all"><fptr FILEID="I1"/><div LABEL="a"><fptr FILEID="A1"/></div></div>') == ["a"]


def test_the_physical_structure_goes_before_others():
    logical = '<structMap TYPE="LOGICAL"><div LABEL="chapter"><fptr FILEID="A2"/></div></structMap>'
    assert labels('<div LABEL="a"><fptr FILEID="A1"/></div>', more=logical) == ["a"]
    assert labels('<div LABEL="a"><fptr FILEID="A1"/></div>', kind="mixed") == ["a"]


def test_the_title_is_the_files_own_else_that_of_its_description():
    mods = (
        '<dmdSec><m:mods xmlns:m="http://www.loc.gov/mods/v3"><m:titleInfo><m:title> Letters </m:title></m:titleInfo>'
        "</m:mods></dmdSec>"
    )
    dublin = '<dmdSec><d:title xmlns:d="http://purl.org/dc/elements/1.1/">Papers</d:title></dmdSec>'
    assert mets_in(mets(more=mods)).title == "Log of 1846"
    assert mets_in(mets(label="", more=dublin + mods)).title == "Letters"
    assert mets_in(mets(label='LABEL=" "', more=dublin)).title == "Papers"
    assert mets_in(mets(label="")).title is None


@pytest.mark.parametrize(
    ("content", "told"),
    [
        (b"", "it is no XML"),
        (b"<mets/>", "it is no METS"),
        (mets(""), "it names no files of pages"),
        (mets('<div><fptr FILEID="nobody"/></div>'), "it names no files of pages"),
        (mets('<div><fptr FILEID="far"/></div>'), "it names no files of pages"),
        (b'<!DOCTYPE mets [<!ENTITY a "eel">]>' + mets(label='LABEL="&a;"'), "document type or entities"),
    ],
)
def test_what_says_nothing_of_pages_is_told(content: bytes, told: str):
    with pytest.raises(BadInput, match=told):
        mets_in(content)
