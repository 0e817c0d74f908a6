"""Comparing stored runs with the core: the groups, each against the first, and what became of every run."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from comparisons import worth
from comparisons.gathering import Gathered, Question, StoredRun, barred, gather
from coombe_core.cli.output import comparison_json
from coombe_core.comparing.comparison import Asked, Comparison, Known, smaller_is_better
from coombe_core.comparing.groups import value_of
from coombe_core.comparing.statistics.multiple import holm
from coombe_core.comparing.statistics.power import ALPHA
from coombe_core.comparing.statistics.samples import sample
from coombe_core.comparing.verdict import compare
from coombe_core.planning.next_runs import NextRuns, next_runs
from coombe_core.wording.comparison import reasons_of
from coombe_core.wording.next_runs import next_runs_sentence
from learning.known import known_of as known_of_runs


def answer(question: Question) -> dict[str, Any]:
    """Each group against the first, with every run's value or the reason why it dropped out.

    Raises ValueError with a sentence where the measure, the clock or the quantity does not fit.
    """
    gathered = gather(question)
    pairs = compare_pairs(gathered)
    adjusted = holm([pair.difference.p_value if pair.difference else 1.0 for pair in pairs])
    told = enumerate(zip(pairs, adjusted, strict=True), start=1)
    return {
        "measure": question.measure.name,
        "clock": question.clock,
        "quantity": question.quantity,
        "field": gathered.field,
        "arms": [_arm_json(gathered, place) for place in range(len(gathered.arms))],
        "pairs": [_pair_json(gathered, pair, place, p_adjusted) for place, (pair, p_adjusted) in told],
        "runs": [_member(gathered, place, row) for place, rows in enumerate(gathered.stored) for row in rows],
    }


def compare_pairs(gathered: Gathered) -> list[Comparison]:
    """Every group against the first."""
    question = gathered.question
    known = known_of(gathered)
    asked = Asked(question.adjust, question.matters, question.match)
    first, *others = gathered.arms
    return [
        compare(question.measure, question.clock, first, other, question.quantity, known, asked) for other in others
    ]


def known_of(gathered: Gathered) -> Known:
    """What is known of the cars of the counting runs."""
    question = gathered.question
    rows = [row for rows in gathered.counting for row in rows]
    states = [row.state for row in rows]
    return known_of_runs([row.run for row in rows], states, question.measure, question.clock, gathered.field)


def _arm_json(gathered: Gathered, place: int) -> dict[str, Any]:
    asked, arm = gathered.question.arms[place], gathered.arms[place]
    small = smaller_is_better(gathered.question.quantity)
    told = asdict(sample(arm.values, small)) if len(arm.values) else {"n": 0, "mean": None, "sd": None, "best": None}
    return told | {
        "name": asked.name,
        "typed": bool(asked.typed),
        "source": asked.source,
        "attempts": len(asked.typed or gathered.stored[place]),
        "claims": worth.claims(gathered.counting[place], arm, gathered.question, gathered.field),
    }


def _next_json(asked: NextRuns) -> dict[str, Any]:
    shown = {name: getattr(asked, name) for name in ("runs", "days", "interleaved", "target")}
    return {"sentence": next_runs_sentence(asked), **shown}


def _pair_json(gathered: Gathered, pair: Comparison, other: int, p_adjusted: float) -> dict[str, Any]:
    pair_json = comparison_json(pair)
    several = len(gathered.arms) > 2
    if several and pair.difference and pair.difference.shown and p_adjusted > ALPHA:
        count = len(gathered.arms) - 1
        reason = f"Of {count} comparisons at once, one shows by chance more easily: p becomes {p_adjusted:.3f} (Holm)."
        pair_json |= {"verdict": "no difference shown", "reasons": [reason, *reasons_of(pair)], "character": None}
    further = next_runs(pair)
    return pair_json | {
        "arm": other,
        "p_adjusted": p_adjusted if several else None,
        "next": further and _next_json(further),
        **worth.of_pair(gathered, pair, other),
    }


def _member(gathered: Gathered, place: int, row: StoredRun) -> dict[str, Any]:
    question, run = gathered.question, row.run
    value = value_of(row, question.measure, question.clock, gathered.field)
    dropped = barred(row, question.measure, question.clock)
    if not dropped and value is None:
        dropped = f"did not reach {question.measure.name}"
    counted = [each.run.pk for each in gathered.counting[place]]
    on_ramp = gathered.arms[place].values[counted.index(run.pk)] if run.pk in counted else None
    return {
        "id": run.pk,
        "arm": place,
        "start_utc": run.start_utc,
        "set_up_name": run.set_up.name,
        "direction": row.state.direction,
        "charge_before_percent": run.charge_before_percent,
        "pack_temp_before_c": run.pack_temp_before_c,
        "value": value and value.value if on_ramp is None else on_ramp,
        "u95": value and value.u95,
        "dropped": dropped,
    }
