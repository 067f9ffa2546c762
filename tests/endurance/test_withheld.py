"""What is excused because the machine was kept from its processors, and for how long."""

import pytest

from tests.endurance.withheld import USUAL_UNDER_WAY, WITHHELD, Excused

MANY = USUAL_UNDER_WAY + 1


@pytest.mark.parametrize(("share", "is_excused"), [(WITHHELD, False), (WITHHELD + 0.001, True)])
def test_from_more_than_a_tenth_on_it_is_excused(share: float, is_excused: bool):
    excused = Excused(0.0)
    excused.look(0.25, share, MANY)
    assert excused.is_excused is is_excused
    assert (excused.kept_s, excused.excused_s) == ((0.25, 0.25) if is_excused else (0.0, 0.0))


@pytest.mark.parametrize(("under_way", "is_excused"), [(USUAL_UNDER_WAY, False), (USUAL_UNDER_WAY + 1, True)])
def test_it_ends_once_it_has_caught_up(under_way: int, is_excused: bool):
    excused = Excused(0.0)
    excused.look(0.25, 1.0, MANY)
    excused.look(0.5, 0.0, under_way)
    assert excused.is_excused is is_excused


@pytest.mark.parametrize(("kept_s", "caught_up_s"), [(0.25, 1.0), (1.0, 1.0), (3.0, 3.0)])
def test_catching_up_takes_as_long_as_what_there_was_and_a_second_at_least(kept_s: float, caught_up_s: float):
    excused = Excused(0.0)
    excused.look(kept_s, 1.0, MANY)
    excused.look(kept_s + caught_up_s, 0.0, MANY)
    assert excused.is_excused
    excused.look(kept_s + caught_up_s + 0.25, 0.0, MANY)
    # Whatever is slow from now on is slow by itself, however much is under way.
    assert not excused.is_excused
    assert (excused.kept_s, excused.excused_s) == (kept_s, kept_s + caught_up_s)


def test_what_comes_while_it_catches_up_is_one_stretch_and_what_comes_later_another():
    excused = Excused(0.0)
    excused.look(1.0, 1.0, MANY)
    excused.look(1.5, 0.0, MANY)
    excused.look(2.5, 1.0, MANY)
    excused.look(4.5, 0.0, MANY)
    assert excused.is_excused
    excused.look(4.75, 0.0, MANY)
    assert not excused.is_excused
    excused.look(5.75, 1.0, MANY)
    excused.look(7.0, 0.0, MANY)
    assert not excused.is_excused
