"""Work shared out to as many processes as the machine has cores, for commands that hold it up alone.

A forked process has everything that it needs already, and starts at once: pools cost more than the work of a command.
"""

from __future__ import annotations

import os
import pickle
from collections.abc import Callable, Iterable
from typing import Any, Protocol, TypeVar

Thing = TypeVar("Thing")
Made = TypeVar("Made")


class Each(Protocol):
    """How something is done to each of several things: `map`, or in processes."""

    def __call__(self, act: Callable[[Thing], Made], things: Iterable[Thing], /) -> Iterable[Made]:
        """What is made of each, in order."""


def in_processes(act: Callable[[Thing], Made], things: Iterable[Thing]) -> list[Made]:
    """What `act` makes of each thing, in order. Anything that another process failed at is done here.

    Only for a process without other threads. What is made must be picklable.
    """
    todo = list(things)
    shares = max(min(os.cpu_count() or 1, len(todo)), 1)
    others = [_started(act, todo[number::shares]) for number in range(1, shares)]
    made: list[Any] = [None] * len(todo)
    made[::shares] = [act(thing) for thing in todo[::shares]]
    for number, (process, pipe) in enumerate(others, start=1):
        theirs = _finished(process, pipe)
        share = todo[number::shares]
        made[number::shares] = theirs if len(theirs) == len(share) else [act(thing) for thing in share]
    return made


def _started(act: Callable[[Thing], Made], things: list[Thing]) -> tuple[int, int]:
    """A forked process that does its share and the pipe that it answers by."""
    answer, told = os.pipe()
    process = os.fork()
    if process:
        os.close(told)
        return process, answer
    try:
        with os.fdopen(told, "wb") as pipe:
            pickle.dump([act(thing) for thing in things], pipe, pickle.HIGHEST_PROTOCOL)
    finally:
        os._exit(0)


def _finished(process: int, answer: int) -> list[Any]:
    with os.fdopen(answer, "rb") as pipe:
        data = pipe.read()
    os.waitpid(process, 0)
    try:
        return list(pickle.loads(data))
    except (pickle.UnpicklingError, EOFError):
        return []
