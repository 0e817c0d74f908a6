"""Work shared out to as many processes as the machine has cores, for commands that hold it up alone."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Any

from coombe_core.analysis import Made, Thing

_act: Callable[[Any], Any]


def in_processes(act: Callable[[Thing], Made], things: Iterable[Thing]) -> list[Made]:
    """Do something to each thing, some of them in other processes.

    Forked processes have everything that the work needs already, and start at once. Only for a process without other
    threads.

    Parameters
    ----------
    act : callable
        What to do; it need not be picklable.
    things : iterable
        What to do it to; they and what is made of them must be picklable.

    Returns
    -------
    list
        What was made of each thing, in order.

    Raises
    ------
    Exception
        Whatever `act` raises.
    """
    todo = list(things)
    count = min(len(todo), os.cpu_count() or 1)
    if count < 2:
        return [act(thing) for thing in todo]
    forked = multiprocessing.get_context("fork")
    try:
        with ProcessPoolExecutor(count, forked, initializer=_remember, initargs=(act,)) as pool:
            return list(pool.map(_made, todo))
    except BrokenProcessPool:  # one of them was killed, for want of memory
        return [act(thing) for thing in todo]


def _remember(act: Callable[[Any], Any]) -> None:
    global _act
    _act = act


def _made(thing: Any) -> Any:
    return _act(thing)
