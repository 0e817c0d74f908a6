"""From timed runs to a group's values: one quantity, one clock, and the runs that have it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from coombe_core.comparing.breakdown import Timed, edge_times, speed_times
from coombe_core.comparing.comparison import Group, Quantity
from coombe_core.comparing.state import State
from coombe_core.fitting.ramp_pool import LaunchRamps, RampPool
from coombe_core.fitting.torque_ramp import LAUNCH_RAMPS
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import Measure
from coombe_core.timing.results import Measured
from coombe_core.uncertainty import Value


class NoSuchQuantityError(ValueError):
    """A quantity or clock that the measure does not have; its text is a sentence."""


class RunLike(Timed, Protocol):
    """What a run offers to a comparison, be it fresh from a log or read from the database."""

    @property
    def launch_ramps(self) -> LaunchRamps | None: ...


FIELDS: dict[Quantity, str] = {"time": "time_s", "line_speed": "line_speed_mps", "trap_speed": "trap_speed_mps"}


def shared_quantity(quantity: Quantity, runs: Sequence[RunLike], measure: Measure, clock: Clock) -> str:
    """Name the field of Measured to compare.

    Parameters
    ----------
    quantity : Quantity
    runs : sequence of RunLike
        A stop's distance is from brake onset where every run has it.
    measure : Measure
    clock : Clock

    Returns
    -------
    str

    Raises
    ------
    NoSuchQuantityError
        Where the measure has no such clock, or nothing of that kind.
    """
    if clock not in measure.clocks:
        raise NoSuchQuantityError(f"{measure.name} has no clock {clock}; it runs on {' or '.join(measure.clocks)}")
    if quantity == "distance":
        if measure.basis == "distance":
            raise NoSuchQuantityError(f"{measure.name} is a distance; compare its time or a speed")
        rows = [row for row in (_row(run, measure, clock) for run in runs) if row]
        return "onset_distance_m" if rows and all(row.onset_distance_m for row in rows) else "distance_m"
    if quantity != "time" and measure.basis != "distance":
        raise NoSuchQuantityError(
            f"{measure.name} has no {quantity.replace('_', ' ')}; only a distance such as 1/4 mile has"
        )
    return FIELDS[quantity]


def group_of_runs(
    runs: Sequence[RunLike],
    measure: Measure,
    clock: Clock,
    field: str,
    pool: RampPool | None = None,
    states: Sequence[State] = (),
) -> Group:
    """Make a group of those runs that have the measure and the quantity.

    Times from first movement are put on one torque ramp, pooled over the group, whose doubt the group then carries.

    Parameters
    ----------
    runs : sequence of RunLike
    measure : Measure
    clock : Clock
    field : str
        Of Measured, as `shared_quantity` names it.
    pool : RampPool, optional
        Over both groups of one setup: it leaves no doubt in their difference.
    states : sequence of State
        One per run; those of runs that drop out drop out too.

    Returns
    -------
    Group
    """
    values = [value_of(run, measure, clock, field) for run in runs]
    with_value = [(run, value.value) for run, value in zip(runs, values, strict=True) if value]
    noted = [state for state, value in zip(states, values, strict=False) if value]
    timed = [run for run, _ in with_value] if field == "time_s" else []
    edges = [edge_times(measure, clock, run) for run in timed]
    speeds = [speed_times(measure, clock, run) for run in timed]
    group = Group([value for _, value in with_value], edges, 0.0, noted, speeds)
    if clock != "first_movement" or field != "time_s":
        return group
    ramps = [run.launch_ramps for run, _ in with_value]
    known = [each for each in ramps if each]
    if not known or len(known) < len(ramps):
        return group
    return _on_one_ramp(group, known, pool)


def _on_one_ramp(group: Group, ramps: Sequence[LaunchRamps], pool: RampPool | None) -> Group:
    shared = pool or RampPool.of(ramps, LAUNCH_RAMPS.prior)
    longer_s = [shared.longer_s(each) for each in ramps]
    return Group(
        [value + by_s for value, by_s in zip(group.values, longer_s, strict=True)],
        [each.with_zero_earlier(by_s) for each, by_s in zip(group.edges, longer_s, strict=True)],
        0.0 if pool else shared.u95_s(ramps),
        group.states,
        [each.with_zero_earlier(by_s) for each, by_s in zip(group.speed_edges, longer_s, strict=True)],
    )


def value_of(run: RunLike, measure: Measure, clock: Clock, field: str) -> Value | None:
    """One run's value of the quantity, or None."""
    row = _row(run, measure, clock)
    value: Value | None = getattr(row, field) if row else None
    return value


def _row(run: RunLike, measure: Measure, clock: Clock) -> Measured | None:
    return next((row for row in run.measures if row.name == measure.name and row.clock == clock), None)
