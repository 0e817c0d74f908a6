"""Runs as they are stored, read for a comparison: a thousand of them in a few queries."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.groups import value_of
from coombe_core.comparing.state import State
from coombe_core.fitting.ramp_pool import LaunchRamps
from coombe_core.fitting.torque_ramp import LAUNCH_RAMPS
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import DISTANCES_M, Measure
from coombe_core.timing.results import Measured
from coombe_core.uncertainty import Value
from coombe_core.units import KMH_MPS, MPH_MPS
from runs.models import Flag, Run, Split
from runs.models import Measured as MeasuredRow
from runs.states import states_of

PEAK = "peak_power_kw"  # what stands for the field of a measure where peak power is compared
# What is read of the compared runs, of which there may be a thousand: ramps only where a clock rests on them.
NEEDED = (
    *("log", "setup", "course", "kind", "start_utc", "start_s", "complete", "validity", "void_reason", "decided"),
    *("receiver", "direction", "heading_deg", "slope_percent", "slope_u95_percent", "rollout_s", "rollout_u95_s"),
    *("charge_before_percent", "charge_after_percent", "battery_temp_before_c", "outside_temp_c", "pressure_hpa"),
    *("humidity_percent", "wind_mps", "wind_from_deg", "occupants", "load_kg", "noise_mps"),
    *("peak_acceleration_g", "peak_acceleration_u95_g"),
)


@dataclass(frozen=True)
class StoredRun:
    """A run from the database as the core's comparison takes it; `same_as` is the run of its pass that counts.

    `passed` is when it passed the speeds (m/s) of its splits, on the clock and in the unit that are asked about;
    `date_known` and `rate_hz` are its log's.
    """

    run: Run
    state: State
    measures: list[Measured]
    passed: Mapping[float, float]
    flags: Sequence[Flag]
    date_known: bool
    rate_hz: float
    same_as: int | None = None
    peak_kw: float | None = None

    def value(self, measure: Measure, clock: Clock, field: str) -> Value | None:
        """A field of its measure; of the peak power, whose error nobody knows, without one."""
        if field != PEAK:
            return value_of(self, measure, clock, field)
        return None if self.peak_kw is None else Value(self.peak_kw, 0.0)

    def passed_s(self, clock: Clock, unit: str) -> Mapping[float, float]:
        """When it passed the speeds of its splits; they were read for the clock and unit of the question."""
        return self.passed

    @property
    def launch_ramps(self) -> LaunchRamps | None:
        """What the run says of the torque ramp; None of a run timed by a core that knew other ramps, or none."""
        ramps = self.run.launch_ramps
        if not ramps or len(ramps["weights"]) != LAUNCH_RAMPS.prior.size:
            return None
        return LaunchRamps(*(np.array(ramps[name]) for name in ("weights", "later_s")))


def load(keys: Collection[int], measure: Measure, clock: Clock, parted: bool) -> dict[int, StoredRun]:
    """Those of the runs that are there, with what the measure needs, splits where it is to be `parted` by speed.

    Rows are read apart, and as plain values.
    """
    ramps = ("launch_ramps",) if clock == "first_movement" else ()
    chosen = Run.objects.filter(pk__in=keys)
    runs = chosen.only(*NEEDED, *ramps).prefetch_related("setup__car", "course")
    states, passed = states_of(chosen), _passed(keys, measure, clock) if parted else {}
    names = [measure.name, *(DISTANCES_M if measure.basis == "distance" else ())]
    measured = MeasuredRow.to_core_many(MeasuredRow.objects.filter(run__in=keys, name__in=names, clock=clock))
    logs = {row[0]: row[1:] for row in chosen.order_by().values_list("pk", "log__date_known", "log__rate_hz")}
    flags: dict[int, list[Flag]] = defaultdict(list)
    for flag in Flag.objects.filter(run__in=keys).only("run", "code", "severity", "excludes", "since_s"):
        flags[flag.run_id].append(flag)
    return {
        run.pk: StoredRun(
            run, states[run.pk], measured.get(run.pk, []), passed.get(run.pk, {}), flags.get(run.pk, []), *logs[run.pk]
        )
        for run in runs
        if run.pk in states and run.pk in logs
    }


def _passed(keys: Collection[int], measure: Measure, clock: Clock) -> dict[int, dict[float, float]]:
    """When each run passed the speeds of its splits, in the unit that the measure's bands are in; a stop has none."""
    if measure.basis == "stop":
        return {}
    unit, unit_mps = ("mph", MPH_MPS) if measure.name.endswith("mph") else ("km/h", KMH_MPS)
    at = "rollout_s" if clock == "rollout" else "first_movement_s"
    rows = Split.objects.filter(run__in=keys, unit=unit, **{f"{at}__isnull": False}).order_by()
    if measure.basis == "speed":  # what lies outside is never looked at
        rows = rows.filter(speed__range=(measure.from_mps / unit_mps - 0.5, measure.to_mps / unit_mps + 0.5))
    found: dict[int, dict[float, float]] = defaultdict(dict)
    for run, speed, at_s in rows.values_list("run_id", "speed", at):
        found[run][speed * unit_mps] = at_s
    return found
