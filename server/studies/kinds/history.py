"""A car's measure over months: setups as stretches, bests, the trend, and a jump that nobody logged."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

import numpy as np

from coombe_core.studies.history import History, history
from coombe_core.studies.problem import StudyError
from coombe_core.wording.studies import history_sentence, problem
from studies.choosing import Chosen, Picked
from studies.kinds.values import axis_of, named, point, values_of
from studies.showing import Axis, Cell, Chart, ChartSeries, Mark, Shown, Table

DAY_S = 86400.0
TOO_FEW_DAYS = "No setup was driven on five days or more: runs are shown, a trend needs more days."


@dataclass(frozen=True)
class Stretch:
    """The runs of one setup: drawn, as a row of the table, and what there is to say of them."""

    series: ChartSeries
    row: list[Cell]
    sentence: str = ""


def histories(chosen: Chosen) -> Shown:
    """Runs against their day; for every setup that has days enough, its trend and a jump."""
    y = axis_of(chosen)
    rules = chosen.asked.rules
    stretches: list[Stretch] = []
    for place, rule in enumerate(rules):
        setups: dict[str, list[Picked]] = {}
        for picked in chosen.counting(place):
            setups.setdefault(picked.run.setup.name, []).append(picked)
        stretches += [
            _stretch(f"{rule.name}, {setup}" if len(rules) > 1 else setup, runs, y.unit)
            for setup, runs in setups.items()
        ]
    telling = [stretch for stretch in stretches if stretch.sentence]
    names = [stretch.series.name for stretch in telling]
    sentences = [named(names, place, stretch.sentence) for place, stretch in enumerate(telling)]
    columns = [
        *(Axis("setup"), Axis("runs"), Axis("days"), Axis("best", y.kind, y.unit), Axis("first day", y.kind, y.unit)),
        *(Axis("last day", y.kind, y.unit), Axis("change in 30 days", y.kind, y.unit)),
    ]
    chart = Chart(f"{y.label} over time", Axis("day", "date"), y, [stretch.series for stretch in stretches])
    table = Table("Setups", columns, [stretch.row for stretch in stretches])
    return Shown(sentences or [TOO_FEW_DAYS], [chart], [table], chosen.cautions)


def _stretch(name: str, runs: list[Picked], unit: str) -> Stretch:
    days = _days(runs)
    means = [float(np.mean(values_of(of_day))) for of_day in days.values()]
    row: list[Cell] = [name, float(len(runs)), float(len(days)), min(values_of(runs)), means[0], means[-1]]
    points = [point(picked.run.start_utc.timestamp(), picked) for picked in runs]
    try:
        found = history([_at(day) / DAY_S for day in days], means)
    except StudyError as error:
        return Stretch(ChartSeries(name, points), [*row, problem(error, "trend")])
    series = ChartSeries(name, points, None, _marks(found))
    return Stretch(series, [*row, found.per_month], history_sentence(found, unit, _day_of))


def _days(runs: list[Picked]) -> dict[str, list[Picked]]:
    days: dict[str, list[Picked]] = {}
    for picked in runs:
        days.setdefault(picked.state.day, []).append(picked)
    return dict(sorted(days.items()))


def _at(day: str) -> float:
    return (date.fromisoformat(day) - date(1970, 1, 1)).days * DAY_S


def _day_of(days_since: float) -> str:
    return f"{date.fromordinal(date(1970, 1, 1).toordinal() + round(days_since)):%Y-%m-%d}"


def _marks(found: History) -> list[Mark]:
    if found.jump is None:
        return []
    jump = found.jump
    return [Mark(jump.at * DAY_S, jump.low * DAY_S, jump.high * DAY_S, "jump")]
