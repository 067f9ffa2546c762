"""Letters as the codes of sounds want them."""

from pale_harbor.core.text.stages.accents import bare


def plain_letters(text: str) -> str:
    """The letters A to Z of a text, capitals, accents taken off; anything else is left out."""
    return "".join(letter for letter in bare(text).upper() if "A" <= letter <= "Z")
