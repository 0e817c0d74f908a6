"""Looking after something: a thread that comes back every second for as long as a block lasts."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

AGAIN_S = 1.0


@contextmanager
def looked_after(look: Callable[[], None]) -> Iterator[None]:
    """Call `look` every second until the block ends."""
    ended = threading.Event()

    def come_back() -> None:
        while not ended.wait(AGAIN_S):
            look()

    looking = threading.Thread(target=come_back, daemon=True)
    looking.start()
    try:
        yield
    finally:
        ended.set()
        looking.join()
