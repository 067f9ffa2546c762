"""Keys that lie in the data folder: whoever can read them is at this machine, and keeps the installation anyway."""

import os
from pathlib import Path

from pale_harbor.work.people.tokens import new_token


def kept_key(path: Path) -> str:
    """The key, made where there is none yet. Only the user who runs the server can read it."""
    try:
        if key := path.read_text().strip():
            return key
    except FileNotFoundError:
        pass
    # Another server may make it at the same moment: the first one counts.
    new = path.with_name(f"{path.name}.{os.getpid()}")
    descriptor = os.open(new, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "w") as file:
        file.write(new_token() + "\n")
    try:
        os.link(new, path)
    except FileExistsError:
        pass
    finally:
        new.unlink()
    return path.read_text().strip()
