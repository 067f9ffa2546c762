"""Coroutines run to their end in a thread of their own: a browser of other tests may have a loop in this one."""

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any


def alone(story: Coroutine[Any, Any, None]) -> None:
    """Runs it to its end. Raises what it raises."""
    with ThreadPoolExecutor(1) as elsewhere:
        elsewhere.submit(asyncio.run, story).result()
