"""Which runs a study takes: those that its series' rules pick, but for those that do not count and say why."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import cached_property

from django.db.models import QuerySet

from cars.models import Car, Setup
from comparisons.gathering import AskedGroup, Gathered, Question, barred, gather
from comparisons.loading import StoredRun
from coombe_core.comparing.comparison import Known, Quantity
from coombe_core.comparing.groups import value_of
from coombe_core.comparing.state import State
from coombe_core.timing.measures import Measure
from coombe_core.uncertainty import Value
from learning.known import known_of
from runs.filters import within_days
from runs.models import Run, RunKind
from studies.models import StudyKind

MOST_RUNS = 500  # of a series, the latest; said where there are more
STOPS = (StudyKind.BRAKING, StudyKind.TIRES)


@dataclass(frozen=True)
class Rule:
    """What picks the runs of a series."""

    name: str
    car: Car
    setup: Setup | None = None
    from_day: date | None = None
    to_day: date | None = None
    drive_mode: str = ""
    receiver: str = ""
    direction: str = ""

    def runs(self, kind: RunKind) -> QuerySet[Run]:
        """The runs of a kind that fit, the latest first."""
        runs = Run.objects.filter(setup__car=self.car, kind=kind)
        if self.setup:
            runs = runs.filter(setup=self.setup)
        for name in ("drive_mode", "receiver", "direction"):
            if wanted := getattr(self, name):
                runs = runs.filter(**{name: wanted})
        if self.from_day or self.to_day:
            runs = runs.filter(within_days(self.from_day, self.to_day))
        return runs.order_by("-start_utc", "-id")


@dataclass(frozen=True)
class Asked:
    """A study as it is asked: what, of which series, and which runs are left out, with the reason."""

    kind: StudyKind
    measure: Measure
    clock: str
    rules: Sequence[Rule]
    left_out: Mapping[int, str] = field(default_factory=dict)

    @property
    def quantity(self) -> Quantity:
        """What is looked at of a run."""
        return "distance" if self.measure.basis == "stop" else "time"

    @property
    def run_kind(self) -> RunKind:
        """The kind of run that has the measure."""
        if self.measure.basis == "stop":
            return RunKind.STOP
        return RunKind.STANDING if self.measure.from_rest else RunKind.ROLLING


@dataclass(frozen=True)
class Picked:
    """A run of a series with its value; `dropped` is why it does not count, empty where it does."""

    stored: StoredRun
    value: Value | None
    dropped: str = ""

    @property
    def run(self) -> Run:
        """The run."""
        return self.stored.run

    @property
    def state(self) -> State:
        """What was noted of it."""
        return self.stored.state


@dataclass(frozen=True)
class Chosen:
    """The series of a study with their runs, in the order of driving."""

    asked: Asked
    gathered: Gathered
    series: Sequence[Sequence[Picked]]
    cautions: Sequence[str]

    def counting(self, place: int) -> list[Picked]:
        """The runs of a series that count."""
        return [picked for picked in self.series[place] if not picked.dropped and picked.value]

    @cached_property
    def known(self) -> Known:
        """What is known of the car that all runs are of, or of the physics of several."""
        rows = [picked for place in range(len(self.series)) for picked in self.counting(place)]
        question = self.gathered.question
        return known_of(
            [row.run for row in rows],
            [row.state for row in rows],
            question.measure,
            question.clock,
            self.gathered.field,
        )


def choose(asked: Asked) -> Chosen:
    """Pick the runs. Raises ValueError with a sentence where measure and clock do not fit."""
    cautions: list[str] = []
    groups = []
    for rule in asked.rules:
        runs = list(rule.runs(asked.run_kind).values_list("pk", flat=True)[: MOST_RUNS + 1])
        if len(runs) > MOST_RUNS:
            cautions.append(f"{rule.name}: only the latest {MOST_RUNS} runs are taken. Name days to choose others.")
        groups.append(AskedGroup(rule.name, runs[:MOST_RUNS]))
    question = Question(asked.measure, asked.clock, asked.quantity, groups, parted=False)  # type: ignore[arg-type]
    gathered = gather(question)
    picked = [[_picked(row, asked, gathered) for row in stored] for stored in gathered.stored]
    series = [sorted(rows, key=lambda each: each.run.start_utc) for rows in picked]
    return Chosen(asked, gathered, series, cautions)


def _picked(row: StoredRun, asked: Asked, gathered: Gathered) -> Picked:
    value = value_of(row, asked.measure, gathered.question.clock, gathered.field)
    left_out = asked.left_out.get(row.run.pk)
    dropped = f"left out: {left_out}" if left_out else barred(row, asked.measure, gathered.question.clock)
    if not dropped and value is None:
        dropped = f"did not reach {asked.measure.name}"
    return Picked(row, value, dropped)
