"""In which conditions the groups of a study differ from the first, listed as a comparison lists them."""

from __future__ import annotations

from collections.abc import Sequence

from coombe_core.comparing.comparison import Comparison, Group
from coombe_core.comparing.differences import Row
from coombe_core.comparing.factors import FACTORS, KINDS, OF_THE_SETUP, Factor, Kind, known
from coombe_core.comparing.state import State
from coombe_core.comparing.verdict import compare
from coombe_core.wording.studies import unlike_sentence
from studies.choosing import Asked, Chosen
from studies.kinds.values import values_of
from studies.models import StudyKind
from studies.showing import Axis, Cell, Shown, Table

BY_SERIES = (StudyKind.SWEEP, StudyKind.WARM_UP, StudyKind.REPEATABILITY, StudyKind.BRAKING, StudyKind.ROLL_ONS)
# What a study varies is no unlike condition of it.
IN_QUESTION = {
    StudyKind.SWEEP: "charge",
    StudyKind.WARM_UP: "battery temperature",
    StudyKind.TIRES: "tires",
    StudyKind.MODES: "drive mode",
}
# What series differ in by being what they are: listed, but nothing to beware of.
OF_WHAT_IS_DRIVEN = {*(factor.name for factor in OF_THE_SETUP), "tires", "software", "drive mode"}
SHOWN_AS = {"°C": "temperature", "m/s": "speed", "kg": "mass", "km": "odometer", "kPa": "pressure", "%": "percent"}


def with_unlike_series(shown: Shown, chosen: Chosen) -> Shown:
    """An answer with the conditions in which every series differs from the first."""
    asked = chosen.asked
    if asked.kind not in BY_SERIES:
        return shown
    groups = [
        Group(values_of(runs), states=[picked.state for picked in runs], name=rule.name)
        for place, rule in enumerate(asked.rules)
        if (runs := chosen.counting(place))
    ]
    pairs = [
        compare(asked.measure, asked.clock, groups[0], other, asked.quantity, chosen.known)  # type: ignore[arg-type]
        for other in groups[1:]
    ]
    return with_unlike(shown, pairs, asked)


def with_unlike(shown: Shown, pairs: Sequence[Comparison], asked: Asked) -> Shown:
    """An answer with the conditions in which the second of every pair differs from the first."""
    found = {pair.groups[1].name: [row for row in pair.like.rows if _counts(row, asked)] for pair in pairs}
    names = {row.name for rows in found.values() for row in rows}
    if not names:
        return shown
    groups = [pairs[0].groups[0], *(pair.groups[1] for pair in pairs)]
    columns = [each for each in (*FACTORS, *KINDS) if each.name in names]
    rows: list[list[Cell]] = [[group.name, *(_cell(each, group.noted) for each in columns)] for group in groups]
    table = Table("Conditions that differ", [Axis(""), *map(_axis, columns)], rows)
    driven = {name: [row for row in rows if row.name not in OF_WHAT_IS_DRIVEN] for name, rows in found.items()}
    cautions = [unlike_sentence(groups[0].name, driven, pairs[0].unit)] if any(driven.values()) else []
    return Shown(shown.sentences, shown.charts, [*shown.tables, table], [*shown.cautions, *cautions])


def _counts(row: Row, asked: Asked) -> bool:
    return row.differs and row.name != IN_QUESTION.get(asked.kind)


def _axis(column: Factor | Kind) -> Axis:
    if isinstance(column, Kind):
        return Axis(column.name)
    kind = SHOWN_AS.get(column.unit, "plain")
    return Axis(column.name, kind, column.unit)


def _cell(column: Factor | Kind, states: Sequence[State]) -> Cell:
    """The mean of what was noted, or how often each word was."""
    if isinstance(column, Kind):
        counts = column.counts(states).items()
        return ", ".join(word if len(counts) == 1 else f"{word} × {count}" for word, count in counts) or None
    numbers = known(column, states)
    return round(sum(numbers) / len(numbers), column.digits) if numbers else None
