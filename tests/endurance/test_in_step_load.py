"""What a newsroom writes is found soon after, and nothing of it is lost.

`IN_STEP_ARTICLES=100000 IN_STEP_RATE=200 IN_STEP_SECONDS=60` in the environment is what is promised.
"""

import pytest

from tests.endurance.harbor import harbor, scaled
from tests.endurance.in_step_load import written_to
from tests.endurance.test_kills_in_step import begin_to_follow, come_in_step, source_cluster
from tests.following.conftest import newsroom_of

_SECONDS_TO_READ_EVERYTHING = 300
# Far more than is promised: this is no machine to measure on. `./paleharbor bench --in-step` tells the figure.
_SOON_S = 30.0


@pytest.mark.parametrize("way", ["triggers", "decoding"])
def test_what_is_written_is_found_soon_after(way: str):
    articles = scaled(2_000, "IN_STEP_ARTICLES")
    rate, seconds = scaled(60, "IN_STEP_RATE"), scaled(6, "IN_STEP_SECONDS")
    with source_cluster() as source, newsroom_of(source, articles) as newsroom, harbor() as here:
        begin_to_follow(here, newsroom, way)
        come_in_step(here, newsroom, _SECONDS_TO_READ_EVERYTHING)
        load = written_to(newsroom, here, seconds, rate, articles, seed=20)
        print(
            f"\n{way}: {load.changes / load.seconds:.0f} changes a second, found after {load.median_s:.2f} s (median), "
            f"{load.slowest_s:.2f} s (slowest of {len(load.latencies)})"
        )
        assert load.unfound == 0
        assert load.changes > 0.5 * rate * seconds
        assert load.median_s < _SOON_S
        come_in_step(here, newsroom, _SECONDS_TO_READ_EVERYTHING)
