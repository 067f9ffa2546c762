"""What lies at addresses that a source names: asked once, however often the source is read."""

import time
from typing import Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.iiif.reading import LARGEST_MANIFEST
from pale_harbor.work.running.asking import Asking, NotAnswered, with_retries

_SECONDS: Final = 30.0
_TRIES: Final = 3
_FIRST_WAIT_S: Final = 1.0
# Of one source: nobody has a manifest for each of thousands of things at another one's address.
_MOST_ADDRESSES: Final = 1_000


class Fetched:
    """Contents by address, of one source."""

    def __init__(self) -> None:
        self._kept: dict[str, bytes | BadInput] = {}

    def __call__(self, address: str) -> bytes:
        """What lies there. Raises BadInput where it cannot be had, in words that follow the address."""
        if address not in self._kept:
            if len(self._kept) >= _MOST_ADDRESSES:
                raise BadInput(f"more than {_MOST_ADDRESSES:,} addresses are not asked for one source.")
            self._kept[address] = _asked(address)
        found = self._kept[address]
        if isinstance(found, BadInput):
            raise found
        return found


def _asked(address: str) -> bytes | BadInput:
    headers = {"Accept": "application/ld+json, application/json"}
    try:
        with Asking(_SECONDS, headers) as asking:
            return with_retries(
                lambda: asking.answer("GET", address, None, LARGEST_MANIFEST), _TRIES, time.sleep, _FIRST_WAIT_S
            )
    except NotAnswered as error:
        return BadInput(f"it cannot be had: {error}.")
    except ValueError as error:
        # No address at all.
        return BadInput(f"it cannot be asked: {error}.")
