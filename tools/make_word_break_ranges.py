"""Writes pale_harbor/core/text/word_break_ranges.py from the Unicode Character Database.

Run it with the folder of a Unicode release (on Debian the package unicode-data puts one in
/usr/share/unicode):

    python tools/make_word_break_ranges.py /usr/share/unicode
"""

import re
import sys
from pathlib import Path

TARGET = Path(__file__).parent.parent / "pale_harbor/core/text/word_break_ranges.py"
LINE = re.compile(r"^([0-9A-F]+)(?:\.\.([0-9A-F]+))?\s*;\s*(\w+)")


def ranges_of(path: Path, wanted: set[str] | None = None) -> dict[int, str]:
    """Code point to property value, for the values in `wanted` (all where None)."""
    values: dict[int, str] = {}
    for line in path.read_text("utf-8").splitlines():
        if found := LINE.match(line):
            first, last, value = found.groups()
            if wanted is None or value in wanted:
                for code_point in range(int(first, 16), int(last or first, 16) + 1):
                    values[code_point] = value
    return values


def runs(values: dict[int, str]) -> list[tuple[int, int, str]]:
    """Neighbouring code points of one value as (first, last, value)."""
    result: list[tuple[int, int, str]] = []
    for code_point in sorted(values):
        value = values[code_point]
        if result and result[-1][1] == code_point - 1 and result[-1][2] == value:
            result[-1] = (result[-1][0], code_point, value)
        else:
            result.append((code_point, code_point, value))
    return result


def packed(runs_of_one: list[tuple[int, int, str]]) -> list[str]:
    """Runs as lines of text, hexadecimal, about a hundred characters each."""
    lines: list[str] = []
    line = ""
    for first, last, _ in runs_of_one:
        piece = f"{first:X}" if first == last else f"{first:X}-{last:X}"
        if len(line) + len(piece) > 96:
            lines.append(line.strip())
            line = ""
        line += piece + " "
    return [*lines, line.strip()]


def main(folder: Path) -> None:
    word_break = ranges_of(folder / "auxiliary/WordBreakProperty.txt")
    pictographic = ranges_of(folder / "emoji/emoji-data.txt", {"Extended_Pictographic"})
    presentation = ranges_of(folder / "emoji/emoji-data.txt", {"Emoji_Presentation"})
    categories = ranges_of(folder / "extracted/DerivedGeneralCategory.txt")
    letters = {c: "Counts" for c, category in categories.items() if category[0] in "LN"}
    version = re.search(r"WordBreakProperty-([\d.]+)\.txt", (folder / "auxiliary/WordBreakProperty.txt").read_text())
    assert version is not None
    out = [
        '"""Word_Break classes of Unicode, made by tools/make_word_break_ranges.py: do not edit.',
        "",
        f"Source: Unicode Character Database {version[1]}, WordBreakProperty.txt, emoji-data.txt and",
        'DerivedGeneralCategory.txt (categories L and N are "letters or digits").',
        '"""',
        "",
        f'UNICODE_VERSION = "{version[1]}"',
        "",
        "# value of Word_Break: code points and ranges, hexadecimal",
        "WORD_BREAK = {",
    ]
    for value in sorted(set(word_break.values())):
        out.append(f'    "{value}": """')
        out += packed(runs({c: v for c, v in word_break.items() if v == value}))
        out.append('""",')
    out.append("}")
    for name, values in (
        ("EXTENDED_PICTOGRAPHIC", pictographic),
        ("EMOJI_PRESENTATION", presentation),
        ("LETTERS_AND_DIGITS", letters),
    ):
        out += ["", f'{name} = """', *packed(runs(values)), '"""']
    TARGET.write_text("\n".join(out) + "\n", "utf-8")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
