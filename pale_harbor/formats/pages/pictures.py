"""Pictures of pages: opened by what they are, with limits, and made what browsers show."""

import io
from dataclasses import dataclass
from typing import Final

import numpy as np
from PIL import Image, ImageSequence, UnidentifiedImageError

from pale_harbor.errors import BadInput

# A page of A2 at 400 dots an inch; opening one takes four bytes of each of its dots.
MOST_DOTS: Final = 64_000_000
LARGEST_PICTURE: Final = 100_000_000
# The longer side of what stands beside a row of a list, in dots.
_SMALL: Final = 256
_TYPES: Final = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp", "GIF": "image/gif"}
_READ: Final = (*_TYPES, "TIFF")
# By so much the sides of a picture and of its page may be out of proportion: sizes are rounded.
_OUT_OF_PROPORTION: Final = 0.02


@dataclass(frozen=True, slots=True)
class PagePicture:
    """A picture of a page as browsers show it. width, height: in dots; small: the same as a JPEG for lists."""

    media_type: str
    content: bytes
    width: int
    height: int
    small: bytes

    def fits(self, width: float, height: float) -> bool:
        """Whether it can be of a page of that size, in whatever units; so where no size is known.

        >>> picture = PagePicture("image/png", b"", 1000, 1500, b"")
        >>> picture.fits(2000, 3000), picture.fits(2000, 3059), picture.fits(2000, 3061), picture.fits(0, 0)
        (True, True, False, True)
        """
        if not (width > 0 and height > 0):
            return True
        return abs((height / width) / (self.height / self.width) - 1) <= _OUT_OF_PROPORTION


def page_picture(content: bytes) -> PagePicture:
    """A picture, opened. TIFF becomes PNG where it is black and white, JPEG otherwise; of several the first is taken.

    Raises BadInput where it is none, is damaged, or is too large.
    """
    if len(content) > LARGEST_PICTURE:
        raise BadInput(f"it is larger than {LARGEST_PICTURE:,} bytes.")
    try:
        with Image.open(io.BytesIO(content), formats=_READ) as image:
            width, height = image.size
            if width * height > MOST_DOTS:
                raise BadInput(f"it has {width:,} × {height:,} dots; {MOST_DOTS:,} are opened at most.")
            kind = image.format or ""
            shown = _shown(image) if kind == "TIFF" else (_TYPES[kind], content)
            return PagePicture(*shown, width, height, _small(image))
    except (UnidentifiedImageError, Image.DecompressionBombError) as error:
        raise BadInput("it is no picture that can be opened: JPEG, PNG, TIFF, WebP and GIF are.") from error
    except (OSError, ValueError, SyntaxError, EOFError) as error:
        raise BadInput(f"it is damaged: {error}.") from error


def _shown(image: Image.Image) -> tuple[str, bytes]:
    first = _of_eight_bits(next(iter(ImageSequence.Iterator(image))))
    made = io.BytesIO()
    if first.mode == "1":
        first.save(made, "PNG")
        return "image/png", made.getvalue()
    first.convert("L" if first.mode == "L" else "RGB").save(made, "JPEG", quality=88)
    return "image/jpeg", made.getvalue()


def _of_eight_bits(image: Image.Image) -> Image.Image:
    """A picture of sixteen bits a dot with its upper eight; others as they are."""
    if not image.mode.startswith("I"):
        return image
    return Image.fromarray((np.asarray(image).astype(np.uint32) >> 8).astype(np.uint8))


def _small(image: Image.Image) -> bytes:
    # JPEG opens at a fraction of its size where that is enough.
    image.draft("RGB", (_SMALL, _SMALL))
    small = _of_eight_bits(image).convert("RGB")
    small.thumbnail((_SMALL, _SMALL))
    made = io.BytesIO()
    small.save(made, "JPEG", quality=80)
    return made.getvalue()


def picture_size(content: bytes) -> tuple[int, int] | None:
    """Width and height of a picture in dots, by its head alone; None where it cannot be opened as one of dots."""
    try:
        with Image.open(io.BytesIO(content), formats=_READ) as image:
            return image.size
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError):
        return None
