"""The text stage `nfc`.

Source: Unicode Standard Annex 15, "Unicode Normalization Forms".
"""

from dataclasses import dataclass
from typing import ClassVar

from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.normal_forms import normalise


@dataclass(frozen=True, slots=True)
class Nfc:
    """One form for letters with marks, however they were typed; nothing else is changed."""

    example: ClassVar[str] = "an e followed by a loose accent becomes é; ﬁ stays ﬁ"

    def __call__(self, text: MappedText) -> MappedText:
        return normalise(text, "NFC")
