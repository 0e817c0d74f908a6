"""Two receivers on the same passes: how well they agree, measure by measure."""

from __future__ import annotations

from coombe_core.studies.problem import StudyError
from coombe_core.studies.receivers import agreement
from coombe_core.wording.studies import problem, receivers_sentence
from learning.receivers import Pair, pairs_of
from runs.models import Run
from studies.choosing import Chosen
from studies.kinds.values import axis_of
from studies.showing import Axis, Band, Cell, Chart, ChartSeries, Point, Shown, Table


def receivers(chosen: Chosen) -> Shown:
    """The first series' passes that the second's receiver saw too; difference against their mean."""
    rules, y = chosen.asked.rules, axis_of(chosen)
    if len(rules) < 2:
        raise ValueError("Agreement takes two series of one car, each with its receiver: add the second.")
    runs = Run.objects.filter(pk__in=[picked.run.pk for rows in chosen.series for picked in rows])
    pairs = pairs_of(runs, chosen.asked.measure, chosen.asked.clock, rules[0].receiver, rules[1].receiver)
    names = rules[0].name, rules[1].name
    try:
        found = agreement([pair.first.value for pair in pairs], [pair.second.value for pair in pairs])
    except StudyError as error:
        raise ValueError(
            f"{problem(error, 'study of receivers')} Import both logs of one drive, each with its receiver's name."
        ) from None
    points = [_point(pair) for pair in pairs]
    ends = [min(point.x for point in points), max(point.x for point in points)]
    lines = [
        ChartSeries(name, (), Band(ends, [value.value] * 2, [value.u95] * 2))
        for name, value in (("bias", found.bias), ("lower limit", found.lower), ("upper limit", found.upper))
    ]
    chart = Chart(
        f"{names[1]} less {names[0]}",
        Axis(f"mean of both, {y.label}", y.kind, y.unit),
        Axis("difference", y.kind, y.unit),
        [ChartSeries("passes", points), *lines],
    )
    rows: list[list[Cell]] = [
        [float(found.passes), found.bias, found.sd, found.lower, found.upper],
    ]
    columns = [
        Axis("passes"),
        *(Axis(label, y.kind, y.unit) for label in ("bias", "scatter of differences", "lower limit", "upper limit")),
    ]
    return Shown(
        [receivers_sentence(found, y.unit, names)], [chart], [Table("Agreement", columns, rows)], chosen.cautions
    )


def _point(pair: Pair) -> Point:
    mean = (pair.first.value + pair.second.value) / 2
    return Point(mean, pair.second.value - pair.first.value, None, pair.run)
