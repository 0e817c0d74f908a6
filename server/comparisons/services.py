"""Comparing stored runs with the core: the groups, each against the first, and what became of every run."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from comparisons import costs
from comparisons.gathering import Gathered, Question, barred, gather
from comparisons.loading import PEAK, StoredRun
from config.fields import shown_local
from coombe_core.cli.comparison_output import comparison_json
from coombe_core.comparing.comparison import Asked, Comparison, Known, smaller_is_better
from coombe_core.comparing.statistics.samples import sample
from coombe_core.comparing.verdict import compare, corrected_for_number
from coombe_core.planning.next_runs import NextRuns, next_runs
from coombe_core.wording.next_runs import next_runs_sentence
from learning.known import known_of as known_of_runs


def answer(question: Question) -> dict[str, Any]:
    """Each group against the first, with every run's value or the reason why it dropped out.

    Raises ValueError with a sentence where the measure, the clock or the quantity does not fit.
    """
    gathered = gather(question)
    pairs = compare_pairs(gathered)
    return {
        "measure": question.measure.name,
        "clock": question.clock,
        "quantity": question.quantity,
        "field": gathered.field,
        "groups": [_group_json(gathered, place) for place in range(len(gathered.groups))],
        "pairs": [_pair_json(gathered, pair, place) for place, pair in enumerate(pairs, start=1)],
        "runs": _members(gathered),
    }


def compare_pairs(gathered: Gathered) -> list[Comparison]:
    """Every group against the first."""
    question = gathered.question
    known = known_of(gathered)
    asked = Asked(question.adjust, question.difference_that_matters, question.match)
    first, *others = gathered.groups
    return corrected_for_number(
        [compare(question.measure, question.clock, first, other, question.quantity, known, asked) for other in others]
    )


def known_of(gathered: Gathered) -> Known:
    """What is known of the cars of the counting runs."""
    question = gathered.question
    if gathered.field == PEAK:
        return Known()
    rows = [row for rows in gathered.counting for row in rows]
    states = [row.state for row in rows]
    return known_of_runs([row.run for row in rows], states, question.measure, question.clock, gathered.field)


def _group_json(gathered: Gathered, place: int) -> dict[str, Any]:
    asked, group = gathered.question.groups[place], gathered.groups[place]
    small = smaller_is_better(gathered.question.quantity)
    numbered = (
        asdict(sample(group.values, small)) if len(group.values) else {"n": 0, "mean": None, "sd": None, "best": None}
    )
    return numbered | {
        "name": asked.name,
        "from_elsewhere": bool(asked.typed_values),
        "source": asked.source,
        "attempts": len(asked.typed_values or gathered.stored[place]),
        "claims": costs.claims(gathered.counting[place], group, gathered.question, gathered.field),
    }


def _next_json(asked: NextRuns) -> dict[str, Any]:
    shown = {name: getattr(asked, name) for name in ("runs", "days", "interleaved", "target")}
    return {"sentence": next_runs_sentence(asked), **shown}


def _pair_json(gathered: Gathered, pair: Comparison, other: int) -> dict[str, Any]:
    further = next_runs(pair)
    return comparison_json(pair) | {
        "group": other,
        "p_adjusted": pair.several and pair.several.p_value,
        "next": further and _next_json(further),
        **costs.of_pair(gathered, pair, other),
    }


def _members(gathered: Gathered) -> list[dict[str, Any]]:
    """Every run with its value as it stands in its group, or why it dropped out."""
    members = []
    for place, rows in enumerate(gathered.stored):
        counting = [row.run.pk for row in gathered.counting[place]]
        values = dict(zip(counting, gathered.groups[place].values, strict=False))  # typed values are of no run
        members += [_member(gathered, place, row, values.get(row.run.pk)) for row in rows]
    return members


def _member(gathered: Gathered, place: int, row: StoredRun, on_ramp: float | None) -> dict[str, Any]:
    question, run = gathered.question, row.run
    value = row.value(question.measure, question.clock, gathered.field)
    dropped = barred(row, question.measure, question.clock)
    if not dropped and value is None:
        dropped = f"did not reach {question.measure.name}"
    return {
        "id": run.pk,
        "group": place,
        "start_utc": run.start_utc,
        "start_local": shown_local(run.start_local),
        "setup_name": run.setup.name,
        "direction": row.state.direction,
        "charge_before_percent": run.charge_before_percent,
        "battery_temp_before_c": run.battery_temp_before_c,
        "value": value and value.value if on_ramp is None else on_ramp,
        "u95": None if gathered.field == PEAK else value and value.u95,
        "dropped": dropped,
    }
