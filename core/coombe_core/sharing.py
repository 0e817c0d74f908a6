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
    shares = _shares(len(todo), os.cpu_count() or 1)
    others = [_started(act, [todo[place] for place in share]) for share in shares[1:]]
    made: list[Any] = [None] * len(todo)
    for place in shares[0] if shares else ():
        made[place] = act(todo[place])
    for share, (process, pipe) in zip(shares[1:], others, strict=True):
        theirs = _finished(process, pipe)
        whole = theirs if len(theirs) == len(share) else [act(todo[place]) for place in share]
        for place, one in zip(share, whole, strict=True):
            made[place] = one
    return made


def _shares(count: int, processes: int) -> list[list[int]]:
    """Places for every process, dealt there and back: a log's pulls and stops take turns, and pulls take longer."""
    turns = [*range(processes), *reversed(range(processes))]
    shares = [[place for place in range(count) if turns[place % len(turns)] == number] for number in range(processes)]
    return [share for share in shares if share]


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
