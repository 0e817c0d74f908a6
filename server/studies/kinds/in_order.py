"""Braking series and repeatability: a measure against its place in the order."""

from __future__ import annotations

from coombe_core.studies.braking import braking_series
from coombe_core.studies.problem import StudyError
from coombe_core.studies.repeatability import Repeatability, repeatability
from coombe_core.wording.studies import braking_sentence, problem, repeatability_sentence
from studies.choosing import Chosen, Picked
from studies.kinds.values import axis_of, named, point, values_of
from studies.showing import Axis, Band, Cell, Chart, ChartSeries, Point, Shown, Table

BREAK_H = 1.0  # after a longer one brakes are cool, and another series begins


def braking(chosen: Chosen) -> Shown:
    """Stopping distance against the number of the stop, fade a stop with its interval."""
    names, y = [rule.name for rule in chosen.asked.rules], axis_of(chosen)
    sentences, series, rows = [], [], []
    for place, name in enumerate(names):
        in_series = _without_long_breaks(chosen.counting(place))
        found = braking_series([values_of(runs) for runs in in_series])
        sentences.append(named(names, place, braking_sentence(found)))
        points = [point(number, picked) for runs in in_series for number, picked in enumerate(runs, 1)]
        series.append(
            ChartSeries(name, points, _line(in_series, found.fade_per_stop_m.value if found.fade_per_stop_m else None))
        )
        cells: list[Cell] = [name, float(len(points)), found.best_m, found.mean_m, found.last_m, found.fade_per_stop_m]
        rows.append(cells)
    charts = [Chart(f"{y.label}, stop after stop", Axis("stop"), y, series)]
    noted = [
        ChartSeries(
            name,
            [
                Point(number, picked.state.brake_temp_c, None, picked.run.pk)
                for runs in _without_long_breaks(chosen.counting(place))
                for number, picked in enumerate(runs, 1)
                if picked.state.brake_temp_c is not None
            ],
        )
        for place, name in enumerate(names)
    ]
    if any(each.points for each in noted):
        charts.append(Chart("Brake temperature before the stop", Axis("stop"), Axis("brakes", "temperature"), noted))
    columns = [
        Axis("series"),
        Axis("stops"),
        *(Axis(label, y.kind, y.unit) for label in ("best", "mean", "last", "fade a stop")),
    ]
    return Shown(sentences, charts, [Table("Fade", columns, rows)], chosen.cautions)


def passes(chosen: Chosen) -> Shown:
    """A measure against the number of the pass on its day, and against the minutes since the one before."""
    names, y = [rule.name for rule in chosen.asked.rules], axis_of(chosen)
    sentences, series, rows, refused = [], [], [], []
    for place, name in enumerate(names):
        runs = _last_day(chosen.counting(place))
        try:
            found: Repeatability = repeatability(values_of(runs))
        except StudyError as error:
            refused.append(f"{name}: {problem(error, 'study of repeatability')}")
            continue
        sentences.append(named(names, place, f"{runs[0].state.day}: {repeatability_sentence(found, y.unit)}"))
        points = [point(number, picked, _minutes_since(runs, number)) for number, picked in enumerate(runs, 1)]
        series.append(ChartSeries(name, points, _line([runs], found.per_pass.value)))
        warmth = [picked.state.battery_temp_c for picked in runs if picked.state.battery_temp_c is not None]
        cells: list[Cell] = [name, float(len(runs)), found.per_pass, found.scatter, f"{found.first_quickest_p:.0%}"]
        cells.append(f"{min(warmth):.0f} to {max(warmth):.0f} °C" if warmth else "not noted")
        rows.append(cells)
    if not series:
        raise ValueError(" ".join(refused))
    columns = [
        *(Axis("series"), Axis("passes"), Axis("change a pass", y.kind, y.unit), Axis("scatter", y.kind, y.unit)),
        *(Axis("first as quick by chance"), Axis("battery")),
    ]
    chart = Chart(f"{y.label}, pass after pass", Axis("pass"), y, series)
    return Shown(sentences, [chart], [Table("Passes", columns, rows)], [*chosen.cautions, *refused])


def _without_long_breaks(runs: list[Picked]) -> list[list[Picked]]:
    """Stops in order, as series between which the brakes were cool again."""
    parts: list[list[Picked]] = []
    for picked in runs:
        last = parts[-1][-1] if parts else None
        since_h = (picked.run.start_utc - last.run.start_utc).total_seconds() / 3600 if last else None
        if since_h is None or since_h > BREAK_H:
            parts.append([])
        parts[-1].append(picked)
    return parts


def _last_day(runs: list[Picked]) -> list[Picked]:
    """The passes of the latest day that has three or more, else of the latest."""
    days: dict[str, list[Picked]] = {}
    for picked in runs:
        days.setdefault(picked.state.day, []).append(picked)
    enough = [day for day, found in days.items() if len(found) >= 3]
    return days[max(enough or days)] if days else []


def _minutes_since(runs: list[Picked], number: int) -> str:
    if number == 1:
        return "first"
    apart = runs[number - 1].run.start_utc - runs[number - 2].run.start_utc
    return f"{apart.total_seconds() / 60:.0f} min after the one before"


def _line(parts: list[list[Picked]], slope: float | None) -> Band | None:
    """The fitted straight line through the middle of all parts."""
    pairs = [(number, value) for runs in parts for number, value in enumerate(values_of(runs), 1)]
    if slope is None or len(pairs) < 3:
        return None
    mean_x = sum(x for x, _ in pairs) / len(pairs)
    mean_y = sum(y for _, y in pairs) / len(pairs)
    ends = (1.0, float(max(x for x, _ in pairs)))
    return Band(ends, [mean_y + slope * (x - mean_x) for x in ends])
