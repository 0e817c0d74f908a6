"""The rest of a comparison's sheet: mean curves, who is ahead by how much, and what other measures say."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np

from comparisons.gathering import Gathered, Question, gather
from comparisons.services import known_of
from coombe_core.comparing.comparison import Group, Known
from coombe_core.comparing.curves import CAR_LENGTH_M, Axis, Drawn, MeanCurve, gap, leads, mean_curve, on_clock
from coombe_core.comparing.projections import Projection, TooFarError, at_condition, to_target
from coombe_core.comparing.statistics.layout import Floats
from coombe_core.comparing.statistics.multiple import holm
from coombe_core.comparing.statistics.power import ALPHA
from coombe_core.comparing.statistics.samples import mean_of
from coombe_core.comparing.verdict import weigh
from coombe_core.physics.road_load import RoadLoad
from coombe_core.units import KMH_MPS, MPH_MPS
from coombe_core.wording.curves import lead_sentence
from coombe_core.wording.projection import projection_basis
from runs.curves import decoded
from runs.models import Measured, Run, RunTrace
from runs.physics import road_load_of

LEAD_SPEEDS = tuple(speed * unit for unit in (KMH_MPS, MPH_MPS) for speed in (30, 50, 60, 100))
OVERLAYS: dict[str, tuple[Axis, Axis]] = {
    "speed_time": ("since_s", "speed_mps"),
    "speed_distance": ("distance_m", "speed_mps"),
    "acceleration_speed": ("speed_mps", "acceleration_mps2"),
}
OTHERS = (
    *("0-30 mph", "0-60 mph", "0-100 mph", "0-50 km/h", "0-100 km/h", "0-160 km/h", "0-200 km/h"),
    *("60 ft", "330 ft", "1/8 mile", "1/4 mile", "30-70 mph", "60-130 mph", "80-120 km/h", "100-200 km/h"),
)
LIFT_U95_S = 0.02  # of what was driven; the rest is the projection's
PROJECTED_CHARGES = (100.0, 80.0, 60.0, 40.0, 20.0)


def details(question: Question) -> dict[str, Any]:
    """Curves, gaps, other measures and projections. Raises ValueError where the question does not fit."""
    gathered = gather(question)
    drawn = _drawn(gathered)
    known = known_of(gathered)
    return {
        "overlays": {name: [_curve(mean_curve(group, *axes)) for group in drawn] for name, axes in OVERLAYS.items()},
        "power_speed": [_power(group, gathered.counting[place]) for place, group in enumerate(drawn)],
        "elevation": [_elevation(gathered, place) for place in range(len(drawn))],
        "gaps": [_gap(drawn[0], group, gathered.groups[place].name) for place, group in enumerate(drawn[1:], start=1)],
        "car_length_m": CAR_LENGTH_M,
        "others": others(gathered, known),
        "projections": projections(gathered, known),
        "unreached": unreached(gathered),
    }


def _drawn(gathered: Gathered) -> list[list[Drawn]]:
    runs = [row.run.pk for rows in gathered.counting for row in rows]
    blobs = dict(RunTrace.objects.filter(run__in=runs).values_list("run_id", "curve"))
    measure, clock = gathered.question.measure, gathered.question.clock
    return [
        [on_clock(decoded(bytes(blobs[row.run.pk])), measure, clock) for row in rows if row.run.pk in blobs]
        for rows in gathered.counting
    ]


def _curve(made: MeanCurve | None) -> dict[str, Any]:
    """A mean curve's columns; empty for a group without traces."""
    if made is None:
        return {"x": [], "mean": [], "low95": None, "high95": None}
    ends = {"low95": made.low95, "high95": made.high95}
    report = {name: None if column is None else column.round(4).tolist() for name, column in ends.items()}
    return {"x": made.x.round(4).tolist(), "mean": made.mean.round(4).tolist(), **report}


def _power(group: Sequence[Drawn], rows: Sequence[Any]) -> dict[str, Any]:
    """Mean power at the wheels (kW) against speed, slope and wind left in; empty without a test mass."""
    made = mean_curve(group, "speed_mps", "acceleration_mps2")
    load = road_load_of(rows[0].run) if rows else None
    if made is None or load is None or rows[0].run.kind == "stop":
        return _curve(None)

    def kilowatts(pull_mps2: Floats) -> Floats:
        return load.wheel_power_w(made.x, pull_mps2) / 1000

    ends = [None if each is None else kilowatts(each) for each in (made.low95, made.high95)]
    return _curve(MeanCurve(made.x, kilowatts(made.mean), *ends))


def _elevation(gathered: Gathered, place: int) -> dict[str, Any]:
    """Height over the first run's way by its course's survey; empty without one."""
    rows = gathered.counting[place]
    if not rows:
        return _curve(None)
    run = rows[0].run
    stations = list(run.course.stations.values_list("distance_m", "elevation_m")) if run.course else []
    if len(stations) < 2:
        return _curve(None)
    ways, heights = np.array(stations, dtype=np.float64).T
    return {"x": ways.tolist(), "mean": (heights - heights[0]).round(3).tolist(), "low95": None, "high95": None}


def _gap(before: Sequence[Drawn], after: Sequence[Drawn], name: str) -> dict[str, Any]:
    found = gap(before, after)
    if found is None:
        return {"since_s": [], "ahead_m": [], "distance_m": [], "ahead_s": [], "leads": [], "sentence": ""}
    passed = leads(found, after, LEAD_SPEEDS)
    return {name: column.round(4).tolist() for name, column in vars(found).items()} | {
        "leads": [{"speed_mps": speed, "ahead_m": ahead} for speed, ahead in passed.items()],
        "sentence": lead_sentence(name, *max(passed.items()), CAR_LENGTH_M) if passed else "",
    }


def others(gathered: Gathered, known: Known) -> list[dict[str, Any]]:
    """The second group against the first in every other measure that both reached, p corrected for their number."""
    headlines = [value for group in gathered.groups[:2] for value in group.values]
    if not headlines or gathered.question.quantity != "time" or gathered.question.measure.basis == "stop":
        return []
    values, scatter = _values(gathered), known.scatter
    rows = []
    for name in OTHERS:
        pair = _pair(gathered, values, name)
        if min(len(group.values) for group in pair) < 2:
            continue
        share = float(np.mean([*pair[0].values, *pair[1].values])) / float(np.mean(headlines))
        if weighed := weigh(pair, Known(scatter and scatter.scaled(share))):
            rows.append((name, weighed.difference))
    chances = holm([found.p_value for _, found in rows])
    return [
        {"measure": name, "value": found.value, "low95": found.low95, "high95": found.high95, "p_value": found.p_value,
         "p_adjusted": p, "shown": p <= ALPHA}
        for (name, found), p in zip(rows, chances, strict=True)
    ]  # fmt: skip


def _values(gathered: Gathered) -> Mapping[str, Mapping[int, float]]:
    runs = [row.run.pk for rows in gathered.counting[:2] for row in rows]
    clock = gathered.question.clock if gathered.question.clock != "speed" else "rollout"
    found: dict[str, dict[int, float]] = defaultdict(dict)
    rows = Measured.objects.filter(run__in=runs, name__in=OTHERS, clock__in=(clock, "speed"), time_s__isnull=False)
    for run, name, time in rows.values_list("run_id", "name", "time_s"):
        found[name][run] = time or 0.0  # never null here
    return found


def _pair(gathered: Gathered, values: Mapping[str, Mapping[int, float]], name: str) -> tuple[Group, Group]:
    known = values.get(name, {})
    made = []
    for rows in gathered.counting[:2]:
        having = [row for row in rows if row.run.pk in known]
        made.append(Group([known[row.run.pk] for row in having], states=[row.state for row in having]))
    return made[0], made[1]


def projections(gathered: Gathered, known: Known) -> list[dict[str, Any]]:
    """Every group's mean at other charges and on the level, or why it is refused."""
    if gathered.field != "time_s":
        return []
    rows: list[dict[str, Any]] = []
    for place, group in enumerate(gathered.groups):
        charges = [state.charge_percent for state in group.states if state.charge_percent is not None]
        if len(group.values) > 1 and len(charges) == len(group.values):
            rows += _at_charges(place, group, float(np.mean(charges)), known)
    return rows


def _at_charges(place: int, group: Group, at: float, known: Known) -> list[dict[str, Any]]:
    mean, report = mean_of(group.values), known.sensitivities.of("charge")
    return [
        {"group": place, "charge_percent": to} | _projected(lambda to=to: at_condition(mean, at, to, report))  # type: ignore[misc]
        for to in PROJECTED_CHARGES
    ]


def _projected(project: Callable[[], Projection]) -> dict[str, Any]:
    """A projection with from what it was made, or why it is refused."""
    try:
        found = project()
    except TooFarError as error:
        return {"value": None, "u95": None, "sentence": str(error)}
    return {"value": found.value.value, "u95": found.value.u95, "sentence": projection_basis(found)}


def unreached(gathered: Gathered) -> list[dict[str, Any]]:
    """What pulls that were lifted before the measure's end would have taken, or why that is refused."""
    if gathered.field != "time_s":
        return []
    counted = {row.run.pk for rows in gathered.counting for row in rows}
    short = [row.run for rows in gathered.stored for row in rows if row.run.pk not in counted and _lifted(row.run)]
    blobs = dict(RunTrace.objects.filter(run__in=[run.pk for run in short]).values_list("run_id", "curve"))
    return [
        {"run": run.pk, "start_utc": run.start_utc, "start_local": run.start_local}
        | _carried_on(bytes(blobs[run.pk]), load, gathered.question)
        for run in short
        if run.pk in blobs and (load := road_load_of(run))
    ]


def _carried_on(blob: bytes, load: RoadLoad, question: Question) -> dict[str, Any]:
    curve = decoded(blob)
    return _projected(lambda: to_target(curve, question.measure, question.clock, load, LIFT_U95_S))


def _lifted(run: Run) -> bool:
    return run.kind == "standing" and run.validity == "valid" and not run.complete
