"""Makes the demo's scanned pages: texts are set in old type, printed, aged, turned by a degree, and then really read by a
machine, errors and all.

Needs Debian's tesseract-ocr, fonts-essays1743, fonts-oldstandard and fonts-junicode. Run it from the root:

    .venv/bin/python tools/demo/pages.py
"""

import csv
import json
import random
import re
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from page_queries import QUERIES
from page_texts import THINGS, Thing, text_of
from PIL import Image, ImageDraw, ImageFilter, ImageFont

LOGBOOKS = Path(__file__).parents[2] / "demo" / "logbooks"
PAGES = LOGBOOKS / "pages"
WIDTH, HEIGHT = 1000, 1300
_TYPE = Path("/usr/share/fonts/truetype")
_OPEN = Path("/usr/share/fonts/opentype")
# Type and its size in dots.
STYLES = {
    "oldstandard": (_TYPE / "fonts-oldstandard/OldStandard-Regular.ttf", 27),
    "junicode": (_OPEN / "junicode/JunicodeTwoBeta-Regular.otf", 28),
    "essays": (_TYPE / "essays1743/Essays1743.ttf", 29),
    "italic": (_OPEN / "junicode/JunicodeTwoBeta-Italic.otf", 28),
}
_MARGIN, _LEADING = 130, 1.34
# Of old paper, by red, green and blue.
_TINT = (1.06, 1.0, 0.89)
PAGES_EACH = 10


def with_long_s(text: str) -> str:
    """As printers set it before 1800: the long s everywhere but at the end of a word and before f."""
    return re.sub(r"s(?=[a-eg-zåø])", "ſ", text)


def lines_of(paragraphs: list[str], font: ImageFont.FreeTypeFont, width: int) -> list[str]:
    """Set in lines, long words parted by a hyphen where little fits otherwise; "" between paragraphs."""
    lines: list[str] = []
    for paragraph in paragraphs:
        line = ""
        for word in paragraph.split():
            wanted = f"{line} {word}".strip()
            if font.getlength(wanted) <= width:
                line = wanted
                continue
            part = _fitting_part(line, word, font, width)
            if part:
                lines.append(f"{line} {word[:part]}-".strip())
                line = word[part:]
            else:
                lines.append(line)
                line = word
        lines += [line, ""]
    return lines[:-1]


def _fitting_part(line: str, word: str, font: ImageFont.FreeTypeFont, width: int) -> int:
    """How many letters of a word still stand on a line: between a vowel and a consonant, three at least on each side."""
    if not word.strip(".,").isalpha() or len(word) < 8:
        return 0
    for part in range(len(word.rstrip(".,")) - 3, 2, -1):
        parts = word[part - 1] in "aeiou" and word[part] not in "aeiouſh"
        if parts and font.getlength(f"{line} {word[:part]}-") <= width:
            return part
    return 0


def printed(paragraphs: list[str], thing: Thing) -> Image.Image:
    """A page as it left the press."""
    file, size = STYLES[thing.style]
    font = ImageFont.truetype(str(file), size)
    page = Image.new("L", (WIDTH, HEIGHT), 255)
    draw = ImageDraw.Draw(page)
    if thing.long_s:
        paragraphs = [with_long_s(one) for one in paragraphs]
    for number, line in enumerate(lines_of(paragraphs, font, WIDTH - 2 * _MARGIN)):
        draw.text((_MARGIN, 110 + number * size * _LEADING), line, font=font, fill=25)
    return page


def aged(page: Image.Image, other: Image.Image, seed: int) -> Image.Image:
    """The same after a century and more: ink that ran and wore off, foxing, the other side shining through, turned."""
    random = np.random.default_rng(seed)
    ink = np.asarray(page.filter(ImageFilter.GaussianBlur(0.9)), np.float64)
    worn = _clouds(random, 14)
    ink = 255 - (255 - ink) * (0.42 + 0.58 * worn)
    behind = np.asarray(
        other.transpose(Image.Transpose.FLIP_LEFT_RIGHT).filter(ImageFilter.GaussianBlur(2.5)), np.float64
    )
    paper = 226 - 22 * _clouds(random, 5) - 0.10 * (255 - behind)
    foxed = _clouds(random, 40) > 0.985
    paper -= (
        34
        * np.asarray(Image.fromarray((foxed * 255).astype(np.uint8)).filter(ImageFilter.GaussianBlur(3)), np.float64)
        / 255
    )
    grain = random.normal(0, 6, ink.shape)
    both = np.clip(paper * ink / 255 + grain, 0, 255).astype(np.uint8)
    turned = Image.fromarray(both).rotate(float(random.uniform(-1, 1)), Image.Resampling.BICUBIC, fillcolor=205)
    shades = [
        turned.filter(ImageFilter.GaussianBlur(0.6)).point([min(255, round(shade * one)) for shade in range(256)])
        for one in _TINT
    ]
    return Image.merge("RGB", shades)


def _clouds(random: np.random.Generator, cells: int) -> np.ndarray:
    """Something that changes slowly over a page, from 0 to 1."""
    small = Image.fromarray((random.random((cells, cells)) * 255).astype(np.uint8))
    return np.asarray(small.resize((WIDTH, HEIGHT), Image.Resampling.BICUBIC), np.float64) / 255


def make(task: tuple[int, Thing, int]) -> None:
    number, thing, page = task
    folder = PAGES / thing.name
    other = printed(text_of(thing, page % PAGES_EACH + 1), thing)
    picture = folder / f"{page:02}.webp"
    aged(printed(text_of(thing, page), thing), other, 1_000 + number).save(picture, quality=32, method=6)
    said = ["tesseract", str(picture), str(folder / f"{page:02}"), "-l", "eng", "--dpi", "150", "alto"]
    subprocess.run(said, check=True, capture_output=True, env={"OMP_THREAD_LIMIT": "1", "PATH": "/usr/bin:/bin"})
    read = folder / f"{page:02}.xml"
    # Where it was made is nobody's matter.
    told = re.sub(r"<fileName>.*?</fileName>", f"<fileName>{picture.name}</fileName>", read.read_text("utf-8"))
    read.write_text(re.sub(r"\n\s+", "\n", told), "utf-8")


def main() -> None:
    for thing in THINGS:
        (PAGES / thing.name).mkdir(parents=True, exist_ok=True)
    tasks = [
        (number, thing, page)
        for number, (thing, page) in enumerate((one, page) for one in THINGS for page in range(1, PAGES_EACH + 1))
    ]
    with ThreadPoolExecutor(2) as threads:
        list(threads.map(make, tasks))
    with (PAGES / "things.csv").open("w", encoding="utf-8", newline="") as file:
        table = csv.writer(file, lineterminator="\n")
        table.writerow(("thing", "title", "maker", "year", "kind", "place"))
        table.writerows((one.name, one.title, one.maker, one.year, one.kind, one.place) for one in THINGS)


def judge() -> None:
    """Queries and grades, by what is printed."""
    printed_on = {
        f"{one.name}/{page:02}": " ".join(text_of(one, page)) for one in THINGS for page in range(1, PAGES_EACH + 1)
    }
    with (
        (LOGBOOKS / "queries.jsonl").open("w", encoding="utf-8") as queries,
        (LOGBOOKS / "grades.txt").open("w") as grades,
    ):
        for number, one in enumerate(QUERIES, start=1):
            name = f"p{number:02}"
            told = {"query_id": name, "query": one.query, "need": one.need, "tags": ["scanned page", one.trouble]}
            queries.write(json.dumps(told, ensure_ascii=False) + "\n")
            given = dict.fromkeys(one.pages, 3)
            given |= {
                page: 1
                for page, text in printed_on.items()
                if page not in given and any(word in text for word in one.beside)
            }
            others = [page for page in printed_on if page not in given]
            given |= dict.fromkeys(random.Random(name).sample(others, 6), 0)
            grades.writelines(f"{name} 0 {page}.xml {grade}\n" for page, grade in sorted(given.items()))


if __name__ == "__main__":
    if "--queries" not in sys.argv:
        main()
    judge()
