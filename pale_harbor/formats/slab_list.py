"""The file that says which slabs a collection's indexes lie in, and which of their records are dead."""

import os
from pathlib import Path
from typing import Final
from uuid import uuid4

from pydantic import BaseModel, ValidationError

_NAME: Final = "slabs.json"


class KeptSlab(BaseModel):
    """A slab by the name of its folder. dead: record ids."""

    name: str
    records: int
    dead: list[int]


class SlabList(BaseModel):
    """The slabs of one revision of a collection, oldest first. shape: of the files in them."""

    shape: int
    revision: int
    slabs: list[KeptSlab]


def read_slab_list(folder: Path) -> SlabList | None:
    """The list in a collection's folder; None where it is missing or damaged."""
    try:
        return SlabList.model_validate_json((folder / _NAME).read_bytes())
    except (OSError, ValidationError):
        return None


def write_slab_list(folder: Path, slabs: SlabList) -> None:
    """Writes the list, whole or not at all."""
    folder.mkdir(parents=True, exist_ok=True)
    new = folder / f"{_NAME}.{uuid4().hex[:8]}"
    new.write_text(slabs.model_dump_json(), "utf-8")
    os.replace(new, folder / _NAME)
