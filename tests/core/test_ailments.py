"""What ails a judged query, each decision by hand."""

import pytest

from pale_harbor.core.tuning.ailments import (
    Ailment,
    Ails,
    MissedGood,
    ailment_of,
    outranking_part,
    why_missed,
)

LACKS, SHUT = Ailment(Ails.LACKS), Ailment(Ails.SHUT_OUT)
BY_TITLE, BY_MAKER = Ailment(Ails.OUTRANKED, "title"), Ailment(Ails.OUTRANKED, "maker")


def test_where_nothing_is_missed_nothing_ails():
    assert ailment_of([], unjudged=10, first=10) is None


@pytest.mark.parametrize(("unjudged", "ails"), [(4, Ails.LACKS), (5, Ails.LACKS), (6, Ails.UNJUDGED)])
def test_where_more_than_half_of_the_first_are_unjudged_nobody_can_tell(unjudged: int, ails: Ails):
    found = ailment_of([MissedGood(LACKS, 3)], unjudged, 10)
    assert found is not None
    assert found.ails is ails


def test_records_count_by_their_grades_and_parts_apart():
    missed = [MissedGood(BY_TITLE, 1), MissedGood(BY_TITLE, 1), MissedGood(BY_MAKER, 3)]
    assert ailment_of(missed, 0, 10) == BY_MAKER
    assert ailment_of([*missed, MissedGood(BY_TITLE, 2)], 0, 10) == BY_TITLE


def test_of_equal_weight_the_reason_that_is_named_first_counts_and_of_parts_the_first_by_name():
    assert ailment_of([MissedGood(LACKS, 2), MissedGood(SHUT, 2)], 0, 10) == SHUT
    assert ailment_of([MissedGood(BY_TITLE, 2), MissedGood(BY_MAKER, 2)], 0, 10) == BY_MAKER


@pytest.mark.parametrize(
    ("is_listed", "is_shut_out", "counted", "held", "unknown", "ails"),
    [
        (True, True, 2, 2, 0, Ails.SHUT_OUT),
        (True, False, 2, 1, 1, Ails.OUTRANKED),
        (False, False, 2, 1, 1, Ails.UNKNOWN),
        (False, False, 2, 0, 1, Ails.LACKS),
        (False, False, 1, 0, 1, Ails.UNKNOWN),
        (False, False, 2, 0, 0, Ails.LACKS),
        (False, False, 2, 1, 0, Ails.TOO_FEW),
        (False, False, 2, 2, 0, Ails.FAR),
        (False, False, 0, 0, 0, Ails.LACKS),
    ],
)
def test_why_one_record_is_missed(
    is_listed: bool, is_shut_out: bool, counted: int, held: int, unknown: int, ails: Ails
):
    assert why_missed(is_listed=is_listed, is_shut_out=is_shut_out, counted=counted, held=held, unknown=unknown) is ails


def test_a_worse_record_stands_above_by_the_part_in_which_it_is_farthest_ahead():
    names = ["title", "text", "maker"]
    assert outranking_part([3, 1, 0], [1, 3, 0], names) == "title"
    assert outranking_part([2, 2, 0], [1, 1, 5], names) == "title"
    assert outranking_part([1, 1, 1], [1, 1, 1], names) == ""
    assert outranking_part([], [], []) == ""
