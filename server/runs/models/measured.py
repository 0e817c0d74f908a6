"""What was measured of runs: measures and splits, each value with its u95."""

from __future__ import annotations

from django.db import models

from coombe_core.timing.results import QUANTITIES
from coombe_core.timing.results import Measured as CoreMeasured
from coombe_core.timing.splits import Split as CoreSplit
from coombe_core.uncertainty import Value
from runs.models.choices import ClockName
from runs.models.runs import Run


class Measured(models.Model):
    """One measure of one run on one clock, each value with its u95. Names as in the core."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="measured")
    name = models.CharField(max_length=24)
    clock = models.CharField(max_length=16, choices=ClockName.choices)
    time_s = models.FloatField(null=True)
    time_u95_s = models.FloatField(null=True)
    distance_m = models.FloatField(null=True)
    distance_u95_m = models.FloatField(null=True)
    corrected_time_s = models.FloatField(null=True)
    corrected_time_u95_s = models.FloatField(null=True)
    line_speed_mps = models.FloatField(null=True)
    line_speed_u95_mps = models.FloatField(null=True)
    trap_speed_mps = models.FloatField(null=True)
    trap_speed_u95_mps = models.FloatField(null=True)
    onset_distance_m = models.FloatField(null=True)
    onset_distance_u95_m = models.FloatField(null=True)
    initial_speed_mps = models.FloatField(null=True)
    initial_speed_u95_mps = models.FloatField(null=True)
    mfdd_mps2 = models.FloatField(null=True)
    mfdd_u95_mps2 = models.FloatField(null=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["run", "name", "clock"], name="measured_once_a_clock")]
        indexes = [models.Index(fields=["name", "clock", "time_s"], name="measured_by_time")]

    @classmethod
    def of(cls, run: Run, row: CoreMeasured) -> Measured:
        """The row of a measure that the core gave."""
        made = cls(run=run, name=row.name, clock=row.clock)
        for quantity in QUANTITIES:
            value: Value | None = getattr(row, quantity)
            setattr(made, quantity, number(value))
            setattr(made, u95_name(quantity), u95(value))
        return made

    @staticmethod
    def to_core_many(rows: models.QuerySet[Measured]) -> dict[int, list[CoreMeasured]]:
        """Rows as the core knows them, by run; of thousands sooner than one by one."""
        found: dict[int, list[CoreMeasured]] = {}
        halves = [column for both in HALVES.items() for column in both]
        for run, name, clock, *columns in rows.order_by("id").values_list("run_id", "name", "clock", *halves):
            values = map(value_of, columns[::2], columns[1::2])
            found.setdefault(run, []).append(CoreMeasured(name, clock, **dict(zip(HALVES, values, strict=True))))
        return found

    def to_core(self) -> CoreMeasured:
        """The same measure as the core knows it."""
        values = {name: value_of(getattr(self, name), getattr(self, half)) for name, half in HALVES.items()}
        return CoreMeasured(self.name, self.clock, **values)  # type: ignore[arg-type]


def u95_name(quantity: str) -> str:
    """`time_s` -> `time_u95_s`: the unit stays last."""
    stem, unit = quantity.rsplit("_", 1)
    return f"{stem}_u95_{unit}"


HALVES = {name: u95_name(name) for name in QUANTITIES}


def number(value: Value | None) -> float | None:
    """A value's column."""
    return None if value is None else value.value


def u95(value: Value | None) -> float | None:
    """A value's u95 column."""
    return None if value is None else value.u95


def value_of(value: float | None, half: float | None) -> Value | None:
    """Two columns as one value."""
    return None if value is None or half is None else Value(value, half)


class Split(models.Model):
    """When a run reached a round speed, on both clocks, and how far it had come."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="split_rows")
    speed = models.PositiveSmallIntegerField()
    unit = models.CharField(max_length=4)
    first_movement_s = models.FloatField()
    first_movement_u95_s = models.FloatField()
    rollout_s = models.FloatField(null=True)
    rollout_u95_s = models.FloatField(null=True)
    distance_m = models.FloatField()
    distance_u95_m = models.FloatField()

    class Meta:
        ordering = ["unit", "speed"]
        constraints = [models.UniqueConstraint(fields=["run", "unit", "speed"], name="split_once")]

    @classmethod
    def of(cls, run: Run, split: CoreSplit) -> Split:
        """The row of a split that the core gave."""
        return cls(
            run=run,
            speed=split.speed,
            unit=split.unit,
            first_movement_s=split.first_movement_s.value,
            first_movement_u95_s=split.first_movement_s.u95,
            rollout_s=number(split.rollout_s),
            rollout_u95_s=u95(split.rollout_s),
            distance_m=split.distance_m.value,
            distance_u95_m=split.distance_m.u95,
        )

    def to_core(self) -> CoreSplit:
        """The same split as the core knows it."""
        first = Value(self.first_movement_s, self.first_movement_u95_s)
        way = Value(self.distance_m, self.distance_u95_m)
        return CoreSplit(self.speed, self.unit, first, value_of(self.rollout_s, self.rollout_u95_s), way)
