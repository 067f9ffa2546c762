"""What is shown to be let in: long random words, of which only the SHA-256 is kept."""

from hashlib import sha256
from secrets import token_urlsafe
from typing import Final

# 256 bits: nobody guesses them, so that a fast hash is enough.
_BYTES: Final = 32


def new_token() -> str:
    """A word that nobody has seen before.

    >>> len(new_token()) == 43
    True
    """
    return token_urlsafe(_BYTES)


def hash_of(token: str) -> bytes:
    """What is kept of it.

    >>> hash_of("lantern").hex()[:8]
    'c5220b3c'
    """
    return sha256(token.encode("utf-8", "surrogatepass")).digest()
