"""Tires and modes: a measure by level, each compared with the first."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from coombe_core.comparing.comparison import Group
from coombe_core.studies.levels import Level, levels
from coombe_core.studies.problem import StudyError
from coombe_core.wording.quantities import counted
from coombe_core.wording.studies import levels_sentence, problem, tires_in_season_sentence
from runs.models import Measured
from studies.choosing import Chosen, Picked
from studies.kinds.unlike import with_unlike
from studies.kinds.values import axis_of, point, values_of
from studies.showing import Axis, Cell, Chart, ChartSeries, Point, Shown, Table

# Columns of the table of modes beside the measure that was asked for: name of a measure, and what of it.
ALONGSIDE = (
    *(("0-30 mph", "time_s"), ("0-60 mph", "time_s"), ("1/8 mile", "time_s"), ("1/4 mile", "time_s")),
    *(("1/4 mile", "trap_speed_mps"), ("60-130 mph", "time_s")),
)
KINDS = {"time_s": ("time", "s"), "trap_speed_mps": ("speed", "m/s")}
NOTED_AS = {"tires": "Tires", "modes": "Drive mode"}
WINTER, MILD_C = "winter", 10.0


def tires(chosen: Chosen) -> Shown:
    """A measure by tire, the best first."""
    shown = _by_level(chosen, lambda picked: picked.state.tires, "tires")
    pairs = [
        (picked.state.tires, picked.state.outside_temp_c)
        for place in range(len(chosen.series))
        for picked in chosen.counting(place)
    ]
    warm = {
        tire for tire, outside_c in pairs if tire.startswith(WINTER) and outside_c is not None and outside_c > MILD_C
    }
    notes = [tires_in_season_sentence(tire) for tire in sorted(warm)]
    return Shown([*shown.sentences, *notes], shown.charts, shown.tables, shown.cautions)


def modes(chosen: Chosen) -> Shown:
    """A measure by drive mode, with other measures of the same runs beside it."""
    return _by_level(chosen, lambda picked: picked.state.drive_mode, "modes", alongside=True)


def _by_level(chosen: Chosen, level_of: Callable[[Picked], str], what: str, alongside: bool = False) -> Shown:
    """Each level of each series; with one series the levels alone give the names."""
    found: dict[tuple[int, str], list[Picked]] = {}
    unnamed = 0
    for place in range(len(chosen.asked.rules)):
        for picked in chosen.counting(place):
            if level := level_of(picked):
                found.setdefault((place, level), []).append(picked)
            else:
                unnamed += 1
    names = _names(list(found), [rule.name for rule in chosen.asked.rules])
    groups = [
        Group(values_of(runs), states=[picked.state for picked in runs], name=name)
        for name, runs in zip(names, found.values(), strict=True)
    ]
    asked = chosen.asked
    try:
        made = levels(asked.measure, asked.clock, groups, 0, asked.quantity, chosen.known)  # type: ignore[arg-type]
    except StudyError as error:
        raise ValueError(problem(error, f"study of {what}")) from None
    ordered = sorted(zip(made, found.values(), strict=True), key=lambda pair: pair[0].rank)
    y = axis_of(chosen)
    cautions = [
        *chosen.cautions,
        *([f"{NOTED_AS[what]} not noted, left out: {counted(unnamed, 'run')}."] if unnamed else []),
    ]
    charts = [_chart(ordered, y, what)]
    tables = [_table(ordered, y, what, made[0].name)]
    if alongside:
        tables.append(_alongside(ordered, chosen.asked.clock, what))
    shown = Shown([levels_sentence(made)], charts, tables, cautions)
    return with_unlike(shown, [level.against for level in made if level.against], asked)


def _names(levels: Sequence[tuple[int, str]], series: Sequence[str]) -> list[str]:
    """By level alone with one series, by series alone where each has one level, else by both."""
    if len(series) == 1:
        return [level for _, level in levels]
    places = [place for place, _ in levels]
    if len(set(places)) == len(places):
        return [series[place] for place in places]
    return [f"{series[place]}, {level}" for place, level in levels]


def _chart(ordered: Sequence[tuple[Level, list[Picked]]], y: Axis, what: str) -> Chart:
    means = [Point(place, level.mean, level.u95, None, "mean") for place, (level, _) in enumerate(ordered)]
    runs = [point(place, picked) for place, (_, picked_runs) in enumerate(ordered) for picked in picked_runs]
    names = [level.name for level, _ in ordered]
    return Chart(f"{y.label} by {what}", Axis(what), y, [ChartSeries("runs", runs), ChartSeries("mean", means)], names)


def _table(ordered: Sequence[tuple[Level, list[Picked]]], y: Axis, what: str, chosen_name: str) -> Table:
    rows: list[list[Cell]] = []
    for level, runs in ordered:
        mean: Cell = f"{level.mean:.2f} (one run)" if level.u95 is None else _mean(level)
        outside = [picked.state.outside_temp_c for picked in runs if picked.state.outside_temp_c is not None]
        air = f"{min(outside):.0f} to {max(outside):.0f} °C" if outside else "not noted"
        verdict = level.against.verdict if level.against else ""
        rows.append([level.name, float(level.runs), mean, level.best, level.difference, verdict, air])
    columns = [
        *(Axis(what), Axis("runs"), Axis("mean", y.kind, y.unit), Axis("best", y.kind, y.unit)),
        *(Axis(f"beside {chosen_name}", y.kind, y.unit), Axis("verdict"), Axis("outside")),
    ]
    return Table(f"{y.label} by {what}", columns, rows)


def _mean(level: Level) -> Cell:
    from coombe_core.uncertainty import Value

    return Value(level.mean, level.u95 or 0.0)


def _alongside(ordered: Sequence[tuple[Level, list[Picked]]], clock: str, what: str) -> Table:
    """Means of other measures of the same runs, where all of a level have them."""
    runs = [picked.run.pk for _, picked_runs in ordered for picked in picked_runs]
    rows = Measured.objects.filter(run__in=runs, name__in={name for name, _ in ALONGSIDE}, clock__in={clock, "speed"})
    values = {(row.run_id, row.name): row for row in rows}
    table: list[list[Cell]] = []
    for level, picked_runs in ordered:
        cells: list[Cell] = [level.name]
        for name, field in ALONGSIDE:
            known = [getattr(values.get((picked.run.pk, name)), field, None) for picked in picked_runs]
            reached = [value for value in known if value is not None]
            cells.append(sum(reached) / len(reached) if reached else None)
        table.append(cells)
    columns = [
        Axis(what),
        *(Axis(name if field == "time_s" else f"{name}, trap", *KINDS[field]) for name, field in ALONGSIDE),
    ]
    return Table("Means of other measures of these runs", columns, table)
