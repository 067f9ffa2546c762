"""Which words a stretch of a query reaches into: looked up among thousands as if each were looked at."""

from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.ranking.plan import WordRun
from pale_harbor.core.ranking.preparing import _bits_between, _reached  # pyright: ignore[reportPrivateUsage]


@given(
    st.lists(st.tuples(st.integers(0, 2), st.integers(1, 3), st.integers(-1, 9)), max_size=12),
    st.integers(0, 40),
    st.integers(0, 8),
)
def test_it_is_what_looking_at_each_word_gives(steps: list[tuple[int, int, int]], start: int, length: int):
    words: list[tuple[int, int, int]] = []
    at = 0
    for gap, size, bit in steps:
        words.append((at + gap, at + gap + size, bit))
        at += gap + size
    run = WordRun("x" * at, tuple(words), scored=True, field=None)
    end = start + length
    reached = [i for i, (first, last, _) in enumerate(words) if start < last and first < end]
    assert list(_reached(start, end, run)) == reached
    assert _bits_between(start, end, run) == sum(1 << words[i][2] for i in reached if words[i][2] >= 0)


def test_a_stretch_that_only_touches_a_word_does_not_reach_into_it():
    run = WordRun("fog bell", ((0, 3, 0), (4, 8, 1)), scored=True, field=None)
    assert [list(_reached(*stretch, run)) for stretch in ((3, 4), (2, 4), (3, 5), (0, 8), (8, 9))] == [
        [],
        [0],
        [1],
        [0, 1],
        [],
    ]
