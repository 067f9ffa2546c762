"""What is tried where worse records stand above good ones: each kind of change by hand."""

from typing import Any

from pale_harbor.core.ranking import Ranker, Reading
from pale_harbor.core.text import chain_of
from pale_harbor.formats.ranker.differences import Reads
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.tuning.outranked_changes import changes_for_outranked
from pale_harbor.work.workbench import ChosenRanker

CHAIN = chain_of("words")
RANKER = Ranker(readings=(Reading(field="title", chain=CHAIN, query_chain=CHAIN),))
TITLE = {"field": "title", "chain": "words", "weight": 4, "b": 0.75}
TEXT = {"field": "text", "chain": "words", "weight": 1, "b": 0.4}
OFF = {"field": "off", "chain": "words", "weight": 0}


def changes(part: str, readings: list[dict[str, Any]], **more: Any) -> dict[str, dict[str, Any]]:
    document = ranker_document({"readings": readings, **more})
    found = list(changes_for_outranked(ChosenRanker(RANKER, document, None, Reads({}, {})), part))
    assert not any(needs_index for _, _, needs_index in found)
    for words, changed, _ in found:
        assert ranker_document(changed).whole != document.whole, words
    return {words: changed for words, changed, _ in found}


def test_what_puts_worse_records_first_is_made_lighter_and_everything_else_heavier():
    own = changes("title", [TITLE, TEXT, OFF])
    assert own["title weight 4 to 2"]["readings"][0]["weight"] == 2
    assert own["text weight 1 to 2"]["readings"][1]["weight"] == 2
    assert not any("off" in words or "text weight 1 to 0.5" in words for words in own)


def test_another_b_is_tried_where_it_is_another_one():
    own = changes("title", [TITLE, TEXT])
    # 0.75 is no farther than 0.15 from 0.9.
    assert [words for words in own if " b " in words] == ["title b 0.75 to 0.3"]
    assert [words for words in changes("text", [TITLE, TEXT]) if " b " in words] == ["text b 0.4 to 0.9"]


def test_nearness_feedback_and_other_ways_to_combine_are_tried_where_they_are_not_there():
    own = changes("title", [TITLE, TEXT])
    assert own["extra for words near each other in title"]["readings"][0]["nearness"]["weight"] == 1
    assert own["words of the first records fed back"]["feedback"] == {}
    assert {"readings pooled", "the strongest reading alone"} <= own.keys()
    assert "readings summed" not in own
    there = changes("title", [{**TITLE, "nearness": {}}], feedback={})
    # One reading alone has nothing to weigh against, and nothing to combine with.
    assert list(there) == ["title b 0.75 to 0.3"]


def test_a_signal_that_puts_worse_records_first_counts_half():
    signals = [{"field": "asked", "shape": "log", "weight": 3}]
    own = changes("signal asked, log", [TITLE, TEXT], signals=signals)
    assert own["signal asked weight 3 to 1.5"]["signals"][0]["weight"] == 1.5
    assert not any("signal" in words for words in changes("signal asked, rank", [TITLE, TEXT], signals=signals))


def test_more_meaning_is_tried_against_words_and_less_against_a_space():
    spaces = [{"space": "house"}, {"space": "everyday", "weight": 2}]
    words = changes("words", [TITLE], spaces=spaces, blend={"meaning": 0.9})
    assert words["meaning 0.9 to 1"]["blend"]["meaning"] == 1
    own = changes("space everyday", [TITLE], spaces=spaces, blend={"meaning": 0.5})
    assert own["meaning 0.5 to 0.3"]["blend"]["meaning"] == 0.3
    assert own["space everyday weight 2 to 1"]["spaces"][1]["weight"] == 1
    assert not any("house" in one for one in own)
    # What cannot go further is not tried.
    assert not any("meaning" in one for one in changes("space house", [TITLE], spaces=spaces[:1], blend={"meaning": 0}))
