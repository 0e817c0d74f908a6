"""Comparing stored runs with the core."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from comparisons.models import ArmName
from coombe_core.columnar import unpack
from coombe_core.comparing.arms import arm_of_runs, shared_quantity, value_of
from coombe_core.comparing.likeness import State, likeness
from coombe_core.comparing.verdict import Quantity, compare
from coombe_core.report import comparison_json
from coombe_core.timing.measure import ROLLOUT_M, Clock, Measure, parse_measure
from coombe_core.timing.ramp_pool import LaunchRamps, RampPool
from coombe_core.timing.result import Measured
from coombe_core.timing.splits import Split
from runs.models import Run

OVERLAY_STEP_S = 0.1
Runs = Mapping[str, Sequence[Run]]


@dataclass(frozen=True)
class StoredRun:
    """A run from the database as the core's comparison takes it."""

    run: Run
    measures: list[Measured]
    splits: list[Split]

    @classmethod
    def of(cls, run: Run) -> StoredRun:
        """From prefetched rows."""
        return cls(run, [row.to_core() for row in run.measured.all()], [row.to_core() for row in run.split_rows.all()])

    @property
    def state(self) -> State:
        """What was written down before the run."""
        return State(self.run.charge_before_percent, self.run.pack_temp_before_c)

    @property
    def launch_ramps(self) -> LaunchRamps | None:
        """What the run says of the torque ramp; None of a run imported before that was kept."""
        ramps = self.run.launch_ramps
        return LaunchRamps(*(np.array(ramps[name]) for name in ("weights", "later_s"))) if ramps else None


def load_arms(ids: Mapping[str, Sequence[int]]) -> Runs:
    """The runs of both arms in the order asked for, with what a comparison needs."""
    wanted = [pk for arm in ids.values() for pk in arm]
    runs = Run.objects.select_related("set_up__car", "trace")
    found = {run.pk: run for run in runs.prefetch_related("measured", "split_rows", "flags").filter(pk__in=wanted)}
    return {arm: [found[pk] for pk in chosen if pk in found] for arm, chosen in ids.items()}


def compare_runs(measure_name: str, clock: Clock, quantity: Quantity, arms: Runs) -> dict[str, Any]:
    """The comparison's JSON as the command gives it, with each run's value or the reason why it dropped out.

    Raises ValueError with a sentence where the measure, the clock or the quantity does not fit.
    """
    measure = parse_measure(measure_name)
    stored = {arm: [StoredRun.of(run) for run in runs] for arm, runs in arms.items()}
    counting = {
        arm: [row for row in rows if row.run.counts and not row.run.excluded_by(measure)]
        for arm, rows in stored.items()
    }
    field = shared_quantity(quantity, [row for rows in counting.values() for row in rows], measure, clock)
    with_value = {arm: [row for row in rows if value_of(row, measure, clock, field)] for arm, rows in counting.items()}
    before, after = (with_value[arm] for arm in ArmName.values)
    pool = _one_pool([*before, *after])
    made = {arm: arm_of_runs(rows, measure, clock, field, pool) for arm, rows in with_value.items()}
    alike = likeness([row.state for row in before], [row.state for row in after])
    result = compare(measure, clock, made["before"], made["after"], quantity, alike)
    values = {
        row.run.pk: value for arm, rows in with_value.items() for row, value in zip(rows, made[arm].values, strict=True)
    }
    return comparison_json(result) | {
        "field": field,
        "runs": [_member(arm, row, measure, clock, field, values) for arm, rows in stored.items() for row in rows],
        "overlays": [_overlay(arm, row.run, measure, clock) for arm, rows in with_value.items() for row in rows],
    }


def _one_pool(rows: Sequence[StoredRun]) -> RampPool | None:
    """The torque ramp of all runs, where one set-up made them: its doubt then leaves the difference."""
    ramps = [row.launch_ramps for row in rows]
    known = [each for each in ramps if each]
    one = len({row.run.set_up_id for row in rows}) == 1
    return RampPool.of(known) if one and known and len(known) == len(ramps) else None


def _member(
    arm: str, row: StoredRun, measure: Measure, clock: Clock, field: str, values: Mapping[int, float]
) -> dict[str, Any]:
    value = value_of(row, measure, clock, field)
    run = row.run
    return {
        "id": run.pk,
        "arm": arm,
        "start_utc": run.start_utc,
        "set_up_name": run.set_up.name,
        "charge_before_percent": run.charge_before_percent,
        "pack_temp_before_c": run.pack_temp_before_c,
        "value": values.get(run.pk, value and value.value),
        "u95": value and value.u95,
        "dropped": _dropped(run, measure, value is not None),
    }


def _dropped(run: Run, measure: Measure, has_value: bool) -> str:
    if run.validity == "void":
        return f"void: {run.void_reason}"
    if not run.complete:
        return "not complete"
    if not run.counts:
        return "a flag proposes to void it; keep or void it first"
    if flag := run.excluded_by(measure):
        return f"{flag.code.replace('_', ' ')}: keep the run to admit it"
    return "" if has_value else f"did not reach {measure.name}"


def _overlay(arm: str, run: Run, measure: Measure, clock: Clock) -> dict[str, Any]:
    """The fitted speed of one run on the comparison's clock, thinned for the chart."""
    curve = unpack(bytes(run.trace.curve))
    since_s, speed, distance = curve["since_s"], curve["speed_mps"], curve["distance_m"]
    zero_s = float(np.interp(ROLLOUT_M, distance, since_s)) if clock == "rollout" else 0.0
    if clock == "speed" and measure.basis == "speed":
        zero_s = float(np.interp(measure.from_mps, speed, since_s))
    past = speed >= measure.to_mps if measure.basis == "speed" else distance >= measure.to_m
    end = int(np.argmax(past)) if past.any() and measure.basis != "stop" else since_s.size - 1
    at_s = np.arange(0.0, since_s[end] - zero_s + OVERLAY_STEP_S, OVERLAY_STEP_S)
    thinned = np.interp(at_s + zero_s, since_s, speed)
    return {"run": run.pk, "arm": arm, "since_s": at_s.round(3).tolist(), "speed_mps": thinned.round(3).tolist()}
