"""Chains and rankers that were kept before some words changed, in today's words.

    keep(@list) → as_is(@list)            the tokenizer spaces → blanks
    keep= of synonyms → beside=, of parts and decompound → whole=, of word_grams → single=
    payload("|") → a text stage in front that takes off what follows the separator
    in_order → same_order                 a signal's missing → without
    least_greatest, standard → min_max, z_score
    spelling slack without lengths → [4, 8], which was the default then

What is written is changed where it stands; everything else, comments too, stays as it was.
"""

import re
from typing import Any, Final

from pale_harbor.core.text.errors import NotationError
from pale_harbor.core.text.notation import StageCall, parse

_STAGES: Final = {"keep": "as_is", "spaces": "blanks"}
_ARGUMENTS: Final = {
    ("synonyms", "keep"): "beside",
    ("parts", "keep"): "whole",
    ("decompound", "keep"): "whole",
    ("word_grams", "keep"): "single",
}
_NORMALISATIONS: Final = {"least_greatest": "min_max", "standard": "z_score"}


def present_notation(notation: str) -> str:
    """A chain in today's words; what is no notation stays as it is.

    >>> present_notation("spaces > keep(@names) > synonyms(@sea, keep=no)")
    'blanks > as_is(@names) > synonyms(@sea, beside=no)'
    """
    try:
        calls = parse(notation)
    except NotationError:
        return notation
    left = [call for call in calls if call.name != "payload"]
    if len(left) < len(calls):
        # Parting at a separator belonged to tokens; what it did to their letters, a text stage does.
        cuts = [_cut_off(call) for call in calls if call.name == "payload"]
        return " > ".join([*cuts, *(_present_call(notation, call) for call in left)])
    for call in reversed(calls):
        start, end = call.stretch
        notation = notation[:start] + _present_call(notation, call) + notation[end:]
    return notation


def present_ranker(document: dict[str, Any]) -> dict[str, Any]:
    """A ranker's document in today's words; what it does stays the same."""
    document = {**document}
    document["readings"] = [_present_reading(one) for one in document.get("readings", [])]
    if document.get("spelling") is not None:
        document["spelling"] = {**document["spelling"], "lengths": document["spelling"].get("lengths", [4, 8])}
    if "signals" in document:
        document["signals"] = [_rename(one, {"missing": "without"}) for one in document["signals"]]
    if "blend" in document:
        document["blend"] = _present_blend(document["blend"])
    if "kinds" in document:
        document["kinds"] = [{**one, "blend": _present_blend(one["blend"])} for one in document["kinds"]]
    return document


def present_space(document: dict[str, Any]) -> dict[str, Any]:
    """A space's document in today's words: the chain that it learns through."""
    source = document.get("source", {})
    if "chain" not in source:
        return document
    return {**document, "source": {**source, "chain": present_notation(source["chain"])}}


def _present_reading(reading: dict[str, Any]) -> dict[str, Any]:
    reading = {**reading}
    for part in ("chain", "query_chain"):
        written = reading.get(part)
        if isinstance(written, str):
            reading[part] = present_notation(written)
        elif isinstance(written, dict):
            reading[part] = {key: text if key == "by" else _present_choice(text) for key, text in written.items()}
    if reading.get("nearness") is not None:
        reading["nearness"] = _rename(reading["nearness"], {"in_order": "same_order"})
    return reading


def _present_choice(text: str) -> str:
    """A bare name meant a saved chain wherever no stage was called so."""
    return f"@{text.strip()}" if text.strip() in _STAGES.values() else present_notation(text)


def _present_blend(blend: dict[str, Any]) -> dict[str, Any]:
    if blend.get("normalise") not in _NORMALISATIONS:
        return blend
    return {**blend, "normalise": _NORMALISATIONS[blend["normalise"]]}


def _rename(part: dict[str, Any], names: dict[str, str]) -> dict[str, Any]:
    return {names.get(key, key): value for key, value in part.items()}


def _present_call(notation: str, call: StageCall) -> str:
    start, end = call.stretch
    written = notation[start + len(call.name) : end]
    for argument in call.arguments:
        name = None if argument.name is None else _ARGUMENTS.get((call.name, argument.name))
        if name is not None:
            written = re.sub(rf"\b{argument.name}(?=\s*=)", name, written, count=1)
    return _STAGES.get(call.name, call.name) + written


def _cut_off(call: StageCall) -> str:
    separator = next((one.value for one in call.arguments if isinstance(one.value, str)), "")
    own = re.escape(separator)
    pattern = rf"(?<=\S){own}(?:(?!{own})\S)*(?!\S)"
    return f'replace(/{pattern.replace("/", chr(92) + "/")}/, "")'
