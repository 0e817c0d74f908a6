"""A car's measure over months: setups as stretches, bests, the trend, and a jump that nobody logged."""

from __future__ import annotations

from datetime import date

import numpy as np

from coombe_core.studies.history import History, history
from coombe_core.studies.problem import StudyError
from coombe_core.wording.studies import history_sentence, problem
from studies.choosing import Chosen, Picked
from studies.kinds.values import axis_of, named, point, values_of
from studies.showing import Axis, Cell, Chart, ChartSeries, Mark, Shown, Table

DAY_S = 86400.0


def histories(chosen: Chosen) -> Shown:
    """Runs against their day; for every setup that has days enough, its trend and a jump."""
    y = axis_of(chosen)
    names = [rule.name for rule in chosen.asked.rules]
    sentences, series, rows, refused = [], [], [], []
    for place, rule in enumerate(chosen.asked.rules):
        runs = chosen.counting(place)
        if not runs:
            refused.append(f"{rule.name}: no run has {chosen.asked.measure.name}.")
            continue
        setups: dict[str, list[Picked]] = {}
        for picked in runs:
            setups.setdefault(picked.run.setup.name, []).append(picked)
        for setup, of_setup in setups.items():
            days = _days(of_setup)
            means = [float(np.mean(values_of(rows_of_day))) for rows_of_day in days.values()]
            marks: list[Mark] = []
            cells: list[Cell] = [
                f"{rule.name}, {setup}" if len(names) > 1 else setup,
                float(len(of_setup)),
                float(len(days)),
            ]
            cells += [min(values_of(of_setup)), means[0], means[-1]]
            try:
                found = history([_at(day) / DAY_S for day in days], means)
            except StudyError as error:
                cells.append(problem(error, "trend"))
            else:
                sentences.append(named([*setups], [*setups].index(setup), history_sentence(found, y.unit, _day_of)))
                marks = _marks(found)
                cells.append(found.per_month)
            rows.append(cells)
            points = [point(picked.run.start_utc.timestamp(), picked) for picked in of_setup]
            label = f"{rule.name}, {setup}" if len(names) > 1 else setup
            series.append(ChartSeries(label, points, None, marks))
    if not series:
        raise ValueError(" ".join(refused))
    if not sentences:
        sentences.append("No setup was driven on five days or more: runs are shown, a trend needs more days.")
    columns = [
        *(Axis("setup"), Axis("runs"), Axis("days"), Axis("best", y.kind, y.unit), Axis("first day", y.kind, y.unit)),
        *(Axis("last day", y.kind, y.unit), Axis("change in 30 days", y.kind, y.unit)),
    ]
    chart = Chart(f"{y.label} over time", Axis("day", "date"), y, series)
    return Shown(sentences, [chart], [Table("Setups", columns, rows)], [*chosen.cautions, *refused])


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
