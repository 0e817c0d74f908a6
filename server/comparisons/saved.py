"""What was found when a comparison was saved, and what would be found differently now."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from comparisons.gathering import Question
from comparisons.models import Comparison
from coombe_core import __version__

TOLD_FROM = 5e-4  # a difference that moved by less, in SI units, is the same


def question_of(comparison: Comparison) -> dict[str, Any]:
    """A saved comparison as it was asked."""
    arms = [
        {
            "name": arm.name,
            "runs": [member.run_id for member in arm.members.all()],
            "typed": arm.typed,
            "source": arm.source,
            "clock": arm.clock,
        }
        for arm in comparison.arms.prefetch_related("members")
    ]
    asked = {name: getattr(comparison, name) for name in ("measure", "clock", "quantity", "adjust", "matters", "match")}
    return asked | {"arms": arms}


def kept_of(result: Mapping[str, Any]) -> dict[str, Any]:
    """What to keep of a result."""
    return {
        "core_version": __version__,
        "pairs": [{name: pair[name] for name in ("verdict", "sentence", "difference")} for pair in result["pairs"]],
        "runs": {str(row["id"]): row["value"] for row in result["runs"] if not row["dropped"]},
    }


def changes(kept: Mapping[str, Any] | None, result: Mapping[str, Any]) -> list[str]:
    """What is different from when it was saved, in sentences; nothing where nothing is."""
    if not kept:
        return []
    now = kept_of(result)
    told = []
    if kept["core_version"] != now["core_version"]:
        told.append(f"Saved with core {kept['core_version']}, computed with {now['core_version']}.")
    gone, come = set(kept["runs"]) - set(now["runs"]), set(now["runs"]) - set(kept["runs"])
    told += [f"{len(gone)} of its runs no longer count."] if gone else []
    told += [f"{len(come)} of its runs count that did not."] if come else []
    moved = [run for run in set(kept["runs"]) & set(now["runs"]) if _apart(kept["runs"][run], now["runs"][run])]
    told += [f"{len(moved)} of its runs have other values."] if moved else []
    for before, after in zip(kept["pairs"], now["pairs"], strict=False):
        if before["verdict"] != after["verdict"]:
            told.append(f"It said {before['verdict']}, and says {after['verdict']}.")
        elif before["difference"] and after["difference"] and _differs(before["difference"], after["difference"]):
            values = [each["difference"]["value"] for each in (before, after)]
            told.append(f"The difference was {values[0]:+.3f}, and is {values[1]:+.3f}.")
    return told


def _differs(before: Mapping[str, float], after: Mapping[str, float]) -> bool:
    return any(_apart(before[name], after[name]) for name in ("value", "low95", "high95"))


def _apart(before: float | None, after: float | None) -> bool:
    return (before is None) != (after is None) or abs((before or 0.0) - (after or 0.0)) > TOLD_FROM


def ask(comparison: Comparison) -> Question:
    """A saved comparison as a question. Raises ValueError where it no longer fits."""
    return Question.of(question_of(comparison))
