"""One change of many runs: what it would do, and doing it as one action."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from accounts.models import User
from coombe_core.wording.quantities import counted
from history.recorded import plain
from runs import resting
from runs.models import Run, Validity
from runs.services import RunChange, change_runs, refuse_unfit

VERBS = {Validity.VOID: "Voided", Validity.VALID: "Kept"}


@dataclass(frozen=True)
class Effect:
    """What a change does to one run: every field that becomes another, from what to what."""

    run: Run
    fields: Mapping[str, tuple[Any, Any]]

    @property
    def retimes(self) -> bool:
        """Whether its times rest on a field that changes."""
        return any(resting.rests_on(name) for name in self.fields)


def effects(runs: Sequence[Run], values: Mapping[str, Any]) -> list[Effect]:
    """What a change would do to each run that it changes. Raises UnfitError where one of them can't take it."""
    if "setup" in values:
        refuse_unfit(runs, values["setup"])
    found = [Effect(run, {name: (old, new) for name, old, new in _differing(run, values)}) for run in runs]
    return [effect for effect in found if effect.fields]


def change(found: Sequence[Effect], person: User) -> None:
    """Carry out what was previewed, unless a run was changed since. Raises Conflict then; nothing is changed."""
    changes = [
        RunChange(effect.run, {name: new for name, (_, new) in effect.fields.items()}, effect.run.revision)
        for effect in found
    ]
    if changes:
        validity = changes[0].values.get("validity") if len({str(change.values) for change in changes}) == 1 else None
        verb = VERBS[validity] if validity else "Changed"
        change_runs(changes, person, f"{verb} {counted(len(changes), 'run')}")


def _differing(run: Run, values: Mapping[str, Any]) -> list[tuple[str, Any, Any]]:
    return [(name, old, new) for name, new in values.items() if (old := getattr(run, name)) != new]


def shown(value: Any) -> Any:
    """A value as a preview has it: rows by their names."""
    return str(value) if hasattr(value, "pk") else plain(value)
