"""A test day as a timetable takes it, and the timetable that comes of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal, get_args

from coombe_core.learned import Learned

ASSUMED_HOTTEST_C = 50.0  # a car conditions its battery no further
ASSUMED_HEATER_KW = 6.0

StepKind = Literal["plug in", "start heating", "leave", "arrive", "first run", "window closes", "last run"]
KINDS: tuple[StepKind, ...] = get_args(StepKind)


@dataclass(frozen=True)
class Window:
    """The band of charge (%) and battery temperature (C) that a run may begin in."""

    low_charge_percent: float
    high_charge_percent: float
    low_temp_c: float
    high_temp_c: float


@dataclass(frozen=True)
class Day:
    """What a timetable starts from.

    `heater_kw` is drawn while heating, `climate_kw` from leaving to the first run; `course_charger_kw` is what a
    charger at the course gives, or None: with one the battery is held at temperature up to the first run.
    """

    first_run_at: datetime
    known_at: datetime
    charge_percent: float
    battery_temp_c: float
    outside_temp_c: float
    window: Window
    charger_kw: float
    drive_min: float
    drive_charge_percent: float
    prepare_min: float = 25.0
    runs_min: float = 60.0
    climate_kw: float = 0.0
    heater_kw: float = ASSUMED_HEATER_KW
    hottest_c: float = ASSUMED_HOTTEST_C
    course_charger_kw: float | None = None

    @property
    def leave_at(self) -> datetime:
        """When the car must leave the charger."""
        return self.first_run_at - timedelta(minutes=self.drive_min + self.prepare_min)

    @property
    def heated_until(self) -> datetime:
        """Until when the battery can be heated from a charger."""
        return self.leave_at if self.course_charger_kw is None else self.first_run_at

    @property
    def unheated_min(self) -> float:
        """Minutes between the end of heating and the first run."""
        return self.drive_min + self.prepare_min if self.course_charger_kw is None else 0.0


@dataclass(frozen=True)
class Ranged:
    """A median with the ends of its 95 % interval."""

    value: float
    low95: float
    high95: float


@dataclass(frozen=True)
class Step:
    """Something to do, or to happen, at an instant; `early` and `late` bound what is not ours to choose.

    `temp_c` is the battery temperature that heating reaches, or below which the window closes.
    """

    kind: StepKind
    at: datetime
    early: datetime | None
    late: datetime | None
    temp_c: float | None = None


@dataclass(frozen=True)
class Shortfall:
    """A part of the plan that can't be met: what will be at the first run, and what the window asks.

    `value` and `limit` are degrees C where the battery is too cold or too warm, percent of charge, or minutes that the
    window stays open; `until` is when a battery that is too warm has cooled.
    """

    what: Literal["too cold", "too warm", "charge", "open"]
    at: datetime
    value: float
    limit: float
    until: datetime | None = None


@dataclass(frozen=True)
class Remedy:
    """A change that meets the plan: a start at another time, a charger at the course, or fewer runs."""

    what: Literal["later first run", "earlier start", "charger at the course", "first runs only", "fewer runs"]
    at: datetime | None = None
    minutes: float = 0.0
    power_kw: float = 0.0


@dataclass(frozen=True)
class Caution:
    """Something to know beforehand: a battery that must cool to `value` (C), or charge (%) for climate control."""

    what: Literal["too warm to heat", "climate control"]
    value: float
    until: datetime | None = None


@dataclass(frozen=True)
class Timetable:
    """The day's steps, the state at the first run, how long the window stays open, and what can't be met and why.

    `chance` is how often the first run found the window, and found it open for long enough, over all draws. A remedy is
    one change or more that have to be made together. `cooling`, `heating` and `charging` are what it rests on.
    """

    steps: list[Step]
    battery_temp_c: Ranged
    charge_percent: Ranged
    open_min: Ranged
    chance: float
    shortfalls: list[Shortfall]
    remedies: list[tuple[Remedy, ...]]
    cautions: list[Caution]
    cooling: Learned
    heating: Learned
    charging: Learned

    @property
    def met(self) -> bool:
        """Whether more likely than not every part of the plan holds."""
        return not self.shortfalls
