"""The addresses of things, pages and pictures, by which viewers know them."""

from dataclasses import dataclass
from urllib.parse import quote


@dataclass(frozen=True, slots=True)
class Addresses:
    """base: where the addresses below begin, without a slash at its end.

    >>> Addresses("https://quay.example/iiif").manifest("logs/1846")
    'https://quay.example/iiif/things/logs%2F1846/manifest'
    """

    base: str

    def collection(self, part: int | None = None) -> str:
        """Of the list of all things, or of a part of it, from 1."""
        return f"{self.base}/collection" if part is None else f"{self.base}/collection/{part}"

    def manifest(self, thing: str) -> str:
        """Of a thing."""
        return f"{self.base}/things/{quote(thing, safe='')}/manifest"

    def canvas(self, key: str) -> str:
        """Of a page, by its record's key."""
        return f"{self.base}/pages/{quote(key, safe='')}"

    def text(self, key: str) -> str:
        """Of the lines that were read on a page."""
        return f"{self.canvas(key)}/text"

    def image(self, picture: str) -> str:
        """Of a picture."""
        return f"{self.base}/images/{quote(picture, safe='')}"

    def search(self, version: int, thing: str | None) -> str:
        """Where a thing is searched, or all of them, by a version of Content Search."""
        return f"{self._of(thing)}/search/{version}"

    def autocomplete(self, version: int, thing: str | None) -> str:
        """The same for words that begin so."""
        return f"{self._of(thing)}/autocomplete/{version}"

    def _of(self, thing: str | None) -> str:
        return self.base if thing is None else f"{self.base}/things/{quote(thing, safe='')}"


def region(canvas: str, x: float, y: float, width: float, height: float) -> str:
    """Of a rectangle on a page, in whole numbers around it (W3C, "Media Fragments URI 1.0", 4.2.2).

    >>> region("https://quay.example/p", 10.2, 20, 30.5, 9)
    'https://quay.example/p#xywh=10,20,31,9'
    """
    left, top = max(0, int(x // 1)), max(0, int(y // 1))
    right, bottom = int(-(-(x + width) // 1)), int(-(-(y + height) // 1))
    return f"{canvas}#xywh={left},{top},{max(1, right - left)},{max(1, bottom - top)}"
