"""What was found when a comparison was saved, and what would be found differently now."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import Any

from django.db.models import Q
from django.utils import timezone

from comparisons.gathering import Question
from comparisons.models import Comparison
from coombe_core import __version__
from coombe_core.wording.changes import corrected_sentence
from coombe_core.wording.quantities import signed
from history.models import Action, Change, ChangeKind
from runs.models import Run

NO_MATTER = {"notes", "void_note", "decided"}
MOST_NAMED = 3  # corrections, the latest
LEAST_CHANGE = 5e-4  # a difference that moved by less, in SI units, is the same


def question_of(comparison: Comparison) -> dict[str, Any]:
    """A saved comparison as it was asked."""
    groups = [
        {
            "name": group.name,
            "runs": [member.run_id for member in group.members.all()],
            "typed_values": group.typed_values,
            "typed_day": group.typed_day,
            "source": group.source,
            "clock": group.clock,
        }
        for group in comparison.groups.prefetch_related("members")
    ]
    asked = {
        name: getattr(comparison, name)
        for name in ("measure", "clock", "quantity", "adjust", "difference_that_matters", "match")
    }
    return asked | {"groups": groups}


def kept_of(result: Mapping[str, Any]) -> dict[str, Any]:
    """What to keep of a result."""
    return {
        "core_version": __version__,
        "saved_at": timezone.now().isoformat(),
        "pairs": [{name: pair[name] for name in ("verdict", "sentence", "difference")} for pair in result["pairs"]],
        "runs": {str(row["id"]): row["value"] for row in result["runs"] if not row["dropped"]},
    }


def changes(kept: Mapping[str, Any] | None, result: Mapping[str, Any]) -> list[str]:
    """What is different from when it was saved, in sentences; nothing where nothing is."""
    if not kept:
        return []
    now = kept_of(result)
    changes_found = []
    if kept["core_version"] != now["core_version"]:
        changes_found.append(f"Saved with core {kept['core_version']}, computed with {now['core_version']}.")
    changes_found += run_changes(kept["runs"], now["runs"])
    units = [pair["unit"] for pair in result["pairs"]]
    for before, after, unit in zip(kept["pairs"], now["pairs"], units, strict=False):
        if before["verdict"] != after["verdict"]:
            changes_found.append(f"It said {before['verdict']}, and says {after['verdict']}.")
        elif before["difference"] and after["difference"] and _differs(before["difference"], after["difference"]):
            was, now_is = (_written(each["difference"], unit) for each in (before, after))
            changes_found.append(f"The difference was {was}, and is {now_is}.")
    return changes_found


def run_changes(kept: Mapping[str, float | None], now: Mapping[str, float | None]) -> list[str]:
    """What became of the runs that counted when something was saved: values by run number, then and now."""
    gone, come = set(kept) - set(now), set(now) - set(kept)
    found = [f"{len(gone)} of its runs no longer count."] if gone else []
    found += [f"{len(come)} of its runs count that did not."] if come else []
    moved = [run for run in set(kept) & set(now) if _apart(kept[run], now[run])]
    return found + ([f"{len(moved)} of its runs have other values."] if moved else [])


def corrections(comparison: Comparison) -> list[str]:
    """What people corrected of its runs, and of the setups that they were made on, since it was saved; one sentence."""
    kept = comparison.kept or {}
    since = kept.get("saved_at") or comparison.created_at.isoformat()
    runs = {int(run) for run in kept.get("runs", {})}
    on_setup: dict[int, set[int]] = defaultdict(set)
    for run, setup in Run.objects.filter(pk__in=runs).values_list("pk", "setup"):
        on_setup[setup].add(run)
    touching = Q(model="runs.run", row__in=runs) | Q(model="cars.setup", row__in=list(on_setup))
    changed = Change.objects.filter(touching, kind=ChangeKind.CHANGED, action__done_at__gt=since)
    corrected: set[int] = set()
    by_action: dict[Action, dict[str, None]] = {}
    for change in changed.select_related("action__person").order_by("action__done_at", "pk"):
        fields = [name for name in change.values if name not in NO_MATTER]
        if not fields:
            continue
        corrected |= {change.row} if change.model == "runs.run" else on_setup[change.row]
        by_action.setdefault(change.action, {}).update(dict.fromkeys(fields))
    if not by_action:
        return []
    listed = [
        (action.title, action.person.username, f"{action.done_at:%Y-%m-%d}", list(fields))
        for action, fields in list(by_action.items())[-MOST_NAMED:]
    ]
    return [corrected_sentence(len(corrected), listed)]


def _written(difference: Mapping[str, float], unit: str) -> str:
    u95 = (difference["high95"] - difference["low95"]) / 2
    return f"{signed(difference['value'], 3)} {unit} ± {u95:.3f} {unit}"


def _differs(before: Mapping[str, float], after: Mapping[str, float]) -> bool:
    return any(_apart(before[name], after[name]) for name in ("value", "low95", "high95"))


def _apart(before: float | None, after: float | None) -> bool:
    return (before is None) != (after is None) or abs((before or 0.0) - (after or 0.0)) > LEAST_CHANGE


def ask(comparison: Comparison) -> Question:
    """A saved comparison as a question. Raises ValueError where it no longer fits."""
    return Question.of(question_of(comparison))
