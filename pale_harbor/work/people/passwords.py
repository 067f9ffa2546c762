"""Passwords: what one has to be like, and how it is kept (Argon2id, RFC 9106)."""

from typing import Final

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from pale_harbor.errors import BadInput

# Length is what counts (NIST SP 800-63B, 3.1.1); more than this is no password but a file.
LEAST_LETTERS: Final = 12
MOST_LETTERS: Final = 200

_HASHER: Final = PasswordHasher()
# Of a password that nobody knows: who is not there takes as long to refuse as who is.
_NOBODY: Final = _HASHER.hash("nobody has this one")


def hashed(password: str, names: tuple[str, ...]) -> str:
    """How a password is kept. names: of the person, which it may not be. Raises BadInput."""
    if len(password) < LEAST_LETTERS:
        raise BadInput(
            f"A password has {LEAST_LETTERS} letters or more; this one has {len(password)}. Several words in a row "
            "are easy to keep in mind."
        )
    if len(password) > MOST_LETTERS:
        raise BadInput(f"A password has {MOST_LETTERS} letters at most; this one has {len(password)}.")
    if len(set(password)) < 5:
        raise BadInput("This password has fewer than five different letters, and is soon guessed. Choose another one.")
    if any(name and name.casefold() in password.casefold() and len(password) - len(name) < 6 for name in names):
        raise BadInput("This password is hardly more than the name, and is soon guessed. Choose another one.")
    return _HASHER.hash(password)


def matches(password: str, kept: str | None) -> bool:
    """Whether it is this password. kept: its hash, None where there is nobody: that takes as long."""
    try:
        return _HASHER.verify(kept or _NOBODY, password[: MOST_LETTERS + 1]) and kept is not None
    except (VerificationError, InvalidHashError):
        return False
