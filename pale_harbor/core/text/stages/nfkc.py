"""The text stage `nfkc`.

Source: Unicode Standard Annex 15, "Unicode Normalization Forms".
"""

from dataclasses import dataclass
from typing import ClassVar

from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.normal_forms import normalise


@dataclass(frozen=True, slots=True)
class Nfkc:
    """One form for characters that mean the same: full-width letters, ligatures, marks set apart."""

    example: ClassVar[str] = "ﬁsh № 2², with its ligature and its raised 2, becomes fish No 22"

    def __call__(self, text: MappedText) -> MappedText:
        return normalise(text, "NFKC")
