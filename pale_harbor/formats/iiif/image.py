"""Parts of pictures, as large and in such a form as they are asked for (IIIF Image API 3.0,
https://iiif.io/api/image/3.0/): level 1, and some of level 2."""

import io
import re
from dataclasses import dataclass
from typing import Any, Final
from urllib.parse import unquote

from PIL import Image, UnidentifiedImageError

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.pages.pictures import MOST_DOTS

# The longer side of what is sent at once, in dots.
LARGEST_SIDE: Final = 4_096
_TILE: Final = 1_024
# Name, region, size, rotation, and quality with format.
_PARTS: Final = 5
_NUMBER: Final = r"\d{1,7}"
_SHARE: Final = r"\d{1,3}(?:\.\d{1,10})?"
_REGION: Final = re.compile(rf"({_NUMBER}),({_NUMBER}),({_NUMBER}),({_NUMBER})")
_REGION_IN_HUNDREDTHS: Final = re.compile(rf"pct:({_SHARE}),({_SHARE}),({_SHARE}),({_SHARE})")
_SIZE: Final = re.compile(rf"(\^)?(!)?({_NUMBER})?,({_NUMBER})?")
_SIZE_IN_HUNDREDTHS: Final = re.compile(rf"(\^)?pct:({_SHARE})")
_FORMATS: Final = {"jpg": ("JPEG", "image/jpeg"), "png": ("PNG", "image/png"), "webp": ("WEBP", "image/webp")}
_QUALITIES: Final = ("default", "color", "gray", "bitonal")
_TURNS: Final = {"90": Image.Transpose.ROTATE_270, "180": Image.Transpose.ROTATE_180, "270": Image.Transpose.ROTATE_90}
_OPENED: Final = ("JPEG", "PNG", "WEBP", "GIF", "TIFF")


@dataclass(frozen=True, slots=True)
class PartAsked:
    """What of a picture is wanted, as the address says it: region, size, rotation, quality and format."""

    region: str
    size: str
    rotation: str
    quality: str
    kind: str


@dataclass(frozen=True, slots=True)
class PartMade:
    """A part of a picture, and its media type."""

    content: bytes
    media_type: str


def part_asked(path: str) -> tuple[str, PartAsked | None] | None:
    """What an address below `images/` says, as it came, with its escapes: the picture's name, and what of it is wanted,
    None for what is to be known of it (`info.json`). None where it says neither, as the picture's own address does.

    >>> part_asked("log%2F3.jpg/full/200,/0/default.png")
    ('log/3.jpg', PartAsked(region='full', size='200,', rotation='0', quality='default', kind='png'))
    >>> part_asked("log%2F3.jpg/info.json"), part_asked("log%2F3.jpg")
    (('log/3.jpg', None), None)
    """
    parts = path.split("/")
    if parts[-1] == "info.json" and len(parts) > 1:
        return unquote("/".join(parts[:-1])), None
    last = unquote(parts[-1])
    quality, dot, kind = last.rpartition(".")
    # Something on the way may have undone the escapes of a name, which then has parts of its own.
    is_part = len(parts) == _PARTS or (len(parts) > _PARTS and quality in _QUALITIES and bool(dot))
    if not is_part:
        return None
    region, size, rotation = (unquote(one) for one in parts[-_PARTS + 1 : -1])
    return unquote("/".join(parts[: -_PARTS + 1])), PartAsked(region, size, rotation, quality, kind)


def image_information(address: str, width: int, height: int) -> dict[str, Any]:
    """What there is to know of a picture. width, height: in dots."""
    scales = [1]
    while max(width, height) / scales[-1] > _TILE:
        scales.append(2 * scales[-1])
    sizes = [(-(-width // one), -(-height // one)) for one in reversed(scales)]
    return {
        "@context": "http://iiif.io/api/image/3/context.json",
        "id": address,
        "type": "ImageService3",
        "protocol": "http://iiif.io/api/image",
        "profile": "level1",
        "width": width,
        "height": height,
        "maxWidth": LARGEST_SIDE,
        "maxHeight": LARGEST_SIDE,
        "sizes": [{"width": w, "height": h} for w, h in sizes if max(w, h) <= LARGEST_SIDE],
        "tiles": [{"width": _TILE, "height": _TILE, "scaleFactors": scales}],
        "extraFormats": ["png", "webp"],
        "extraQualities": ["color", "gray", "bitonal"],
        "extraFeatures": ["regionByPct", "sizeByConfinedWh", "sizeByPct", "sizeUpscaling", "rotationBy90s"],
    }


def part_of_picture(content: bytes, asked: PartAsked) -> PartMade:
    """The part that is asked for.

    Raises BadInput where the picture has no such part, NotFound for a picture that is not made of dots.
    """
    if asked.quality not in _QUALITIES:
        known = ", ".join(_QUALITIES)
        raise BadInput(f'A picture is sent as {known}; "{asked.quality[:20]}" was asked for.')
    if asked.kind not in _FORMATS:
        raise BadInput(f'A picture is sent as {", ".join(_FORMATS)}; "{asked.kind[:20]}" was asked for.')
    if asked.rotation not in ("0", *_TURNS):
        raise BadInput(f'A picture is turned by 0, 90, 180 or 270 degrees; "{asked.rotation[:20]}" was asked for.')
    try:
        with Image.open(io.BytesIO(content), formats=_OPENED) as image:
            if image.width * image.height > MOST_DOTS:
                raise BadInput(f"This picture has more than {MOST_DOTS:,} dots; it is not opened.")
            box = _box(asked.region, image.width, image.height)
            size = _size(asked.size, box[2] - box[0], box[3] - box[1])
            return _made(image, box, size, asked)
    except (UnidentifiedImageError, Image.DecompressionBombError) as error:
        raise NotFound("This picture is drawn, not made of dots; there are no parts of it to be had.") from error
    except (OSError, SyntaxError, EOFError) as error:
        raise NotFound(f"This picture is damaged: {error}.") from error


def _made(image: Image.Image, box: tuple[int, int, int, int], size: tuple[int, int], asked: PartAsked) -> PartMade:
    # JPEG opens at a fraction of its size where that is enough: never smaller than what is wanted of it.
    whole = image.size
    image.draft(None, (whole[0] * size[0] // (box[2] - box[0]), whole[1] * size[1] // (box[3] - box[1])))
    across, down = image.width / whole[0], image.height / whole[1]
    exact = (box[0] * across, box[1] * down, box[2] * across, box[3] * down)
    part = image.convert("L" if image.mode in ("1", "L") else "RGB").resize(size, Image.Resampling.LANCZOS, box=exact)
    if asked.rotation != "0":
        part = part.transpose(_TURNS[asked.rotation])
    if asked.quality in ("gray", "bitonal"):
        part = part.convert("L" if asked.quality == "gray" else "1")
    kind, media_type = _FORMATS[asked.kind]
    if kind == "JPEG" and part.mode == "1":
        part = part.convert("L")
    made = io.BytesIO()
    part.save(made, kind, **({"quality": 85} if kind != "PNG" else {}))
    return PartMade(made.getvalue(), media_type)


def _box(region: str, width: int, height: int) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of a region, cropped to the picture."""
    if region == "full":
        return 0, 0, width, height
    if region == "square":
        side = min(width, height)
        left, top = (width - side) // 2, (height - side) // 2
        return left, top, left + side, top + side
    if (found := _REGION.fullmatch(region)) is not None:
        x, y, across, down = (int(one) for one in found.groups())
    elif (found := _REGION_IN_HUNDREDTHS.fullmatch(region)) is not None:
        share = [float(one) / 100 for one in found.groups()]
        x, y = round(share[0] * width), round(share[1] * height)
        across, down = round(share[2] * width), round(share[3] * height)
    else:
        raise BadInput(f'"{region[:60]}" is no region: full, square, x,y,w,h or pct:x,y,w,h is.')
    if across == 0 or down == 0 or x >= width or y >= height:
        raise BadInput(f"The region {region[:60]} holds nothing of a picture of {width:,} × {height:,} dots.")
    return x, y, min(width, x + across), min(height, y + down)


def _size(size: str, width: int, height: int) -> tuple[int, int]:
    """How large a region of such a size is to be."""
    upscales = size.startswith("^")
    wanted = _wanted_size(size, width, height)
    if min(wanted) < 1:
        raise BadInput(f'The size "{size[:60]}" leaves nothing of a part of {width:,} × {height:,} dots.')
    if not upscales and (wanted[0] > width or wanted[1] > height):
        raise BadInput(f'"{size[:60]}" is larger than the part that is asked for; with ^ before it is made larger.')
    if max(wanted) > LARGEST_SIDE:
        raise BadInput(f"Of a picture {LARGEST_SIDE:,} × {LARGEST_SIDE:,} dots are sent at most.")
    return wanted


def _wanted_size(size: str, width: int, height: int) -> tuple[int, int]:
    if size in ("max", "^max"):
        scale = LARGEST_SIDE / max(width, height)
        scale = scale if size == "^max" else min(1.0, scale)
        return max(1, int(width * scale)), max(1, int(height * scale))
    if (found := _SIZE_IN_HUNDREDTHS.fullmatch(size)) is not None:
        share = float(found[2]) / 100
        return round(width * share), round(height * share)
    found = _SIZE.fullmatch(size)
    if found is None or (found[3] is None and found[4] is None) or (found[2] and not (found[3] and found[4])):
        raise BadInput(f'"{size[:60]}" is no size: max, w, or ,h or w,h or !w,h or pct:n is, with ^ before to enlarge.')
    across, down = (None if one is None else int(one) for one in (found[3], found[4]))
    if across is None:
        assert down is not None, "one of them is told"
        return max(1, round(width * down / height)) if down else 0, down
    if down is None:
        return across, max(1, round(height * across / width)) if across else 0
    if not found[2]:
        return across, down
    scale = min(across / width, down / height)
    scale = scale if found[1] else min(1.0, scale)
    if not (across and down):
        return 0, 0
    return max(1, round(width * scale)), max(1, round(height * scale))
