"""Pictures of pages are opened by what they are, within limits, and made what browsers show."""

import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image

from pale_harbor.errors import BadInput
from pale_harbor.formats.pages import pictures
from pale_harbor.formats.pages.pictures import page_picture
from tests.pages import picture


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "GIF"])
def test_what_browsers_show_is_kept_as_it_is(kind: str):
    content = picture(kind=kind)
    found = page_picture(content)
    assert (found.media_type, found.content, found.width, found.height) == (f"image/{kind.lower()}", content, 400, 600)
    with Image.open(io.BytesIO(found.small)) as small:
        assert (small.format, small.size) == ("JPEG", (171, 256))


def made(mode: str, kind: str = "TIFF", **more: object) -> bytes:
    file = io.BytesIO()
    Image.new(mode, (40, 60)).save(file, kind, **more)
    return file.getvalue()


@pytest.mark.parametrize(
    ("mode", "becomes"), [("1", "image/png"), ("L", "image/jpeg"), ("RGB", "image/jpeg"), ("I;16", "image/jpeg")]
)
def test_a_tiff_is_made_what_browsers_show(mode: str, becomes: str):
    found = page_picture(made(mode))
    assert (found.media_type, found.width, found.height) == (becomes, 40, 60)
    with Image.open(io.BytesIO(found.content)) as shown:
        assert shown.size == (40, 60)


@pytest.mark.parametrize("kind", ["TIFF", "PNG"])
def test_sixteen_bits_a_dot_keep_their_greys(kind: str):
    file = io.BytesIO()
    Image.fromarray(np.full((60, 40), 0x8000, np.uint16)).save(file, kind)
    found = page_picture(file.getvalue())
    for content in (found.small, *((found.content,) if kind == "TIFF" else ())):
        with Image.open(io.BytesIO(content)) as shown:
            assert abs(int(np.asarray(shown.convert("L")).mean()) - 0x80) <= 2


def test_of_several_pages_in_one_tiff_the_first_is_taken():
    file = io.BytesIO()
    Image.new("RGB", (40, 60), "white").save(file, "TIFF", save_all=True, append_images=[Image.new("RGB", (9, 9))])
    assert page_picture(file.getvalue()).width == 40


@pytest.mark.parametrize("content", [b"", b"no picture", b"<svg xmlns='http://www.w3.org/2000/svg'/>", b"%PDF-1.7"])
def test_what_is_no_picture_is_told(content: bytes):
    with pytest.raises(BadInput, match="it is no picture that can be opened"):
        page_picture(content)


def test_a_damaged_picture_is_told():
    with pytest.raises(BadInput, match="it is damaged"):
        page_picture(picture(kind="PNG")[:200])


def claiming(width: int, height: int) -> bytes:
    """A PNG of a few bytes that says it is so large."""

    def chunk(name: bytes, content: bytes) -> bytes:
        return struct.pack(">I", len(content)) + name + content + struct.pack(">I", zlib.crc32(name + content))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"")) + chunk(b"IEND", b"")


@pytest.mark.parametrize(("width", "height"), [(8_001, 8_000), (30_000, 30_000), (60_000, 60_000)])
def test_a_picture_of_too_many_dots_is_not_opened(width: int, height: int):
    with pytest.raises(BadInput, match=r"dots; 64,000,000 are opened at most|no picture that can be opened"):
        page_picture(claiming(width, height))


def test_as_many_dots_as_are_allowed_are_opened(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(pictures, "MOST_DOTS", 2_400)
    assert page_picture(made("RGB", "PNG")).width == 40
    monkeypatch.setattr(pictures, "MOST_DOTS", 2_399)
    with pytest.raises(BadInput, match="it has 40 × 60 dots; 2,399 are opened at most"):
        page_picture(made("RGB", "PNG"))


def test_as_many_bytes_as_are_allowed_are_opened(monkeypatch: pytest.MonkeyPatch):
    content = made("RGB", "PNG")
    monkeypatch.setattr(pictures, "LARGEST_PICTURE", len(content))
    assert page_picture(content).width == 40
    monkeypatch.setattr(pictures, "LARGEST_PICTURE", len(content) - 1)
    with pytest.raises(BadInput, match="larger than"):
        page_picture(content)
