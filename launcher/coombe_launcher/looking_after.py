"""Looking after processes: a thread that comes back every second, and none that outlives its parent."""

from __future__ import annotations

import ctypes
import os
import signal
import sys
import threading
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress

AGAIN_S = 1.0


@contextmanager
def looked_after(look: Callable[[], None]) -> Iterator[None]:
    """Call `look` every second until the block ends; a look that fails is printed, and made again."""
    ended = threading.Event()

    def come_back() -> None:
        while not ended.wait(AGAIN_S):
            try:
                look()
            except Exception:
                traceback.print_exc(file=sys.stderr)

    looking = threading.Thread(target=come_back, daemon=True)
    looking.start()
    try:
        yield
    finally:
        ended.set()
        looking.join()


def end_process(pid: int, limit_s: float) -> None:
    """Ask a process that is no child of ours to end, and kill it where it does not."""
    limit = time.monotonic() + limit_s
    with suppress(ProcessLookupError):
        os.kill(pid, signal.SIGTERM)
        while time.monotonic() < limit:
            os.kill(pid, 0)
            time.sleep(0.1)
        os.kill(pid, signal.SIGKILL)


def die_with_parent() -> None:
    """To be called in a new process: have the kernel stop it if its parent is killed, so that none is left behind."""
    set_parent_death_signal = 1
    ctypes.CDLL(None).prctl(set_parent_death_signal, signal.SIGTERM)
