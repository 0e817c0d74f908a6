"""The runs that a group can be chosen from: what filters leave, how fast they were, and what each filter offers."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from coombe_core.timing.measures import Measure
from courses.zones import local
from runs.models import Measured, Run, RunKind, Validity

MOST_DRAWN = 2000  # values, the latest; said where there are more
FIELDS = (
    *("id", "start_utc", "drive_mode", "direction", "launch_aid", "charge_before_percent", "battery_temp_before_c"),
    *("validity", "setup_id", "setup__name", "setup__car__name", "setup__tire_season", "setup__tire_size"),
    *("course_id", "course__name", "course__time_zone"),
)
# The field of Measured that shows a run's value of a quantity; that of a stop is from brake onset where it is known.
SHOWN = {"distance": "distance_m", "line_speed": "line_speed_mps", "trap_speed": "trap_speed_mps"}

Row = Mapping[str, Any]
Of = Callable[[Row], str]


def _day(row: Row) -> str:
    return str(local(row["start_utc"], row["course__time_zone"]).date())


def _launch_aid(row: Row) -> str:
    return "" if row["launch_aid"] is None else "on" if row["launch_aid"] else "off"


def _tires(row: Row) -> str:
    return f"{row['setup__tire_season']} {row['setup__tire_size']}".strip()


# What can be filtered by: the word of a run, and how that is shown where it is a number.
WORDS: Mapping[str, tuple[Of, Of]] = {
    "setup": (lambda row: str(row["setup_id"]), lambda row: f"{row['setup__car__name']}: {row['setup__name']}"),
    "day": (_day, _day),
    "drive_mode": (lambda row: row["drive_mode"], lambda row: row["drive_mode"]),
    "direction": (lambda row: row["direction"], lambda row: row["direction"]),
    "launch_aid": (_launch_aid, _launch_aid),
    "tires": (_tires, _tires),
    "course": (lambda row: str(row["course_id"] or ""), lambda row: row["course__name"] or ""),
}
BANDS = {"charge": "charge_before_percent", "battery": "battery_temp_before_c"}


@dataclass(frozen=True)
class Filter:
    """What runs have to be: the words by name, and bands from low to high, one end of which may be open."""

    words: Mapping[str, str]
    bands: Mapping[str, tuple[float | None, float | None]]

    def leaves(self, row: Row, but: str = "") -> bool:
        """Whether a run passes all of them, `but` for one of the words."""
        for name, word in self.words.items():
            if name != but and WORDS[name][0](row) != word:
                return False
        return all(_within(row[BANDS[name]], *ends) for name, ends in self.bands.items())


def _within(value: float | None, low: float | None, high: float | None) -> bool:
    return value is not None and (low is None or value >= low) and (high is None or value <= high)


@dataclass(frozen=True)
class Offer:
    """A word that a filter offers, how it is shown, and how many of the runs that the other filters leave have it."""

    word: str
    name: str
    count: int


@dataclass(frozen=True)
class Candidate:
    """A run that the filters leave, with its value of the quantity; None where it has none."""

    id: int
    setup: int
    value: float | None


@dataclass(frozen=True)
class Candidates:
    """How many runs there are and how many the filters leave, the latest of these with their values, and the offers."""

    of: int
    ids: Sequence[int]
    drawn: Sequence[Candidate]
    offers: Mapping[str, Sequence[Offer]]


def candidates(measure: Measure, clock: str, quantity: str, car: int | None, asked: Filter) -> Candidates:
    """Look through the runs of a kind, of one car or of all, the latest first. Void ones are none."""
    runs = Run.objects.exclude(validity=Validity.VOID).order_by("-start_utc", "-id")
    runs = runs.filter(kind=RunKind.STOP) if measure.basis == "stop" else runs.exclude(kind=RunKind.STOP)
    if car is not None:
        runs = runs.filter(setup__car=car)
    rows = list(runs.values(*FIELDS))
    left = [row for row in rows if asked.leaves(row)]
    values = _values([row["id"] for row in left[:MOST_DRAWN]], measure, clock, quantity)
    return Candidates(
        of=len(rows),
        ids=[row["id"] for row in left],
        drawn=[Candidate(row["id"], row["setup_id"], values.get(row["id"])) for row in left[:MOST_DRAWN]],
        offers={
            name: _offers([row for row in rows if asked.leaves(row, but=name)] if name in asked.words else left, name)
            for name in WORDS
        },
    )


def _offers(rows: Sequence[Row], name: str) -> list[Offer]:
    word_of, name_of = WORDS[name]
    words = [word_of(row) for row in rows]
    counts = Counter(words)
    latest = dict(zip(reversed(words), reversed(rows), strict=True))
    offers = [Offer(word, name_of(latest[word]), count) for word, count in counts.items() if word]
    return sorted(offers, key=lambda offer: offer.name)


def _values(runs: Sequence[int], measure: Measure, clock: str, quantity: str) -> dict[int, float]:
    field = SHOWN.get(quantity, "time_s")
    rows = Measured.objects.filter(run__in=runs, name=measure.name, clock=clock, **{f"{field}__isnull": False})
    return dict(rows.order_by().values_list("run_id", field))
