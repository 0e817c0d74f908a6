"""Logs that came in, the runs found in them, and what was measured."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from cars.models import SetUp
from coombe_core.formats.delimited import MEANINGS
from coombe_core.timing.measures import Measure
from coombe_core.timing.results import QUANTITIES
from coombe_core.timing.results import Measured as CoreMeasured
from coombe_core.timing.splits import Split as CoreSplit
from coombe_core.uncertainty import Value
from runs.conditions import RANGES, Conditions


class RunKind(models.TextChoices):
    """What kind of run it is."""

    STANDING = "standing", "standing start"
    ROLLING = "rolling", "roll-on"
    STOP = "stop", "stop"


class Validity(models.TextChoices):
    """Whether a run counts; a void run is kept, and out of every statistic."""

    VALID = "valid"
    VOID = "void"


class VoidReason(models.TextChoices):
    """Why a run was voided."""

    JUMPED = "jumped"
    LIFTED = "lifted early"
    SPUN = "wheel spin"
    RECEIVER = "receiver moved"
    TRAFFIC = "traffic"
    GAP = "gap in the fix"
    CONDITIONS = "wrong conditions"
    OTHER = "other"


class Severity(models.TextChoices):
    """How heavy a flag is."""

    VOID = "void"
    CAUTION = "caution"
    NOTE = "note"


class ClockName(models.TextChoices):
    """Where a measure's time starts."""

    FIRST_MOVEMENT = "first_movement"
    ROLLOUT = "rollout"
    SPEED = "speed"


class Log(models.Model):
    """One log, uploaded or recorded: its bytes lie in the store under `sha256`, unchanged.

    While it is being recorded it has no hash, and its bytes lie in the recorder's spool.
    """

    sha256 = models.CharField(max_length=64, unique=True, null=True)  # noqa: DJ001 - two logs may lack it
    name = models.CharField(max_length=255)
    size_bytes = models.PositiveBigIntegerField()
    format = models.CharField(max_length=12)
    fixes = models.PositiveIntegerField()
    rejected = models.PositiveIntegerField()
    rate_hz = models.FloatField()
    start_utc = models.DateTimeField()
    date_known = models.BooleanField(default=True)
    duration_s = models.FloatField()
    core_version = models.CharField(max_length=20)
    imported_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="logs")
    imported_at = models.DateTimeField(auto_now_add=True)

    MADE_BY = "imported_by"

    class Meta:
        ordering = ["-imported_at", "-id"]

    def __str__(self) -> str:
        return self.name


class BusRecord(models.Model):
    """The CAN log that goes with a log, kept like it, and how its clock lies to the receiver's."""

    log = models.OneToOneField(Log, on_delete=models.CASCADE, related_name="bus")
    sha256 = models.CharField(max_length=64)
    name = models.CharField(max_length=255)
    size_bytes = models.PositiveBigIntegerField()
    format = models.CharField(max_length=12)
    rejected = models.PositiveIntegerField()
    offset_s = models.FloatField(help_text="what to add to its clock for seconds after the log's first fix")
    offset_u95_s = models.FloatField()
    over_reading = models.FloatField(help_text="the dashboard's speed is the true speed times this")
    dbc = models.TextField(blank=True, help_text="what decodes it; Coombe's own where empty")


class Rejection(models.Model):
    """A line of a log that was left out."""

    MOST_KEPT = 200

    log = models.ForeignKey(Log, on_delete=models.CASCADE, related_name="rejections")
    line = models.PositiveBigIntegerField()
    reason = models.CharField(max_length=200)

    class Meta:
        ordering = ["line", "id"]


class UntimedRun(models.Model):
    """A run that was found in a log and could not be timed, with the reason: nothing vanishes."""

    log = models.ForeignKey(Log, on_delete=models.CASCADE, related_name="untimed")
    kind = models.CharField(max_length=10, choices=RunKind.choices)
    start_s = models.FloatField(help_text="seconds after the log's first fix")
    reason = models.CharField(max_length=200)

    class Meta:
        ordering = ["start_s"]


class TableLayout(models.Model):
    """What the headings of a table of fixes mean, remembered for every file with the same headings."""

    headings_sha256 = models.CharField(max_length=64, unique=True)
    named_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="table_layouts")
    named_at = models.DateTimeField(auto_now=True)


class TableColumn(models.Model):
    """One heading of a layout and the name that Coombe knows for it."""

    layout = models.ForeignKey(TableLayout, on_delete=models.CASCADE, related_name="columns")
    heading = models.CharField(max_length=120)
    meaning = models.CharField(max_length=24, choices=[(name, name) for name in MEANINGS])

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["layout", "heading"], name="heading_once_a_layout")]


class Run(Conditions):
    """One run of a log. Measures, splits, flags and curve come out of the core and can be computed again."""

    log = models.ForeignKey(Log, on_delete=models.CASCADE, related_name="runs")
    set_up = models.ForeignKey(SetUp, on_delete=models.PROTECT, related_name="runs")
    kind = models.CharField(max_length=10, choices=RunKind.choices)
    start_utc = models.DateTimeField(db_index=True)
    start_s = models.FloatField(help_text="seconds after the log's first fix")
    complete = models.BooleanField()
    slope_percent = models.FloatField(null=True)
    slope_u95_percent = models.FloatField(null=True)
    peak_acceleration_g = models.FloatField()
    peak_acceleration_u95_g = models.FloatField()
    mean_acceleration_g = models.FloatField(null=True)
    mean_acceleration_u95_g = models.FloatField(null=True)
    rollout_s = models.FloatField(null=True)
    rollout_u95_s = models.FloatField(null=True)
    heading_deg = models.FloatField(null=True)
    noise_mps = models.FloatField()
    launch_ramps = models.JSONField(null=True, help_text="weight of every torque ramp, and its first movement")
    validity = models.CharField(max_length=6, choices=Validity.choices, default=Validity.VALID)
    decided = models.BooleanField(default=False, help_text="a person kept or voided it")
    void_reason = models.CharField(max_length=20, choices=VoidReason.choices, blank=True)
    void_note = models.CharField(max_length=300, blank=True)
    timed_at = models.DateTimeField(default=timezone.now)
    timed_with = models.CharField(max_length=20, blank=True, help_text="version of the core")
    rests_on = models.CharField(max_length=32, blank=True, help_text="digest of what its results were computed from")
    stale = models.BooleanField(default=False, db_index=True, help_text="what it rests on has changed")
    retiming_trouble = models.CharField(max_length=300, blank=True, help_text="why it could not be timed again")
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["-start_utc", "-id"]
        constraints = [
            models.UniqueConstraint(fields=["log", "start_s"], name="run_once_a_log"),
            models.CheckConstraint(condition=models.Q(validity__in=Validity.values), name="run_validity_known"),
            models.CheckConstraint(
                condition=models.Q(validity=Validity.VALID) | ~models.Q(void_reason=""), name="run_void_has_reason"
            ),
            *(
                models.CheckConstraint(
                    condition=models.Q(**{f"{name}__isnull": True}) | models.Q(**{f"{name}__range": limits}),
                    name=f"run_{name}_in_range",
                )
                for name, limits in RANGES.items()
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.start_utc:%Y-%m-%d %H:%M:%S}"

    @property
    def counts(self) -> bool:
        """Whether the run may stand in a comparison: complete, valid, and no void flag that nobody decided on."""
        proposed = any(flag.severity == Severity.VOID for flag in self.flags.all())
        return self.complete and self.validity == Validity.VALID and (self.decided or not proposed)

    def excluded_by(self, measure: Measure) -> Flag | None:
        """The flag that keeps this run out of a measure from rest, unless a person has kept the run."""
        if self.decided or not measure.from_rest:
            return None
        return next((flag for flag in self.flags.all() if flag.excludes), None)


class RunTrace(models.Model):
    """A run's fixes, its fitted curve and CAN data, each as one Parquet blob."""

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="trace")
    fixes = models.BinaryField()
    curve = models.BinaryField()
    bus = models.BinaryField(null=True)


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

    def to_core(self) -> CoreMeasured:
        """The same measure as the core knows it."""
        values = {name: value_of(getattr(self, name), getattr(self, u95_name(name))) for name in QUANTITIES}
        return CoreMeasured(self.name, self.clock, **values)  # type: ignore[arg-type]


def u95_name(quantity: str) -> str:
    """`time_s` -> `time_u95_s`: the unit stays last."""
    stem, unit = quantity.rsplit("_", 1)
    return f"{stem}_u95_{unit}"


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


class Flag(models.Model):
    """Something about a run that a person should know."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="flags")
    code = models.CharField(max_length=40)
    severity = models.CharField(max_length=8, choices=Severity.choices)
    message = models.CharField(max_length=300)
    since_s = models.FloatField(null=True, help_text="where it happened, after first movement or brake onset")
    excludes = models.CharField(max_length=12, blank=True, help_text="the measures that it keeps out of comparisons")

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["run", "code"], name="flag_once_a_run")]


class Edit(models.Model):
    """A later change of what was written about a run: who, when, and what it was before."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="edits")
    field = models.CharField(max_length=40)
    old_value = models.TextField(blank=True)
    new_value = models.TextField(blank=True)
    edited_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="edits")
    edited_at = models.DateTimeField(auto_now_add=True)
    revision = models.PositiveIntegerField(default=0, help_text="of the run, once it was changed")

    class Meta:
        ordering = ["-edited_at", "-id"]


class Attachment(models.Model):
    """A photograph or PDF that goes with a run, stripped of where it was made; its bytes lie in the store."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="attachments")
    name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64)
    size_bytes = models.PositiveIntegerField()
    media_type = models.CharField(max_length=40)
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="attachments")
    added_at = models.DateTimeField(auto_now_add=True)

    MADE_BY = "added_by"

    class Meta:
        ordering = ["added_at", "id"]
