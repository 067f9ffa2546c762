"""The word vectors that come with the program: read from the two files of the package that carries them.

Nothing else of that package is used: texts are cut by the package's published tokenizer file, and what is made of
the pieces is core's.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.metadata import version
from importlib.util import find_spec
from pathlib import Path
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray
from safetensors.numpy import load_file
from tokenizers import Tokenizer

from pale_harbor.core.vectors import pooled_vectors
from pale_harbor.errors import Unavailable

_PACKAGE: Final = "wordllama"
_WEIGHTS: Final = "weights/l2_supercat_256.safetensors"
_PIECES: Final = "tokenizers/l2_supercat_tokenizer_config.json"
# Longer texts are read so far: a mean of so many pieces does not change any more.
LONGEST_TEXT: Final = 20_000


@dataclass(frozen=True, slots=True, eq=False)
class StaticVectors:
    """A vector for each piece of a word, whatever stands around it. pieces: float32 (pieces, dimensions)."""

    model: str
    pieces: NDArray[np.float32]
    tokenizer: Tokenizer

    @property
    def dimensions(self) -> int:
        return self.pieces.shape[1]

    def vectors_of(self, texts: Sequence[str]) -> NDArray[np.float32]:
        """The mean of each text's pieces: float32 (texts, dimensions), zeros for an empty text."""
        return pooled_vectors(self.pieces, self._numbers(texts))

    def word_vectors(self, text: str) -> tuple[list[str], NDArray[np.float32]]:
        """A text's words, each once and in order, with the mean of its pieces."""
        words = list(dict.fromkeys(text[:LONGEST_TEXT].split()))
        return words, self.vectors_of(words)

    def _numbers(self, texts: Sequence[str]) -> list[list[int]]:
        read: list[Any] = self.tokenizer.encode_batch_fast(
            [text[:LONGEST_TEXT] for text in texts], add_special_tokens=False
        )
        return [one.ids for one in read]


@cache
def packaged_vectors() -> StaticVectors:
    """The packaged word vectors, read once. Raises Unavailable where the package is not whole."""
    found = find_spec(_PACKAGE)
    folders = list(found.submodule_search_locations or []) if found is not None else []
    try:
        folder = Path(folders[0])
        (pieces,) = load_file(folder / _WEIGHTS).values()
        tokenizer: Any = Tokenizer.from_file(str(folder / _PIECES))
    except (IndexError, OSError, ValueError) as error:
        raise Unavailable(
            "The packaged word vectors are not installed. Run ./paleharbor up to install them."
        ) from error
    tokenizer.no_padding()
    tokenizer.no_truncation()
    name = f"packaged word vectors {version(_PACKAGE)}"
    return StaticVectors(name, np.ascontiguousarray(pieces, np.float32), tokenizer)
