"""Loads a folder of small pictures for a collection's records."""

from pathlib import Path
from typing import Final

from pale_harbor.errors import BadInput
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import Pool
from pale_harbor.store.records.pictures import Picture, put_pictures

_TYPES: Final = {
    ".svg": "image/svg+xml",
    ".png": "image/png",
    ".jpg": "image/jpeg",
    ".jpeg": "image/jpeg",
    ".webp": "image/webp",
    ".gif": "image/gif",
}
_LARGEST: Final = 2_000_000


def load_pictures(pool: Pool, collection_name: str, folder: Path) -> int:
    """Keeps every picture of a folder under its file's name; returns how many. Raises BadInput."""
    if not folder.is_dir():
        raise BadInput(f"{folder} cannot be read: there is no such folder.")
    files = sorted(path for path in folder.iterdir() if path.suffix.lower() in _TYPES)
    too_large = [(path.name, f"larger than {_LARGEST:,} bytes.") for path in files if path.stat().st_size > _LARGEST]
    if too_large:
        raise BadInput("These pictures are too large for a list of results; none was kept.", too_large)
    pictures = [Picture(path.name, _TYPES[path.suffix.lower()], path.read_bytes()) for path in files]
    with pool.connection() as connection:
        put_pictures(connection, collection_named(connection, collection_name).id, pictures)
    return len(pictures)
