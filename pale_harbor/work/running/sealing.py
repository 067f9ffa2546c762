"""What is secret and has to be kept, sealed: without the key, which is not in the database, nobody can read it."""

import base64
from collections.abc import Mapping, Sequence
from typing import Final

from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

from pale_harbor.errors import Unavailable

# Tells what is sealed from what was kept before there was a key.
_MARK: Final = "sealed:"
_ABOUT: Final = b"pale harbor: what is kept of others"


class Sealing:
    """Seals and opens values. keys: random texts; the first one seals, and each opens what it sealed.

    >>> sealing = Sealing(["a key of thirty-two letters or more"])
    >>> sealing.opened(sealing.sealed({"X-Key": "ropes"}))
    {'X-Key': 'ropes'}
    """

    def __init__(self, keys: Sequence[str]) -> None:
        # For another process of the same server.
        self.keys = tuple(keys)
        self._fernet = MultiFernet([Fernet(_fernet_key(key)) for key in keys])

    def sealed(self, values: Mapping[str, str]) -> dict[str, str]:
        """The values by name, each sealed."""
        return {name: _MARK + self._fernet.encrypt(value.encode()).decode() for name, value in values.items()}

    def opened(self, values: Mapping[str, str]) -> dict[str, str]:
        """The values by name as they were. Raises Unavailable where the key is another one."""
        try:
            return {name: self._opened(value) for name, value in values.items()}
        except InvalidToken as error:
            raise Unavailable(
                "What was sealed here cannot be opened: the key is another one than that which sealed it. Name the old "
                'key too in the setting "secret_keys", or say the secret values again.'
            ) from error

    def _opened(self, value: str) -> str:
        return self._fernet.decrypt(value.removeprefix(_MARK).encode()).decode() if is_sealed(value) else value


def is_sealed(value: str) -> bool:
    """Whether a kept value is sealed."""
    return value.startswith(_MARK)


def _fernet_key(key: str) -> bytes:
    # RFC 5869: any long random text becomes a key of the right length.
    made = HKDF(algorithm=SHA256(), length=32, salt=None, info=_ABOUT).derive(key.encode())
    return base64.urlsafe_b64encode(made)
