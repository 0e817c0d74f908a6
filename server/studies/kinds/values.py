"""What the kinds share: the axis of the measure, names before sentences, and points."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from studies.choosing import Chosen, Picked
from studies.showing import Axis, Point

CLOCKS = {"first_movement": "first movement", "rollout": "rollout", "speed": ""}


def axis_of(chosen: Chosen) -> Axis:
    """What is looked at of every run."""
    asked = chosen.asked
    clock = CLOCKS[asked.clock]
    label = f"{asked.measure.name}, {clock}" if clock else asked.measure.name
    return Axis(label, asked.quantity, "m" if asked.quantity == "distance" else "s")


def named(names: Sequence[str], place: int, sentence: str) -> str:
    """A sentence of a series, with its name where there are several."""
    return f"{names[place]}: {sentence}" if len(names) > 1 else sentence


def values_of(runs: Iterable[Picked]) -> list[float]:
    """The values of runs that count."""
    return [picked.value.value for picked in runs if picked.value]


def point(x: float, picked: Picked, label: str = "") -> Point:
    """A run's value at a place."""
    value = picked.value
    assert value
    return Point(x, value.value, value.u95, picked.run.pk, label)
