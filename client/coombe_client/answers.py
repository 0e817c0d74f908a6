"""What Coombe answers, as far as most programs need it: SI units, times in UTC as ISO 8601 text."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Any, TypeVar

Answer = TypeVar("Answer")


def of(kind: type[Answer], found: Mapping[str, Any], **more: Any) -> Answer:
    """One of the classes below from what was answered; what it does not name is left out."""
    names = {field.name for field in fields(kind)}  # type: ignore[arg-type]
    return kind(**{name: found[name] for name in names & set(found)} | more)


@dataclass(frozen=True)
class Car:
    """A test car."""

    id: int
    name: str
    revision: int


@dataclass(frozen=True)
class Setup:
    """A state of a car that runs are made on."""

    id: int
    car: int
    name: str
    since: str
    run_count: int
    revision: int


@dataclass(frozen=True)
class Upload:
    """A log that was sent, and how far it is: `waiting`, `timing`, `done`, `refused` or `canceled`."""

    id: int
    name: str
    state: str
    runs_found: int
    runs_timed: int
    already: bool
    log: int | None
    refusal: str | None
    path: Path | None = None

    @property
    def ended(self) -> bool:
        """Whether nothing more will become of it."""
        return self.state not in ("waiting", "timing")


@dataclass(frozen=True)
class Measured:
    """A measure of a run on one clock; the half-width of its 95 % interval is `time_u95_s`."""

    name: str
    clock: str
    time_s: float | None
    time_u95_s: float | None
    distance_m: float | None
    line_speed_mps: float | None


@dataclass(frozen=True)
class Run:
    """A run as it stands in the list."""

    id: int
    car_name: str
    setup_name: str
    kind: str
    start_utc: str
    validity: str
    counts: bool
    charge_before_percent: float | None
    battery_temp_before_c: float | None
    revision: int
    headlines: tuple[Measured, ...]

    def measured(self, name: str, clock: str) -> Measured | None:
        """One of its headlines; others are at `/runs/{id}/measure/`."""
        return next((each for each in self.headlines if (each.name, each.clock) == (name, clock)), None)


@dataclass(frozen=True)
class Difference:
    """A difference between two groups with its 95 % interval."""

    value: float
    low95: float
    high95: float


@dataclass(frozen=True)
class Verdict:
    """One group against the first, in a word and in a sentence."""

    verdict: str
    sentence: str
    unit: str
    difference: Difference | None


@dataclass(frozen=True)
class Comparison:
    """A saved comparison."""

    id: int
    title: str
    measure: str
    clock: str
    verdicts: tuple[Verdict, ...]
