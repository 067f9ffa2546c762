"""Pages that a machine read, made for tests: files of words with boxes, and pictures of them."""

import io
from pathlib import Path
from xml.sax.saxutils import quoteattr

from PIL import Image, ImageDraw

Word = tuple[str, int, int, int, int]
WIDTH, HEIGHT = 400, 600


def alto(lines: list[list[Word]], picture: str | None = None, size: tuple[int, int] = (WIDTH, HEIGHT)) -> bytes:
    """A page in ALTO: lines of words with x, y, width and height; the last letter of a line may part a word."""
    name = f"<fileName>{picture}</fileName>" if picture else ""
    told = "".join(
        "<TextLine>"
        + "".join(
            f'<String CONTENT={quoteattr(word)} HPOS="{x}" VPOS="{y}" WIDTH="{w}" HEIGHT="{h}" WC="0.9"/>'
            for word, x, y, w, h in line
        )
        + "</TextLine>"
        for line in lines
    )
    return (
        '<?xml version="1.0"?><alto xmlns="http://www.loc.gov/standards/alto/ns-v4#"><Description>'
        f"<sourceImageInformation>{name}</sourceImageInformation></Description><Layout>"
        f'<Page WIDTH="{size[0]}" HEIGHT="{size[1]}"><PrintSpace><TextBlock>{told}</TextBlock></PrintSpace></Page>'
        "</Layout></alto>"
    ).encode()


def line_of(text: str, y: int, x: int = 20) -> list[Word]:
    """Words in a line, ten units a letter and ten between words."""
    words: list[Word] = []
    for word in text.split():
        words.append((word, x, y, 10 * len(word), 20))
        x += 10 * len(word) + 10
    return words


def picture(lines: list[list[Word]] | None = None, kind: str = "PNG", size: tuple[int, int] = (WIDTH, HEIGHT)) -> bytes:
    """A picture of a page, its words as bars."""
    image = Image.new("RGB", size, "white")
    draw = ImageDraw.Draw(image)
    for line in lines or []:
        for _, x, y, width, height in line:
            draw.rectangle((x, y, x + width - 1, y + height - 1), fill="black")
    made = io.BytesIO()
    image.save(made, kind)
    return made.getvalue()


LOG = {
    "log/1": [line_of("Wind fresh from the light-", 40), line_of("house till noon", 80)],
    "log/2": [line_of("The keeper wound the clock", 40)],
    "log/10": [line_of("Fog bell rung all night", 40)],
}


def logbook(folder: Path) -> Path:
    """A folder of three pages of a log with their pictures."""
    for name, lines in LOG.items():
        path = folder / f"{name}.xml"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(alto(lines))
        path.with_suffix(".png").write_bytes(picture(lines))
    return folder
