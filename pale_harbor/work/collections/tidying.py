"""Clears what nobody needs any more: files of dropped collections, joined slabs, unfinished builds, old uploads."""

import shutil
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

import structlog

from pale_harbor.formats.slab_list import read_slab_list
from pale_harbor.store.collections.collections import all_collections
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.imports import unfinished_imports
from pale_harbor.work.imports.importing import leave_import
from pale_harbor.work.imports.uploads import Uploads

# Another process may be writing what is newer than this.
_KEPT_SECONDS: Final = 3_600
_DECIDED_WITHIN: Final = timedelta(days=7)


def tidy(pool: Pool, index_folder: Path, uploads: Uploads) -> int:
    """Removes folders of indexes that no collection refers to; returns how many. They can be built again.

    Imports that nobody decided about for a week are let go of, with the rows that waited.
    """
    with pool.connection() as connection:
        known = {str(collection.uid) for collection in all_collections(connection)}
        unfinished = unfinished_imports(connection)
    needed = {str(job.source.get("path", "")) for job in unfinished}
    for job in unfinished:
        if job.state == "undecided" and datetime.now(UTC) - job.updated_at > _DECIDED_WITHIN:
            leave_import(pool, job.id)
    uploads.tidy(needed)
    removed = 0
    for folder in _old_folders(index_folder):
        if folder.name not in known:
            shutil.rmtree(folder, ignore_errors=True)
            removed += 1
    for name in known:
        kept = read_slab_list(index_folder / name)
        slabs = {slab.name for slab in kept.slabs} if kept else set[str]()
        for folder in _old_folders(index_folder / name):
            if folder.name not in slabs:
                shutil.rmtree(folder, ignore_errors=True)
                removed += 1
            else:
                for unfinished in folder.glob("unfinished-*"):
                    shutil.rmtree(unfinished, ignore_errors=True)
    if removed:
        structlog.get_logger().info("tidied", removed=removed)
    return removed


def _old_folders(folder: Path) -> list[Path]:
    if not folder.is_dir():
        return []
    now = time.time()
    return [one for one in folder.iterdir() if one.is_dir() and now - one.stat().st_mtime > _KEPT_SECONDS]
