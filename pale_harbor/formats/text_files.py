"""Whole text files, read with words for people where they cannot be."""

from pathlib import Path

from pale_harbor.errors import BadInput


def text_of(path: Path) -> str:
    """The text of a UTF-8 file, without a byte order mark, its line ends as they are. Raises BadInput."""
    try:
        # Line ends within a note are part of it.
        return path.read_bytes().decode("utf-8-sig")
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise BadInput(f"{path} is not UTF-8 text (byte {error.start + 1}). Save it as UTF-8.") from error
