"""Charge sweeps, and warm-up: how a measure holds up over charge or battery temperature."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np

from cars.models import BatteryInterval, IntervalKind
from coombe_core.studies.problem import StudyError
from coombe_core.studies.sweep import Sweep, apart, equal_at, sweep
from coombe_core.studies.trend import trend
from coombe_core.uncertainty import Value
from coombe_core.wording.studies import (
    equal_sentence,
    heating_sentence,
    per_kelvin_sentence,
    problem,
    sweep_sentence,
    two_sweeps_sentence,
)
from learning.services import battery_heat
from runs.peaks import battery_peaks_kw
from studies.choosing import Chosen, Picked
from studies.kinds.values import axis_of, named, point, values_of
from studies.showing import Axis, Band, Cell, Chart, ChartSeries, Mark, Point, Shown, Table

Field = Literal["charge_percent", "battery_temp_c"]
AXES: dict[Field, Axis] = {
    "charge_percent": Axis("charge", "percent"),
    "battery_temp_c": Axis("battery temperature", "temperature"),
}
EVERY = 10  # points of charge, a row of the table each
THIN = 2  # every other place of a curve is enough for a picture


@dataclass(frozen=True)
class Swept:
    """A series whose runs make a sweep."""

    name: str
    runs: list[Picked]
    field: Field
    sweep: Sweep

    @property
    def days(self) -> set[str]:
        """On which it was driven."""
        return {picked.state.day for picked in self.runs}

    def level(self, picked: Picked) -> float:
        """Where a run stands on the x axis."""
        return float(getattr(picked.state, self.field))


def charge_sweep(chosen: Chosen) -> Shown:
    """A measure against charge: curve with band, flatness and step; several series over one another."""
    found, cautions = _swept(chosen, "charge_percent")
    names, y = [each.name for each in found], axis_of(chosen)
    sentences = [named(names, place, sweep_sentence(each.sweep, y.unit)) for place, each in enumerate(found)]
    sentences += [text for one, other in pairwise(found) for text in _between(one, other, y.unit)]
    main = Chart(
        f"{y.label} against charge", AXES["charge_percent"], y, [_series(each) for each in found], falling=True
    )
    return Shown(sentences, [main, *_beside(found)], [_table(each, y) for each in found], cautions)


def warm_up(chosen: Chosen) -> Shown:
    """A measure against battery temperature, what a kelvin is worth, and how fast the battery heats."""
    found, cautions = _swept(chosen, "battery_temp_c")
    names, y = [each.name for each in found], axis_of(chosen)
    slopes = [trend([([each.level(picked) for picked in each.runs], values_of(each.runs))]) for each in found]
    worth = [(place, slope.per_step) for place, slope in enumerate(slopes) if slope]
    sentences = [named(names, place, per_kelvin_sentence(per_kelvin)) for place, per_kelvin in worth]
    rows: list[list[Cell]] = [[names[place], float(len(found[place].runs)), per_kelvin] for place, per_kelvin in worth]
    heated = BatteryInterval.objects.filter(
        car__in={rule.car.pk for rule in chosen.asked.rules}, kind=IntervalKind.HEATING
    )
    cars = {interval.car for interval in heated.select_related("car")}
    sentences += [heating_sentence(car.name, battery_heat(car).heating_k_per_min) for car in cars]
    chart = Chart(
        f"{y.label} against battery temperature", AXES["battery_temp_c"], y, [_series(each) for each in found]
    )
    columns = [Axis("series"), Axis("runs"), Axis("a kelvin more", y.kind, y.unit)]
    return Shown(sentences, [chart], [Table("What a kelvin is worth", columns, rows)], cautions)


def _swept(chosen: Chosen, field: Field) -> tuple[list[Swept], list[str]]:
    """Every series that makes a sweep, and why the others do not. Raises ValueError where none does."""
    found, refused = [], []
    for place, rule in enumerate(chosen.asked.rules):
        runs = chosen.counting(place)
        known = [picked for picked in runs if getattr(picked.state, field) is not None]
        try:
            if len(known) < len(runs):
                lacking = {"missing": len(runs) - len(known), "runs": len(runs)}
                raise StudyError("missing" if field == "charge_percent" else "missing temperature", lacking)
            levels = [float(getattr(picked.state, field)) for picked in runs]
            found.append(Swept(rule.name, runs, field, sweep(levels, values_of(runs))))
        except StudyError as error:
            refused.append(f"{rule.name}: {problem(error, 'sweep')}")
    if not found:
        raise ValueError(" ".join(refused))
    return found, [*chosen.cautions, *refused]


def _series(swept: Swept) -> ChartSeries:
    curve, step = swept.sweep.curve, swept.sweep.step
    kept = (curve.at[::THIN], curve.values[::THIN].round(4), curve.u95()[::THIN].round(4))
    band = Band(*(column.tolist() for column in kept))
    marks = [Mark(step.at, step.low, step.high, "step")] if step else []
    return ChartSeries(swept.name, [point(swept.level(picked), picked) for picked in swept.runs], band, marks)


def _between(one: Swept, other: Swept, unit: str) -> list[str]:
    try:
        between = apart(one.sweep, other.sweep, one.days.isdisjoint(other.days))
        sentences = [two_sweeps_sentence(one.name, other.name, between, unit)]
    except StudyError as error:
        return [problem(error, "comparison of sweeps")]
    top = float(one.sweep.curve.at[-1])
    level = equal_at(one.sweep, top, other.sweep)
    if level is not None and level < top:
        sentences.append(equal_sentence(other.name, level, one.name, top))
    return sentences


def _beside(found: list[Swept]) -> list[Chart]:
    """Battery peak power and temperature against charge, where they are known."""
    peaks = battery_peaks_kw([picked.run for each in found for picked in each.runs])
    power = [_others(each, {picked.run.pk: peaks.get(picked.run.pk) for picked in each.runs}) for each in found]
    warmth = [_others(each, {picked.run.pk: picked.state.battery_temp_c for picked in each.runs}) for each in found]
    charge = AXES["charge_percent"]
    charts = [
        Chart(
            "Peak battery power against charge", charge, Axis("peak battery power", "power", "kW"), power, falling=True
        ),
        Chart("Battery temperature against charge", charge, AXES["battery_temp_c"], warmth, falling=True),
    ]
    return [chart for chart in charts if any(each.points for each in chart.series)]


def _others(swept: Swept, values: dict[int, float | None]) -> ChartSeries:
    pairs = [(picked, values[picked.run.pk]) for picked in swept.runs]
    points = [Point(swept.level(picked), value, None, picked.run.pk) for picked, value in pairs if value is not None]
    return ChartSeries(swept.name, points)


def _table(swept: Swept, y: Axis) -> Table:
    """The curve at every ten points and over its value at the highest; flatness."""
    made = swept.sweep
    curve = made.curve
    low, high = float(curve.at[0]), float(curve.at[-1])
    rows: list[list[Cell]] = []
    for at in np.arange(np.floor(high / EVERY) * EVERY, low - 1e-9, -EVERY):
        place = int(np.argmin(np.abs(curve.at - at)))
        value = Value(float(curve.values[place]), float(curve.u95()[place]))
        rows.append([f"{at:.0f} %", value, curve.ratio(place, -1)])
    for share, lost_at in made.lost.items():
        rows.append([f"{share:.0%} lost at", "not within these runs" if lost_at is None else f"{lost_at:.0f} %", ""])
    rows.append(["10 points of charge less", made.slope_per_10, ""])
    return Table(swept.name, [Axis("charge"), y, Axis(f"over that at {high:.0f} %", "ratio")], rows)
