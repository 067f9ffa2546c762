"""Synonyms from thesauri in SKOS.

Source: W3C Recommendation "SKOS Simple Knowledge Organization System Reference", 2009, sections 5 and 8.
"""

from dataclasses import dataclass
from pathlib import PurePath
from typing import Final

from rdflib import Graph, Literal, Node
from rdflib.namespace import SKOS

from pale_harbor.core.text.word_lists import LONGEST_ENTRY, MOST_ENTRIES, SynonymRule, Synonyms
from pale_harbor.errors import BadInput

LARGEST_FILE: Final = 20_000_000
# JSON-LD is left out: reading it may fetch what it names from elsewhere.
FORMATS: Final = {".ttl": "turtle", ".nt": "nt", ".rdf": "xml", ".xml": "xml", ".owl": "xml", ".n3": "turtle"}


@dataclass(frozen=True, slots=True)
class SkosReading:
    """How a thesaurus becomes synonyms.

    languages: whose labels are taken, all where it is empty. across: whether labels of one concept in
    different languages mean the same. narrower: whether a concept's words also mean, one way, those
    of the concepts right below it.
    """

    languages: tuple[str, ...] = ()
    across: bool = False
    narrower: bool = False


def synonyms_of(content: bytes, name: str, reading: SkosReading) -> Synonyms:
    """The synonyms that a thesaurus holds, in order of their words. Raises BadInput.

    name: the file's name, whose ending tells its format.
    """
    graph = _graph(content, name)
    labels = _labels(graph, reading.languages)
    rules: list[SynonymRule] = []
    for by_language in labels.values():
        groups = [tuple(dict.fromkeys(label for own in by_language.values() for label in own))]
        if not reading.across:
            groups = [tuple(own) for own in by_language.values()]
        rules += [SynonymRule(group[:1], group[1:]) for group in groups if len(group) > 1]
    if reading.narrower:
        rules += _narrower(graph, labels)
    if len(rules) > MOST_ENTRIES:
        raise BadInput(f"A word list has at most {MOST_ENTRIES:,} entries; this thesaurus gives {len(rules):,}.")
    if not rules:
        raise BadInput("This thesaurus has no concept with two labels of one language, so it gives no synonyms.")
    return Synonyms(tuple(sorted(set(rules), key=lambda rule: (rule.words, rule.means, rule.both_ways))))


def _graph(content: bytes, name: str) -> Graph:
    if len(content) > LARGEST_FILE:
        raise BadInput(f"A thesaurus is at most {LARGEST_FILE // 1_000_000} MB large.")
    form = FORMATS.get(PurePath(name).suffix.lower())
    if form is None:
        raise BadInput(f"{name}: a thesaurus is read from {', '.join(FORMATS)} files.")
    if form == "xml" and (b"<!DOCTYPE" in content or b"<!ENTITY" in content or b"\0" in content):
        # A NUL byte stands in other encodings than UTF-8, in which a document type would pass unseen.
        raise BadInput(f"{name}: XML with a document type of its own, or not in UTF-8, is not read. Save it as Turtle.")
    try:
        return Graph().parse(data=content, format=form)
    except Exception as error:  # The parsers raise whatever they come upon.
        lines = str(error).strip().splitlines()
        raise BadInput(f"{name} cannot be read as {form}: {lines[0] if lines else type(error).__name__}.") from error


def _labels(graph: Graph, languages: tuple[str, ...]) -> dict[Node, dict[str, list[str]]]:
    """For each concept its labels by language, the preferred one first."""
    found: dict[Node, dict[str, list[str]]] = {}
    for kind in (SKOS.prefLabel, SKOS.altLabel, SKOS.hiddenLabel):
        for concept, label in sorted(graph.subject_objects(kind), key=str):
            if not isinstance(label, Literal):
                continue
            language = (label.language or "").split("-")[0]
            text = " ".join(str(label).split())
            if (languages and language not in languages) or not text or len(text) > LONGEST_ENTRY:
                continue
            own = found.setdefault(concept, {}).setdefault(language, [])
            if text not in own:
                own.append(text)
    return found


def _narrower(graph: Graph, labels: dict[Node, dict[str, list[str]]]) -> list[SynonymRule]:
    pairs = {(broad, narrow) for broad, narrow in graph.subject_objects(SKOS.narrower)}
    pairs |= {(broad, narrow) for narrow, broad in graph.subject_objects(SKOS.broader)}
    rules: list[SynonymRule] = []
    for broad, narrow in pairs:
        for language, words in labels.get(broad, {}).items():
            below = labels.get(narrow, {}).get(language)
            if below:
                rules.append(SynonymRule(tuple(words), tuple(below), both_ways=False))
    return rules
