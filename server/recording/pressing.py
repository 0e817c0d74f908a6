"""Keys of a strip screen: each acts once, however often it arrives, and each can be undone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db import transaction

from accounts.models import User
from config.errors import UnfitError
from days.models import ScheduledRun, ScheduledRunState
from days.services import settle
from history.models import changes_of
from recording.keeping import fulfills, next_step
from recording.models import Action, Press, Recorder, Recording
from runs.models import Run, Validity
from runs.services import change_run

DECISION = ("validity", "void_reason", "void_note", "decided")


class CantPressError(UnfitError):
    """A key that can't act; its text is a sentence."""

    field = "action"


@dataclass(frozen=True)
class Key:
    """A key as a page sends it. `changes` are a void's reason and note, or conditions."""

    id: UUID
    action: Action
    pressed_at: datetime
    run: Run | None = None
    changes: Mapping[str, Any] | None = None
    revision: int | None = None


def press(recorder: Recorder, key: Key, person: User) -> Press:
    """Carry a key out once. Raises CantPressError where it can't act."""
    with transaction.atomic():
        Recorder.objects.select_for_update().get(pk=recorder.pk)
        known = Press.objects.filter(pk=key.id).first()
        if known:
            return known
        made = Press(id=key.id, recorder=recorder, action=key.action, run=key.run, pressed_by=person)
        made.pressed_at = key.pressed_at
        made.before = _ACTS[key.action](recorder, key, person)
        made.save()
    return made


def last_press(recorder: Recorder) -> Press | None:
    """What an undo would take back."""
    return recorder.presses.filter(undone=False).exclude(action=Action.UNDO).select_related("run").last()


def _decide(recorder: Recorder, key: Key, person: User) -> dict[str, Any]:
    run = _run_of(recorder, key)
    step = ScheduledRun.objects.filter(run=run).first()
    before = {name: getattr(run, name) for name in DECISION} | {"step": step.pk if step else None}
    if key.action == Action.VOID:
        reason = (key.changes or {}).get("reason")
        if not reason:
            raise CantPressError("Say why the run is void.")
        changes = {"validity": Validity.VOID, "void_reason": reason, "void_note": (key.changes or {}).get("note", "")}
    else:
        changes = {"validity": Validity.VALID, "void_reason": "", "void_note": ""}
    run = _change(run, {**changes, "decided": True}, key.revision, person)
    if key.action == Action.VOID and step:
        settle(step, {"state": ScheduledRunState.OPEN, "run": None})
    elif key.action == Action.KEEP and step is None:
        _fill(recorder, run)
    return before | {"revision": run.revision}


def _fill(recorder: Recorder, run: Run) -> None:
    """A run that is kept after all is the next one that the day wants, if it is of that kind."""
    step = next_step(recorder)
    if step and fulfills(run, step):
        settle(step, {"state": ScheduledRunState.DONE, "run": run})


def _set_conditions(recorder: Recorder, key: Key, person: User) -> dict[str, Any]:
    run = _run_of(recorder, key)
    changes = dict(key.changes or {})
    before = {name: getattr(run, name) for name in changes}
    run = _change(run, changes, key.revision, person)
    return before | {"revision": run.revision}


def _skip(recorder: Recorder, key: Key, person: User) -> dict[str, Any]:
    step = next_step(recorder)
    if step is None:
        raise CantPressError("No run is left on this test day.")
    settle(step, {"state": ScheduledRunState.SKIPPED})
    return {"step": step.pk}


def _undo(recorder: Recorder, key: Key, person: User) -> dict[str, Any]:
    last = last_press(recorder)
    if last is None:
        raise CantPressError("There is nothing to undo.")
    if last.action == Action.SKIP:
        settle(ScheduledRun.objects.get(pk=last.before["step"]), {"state": ScheduledRunState.OPEN})
    elif last.run:
        run = last.run
        changes = {name: value for name, value in last.before.items() if name not in ("step", "revision")}
        run = _change(run, changes, last.before.get("revision"), person)
        if "step" in last.before:
            _put_back(run, last.before["step"])
    last.undone = True
    last.save(update_fields=["undone"])
    return {"undid": str(last.pk)}


def _put_back(run: Run, step: int | None) -> None:
    """Link a run to the step that it was linked to before a key, or to none."""
    linked = ScheduledRun.objects.filter(run=run).first()
    if linked and linked.pk != step:
        settle(linked, {"state": ScheduledRunState.OPEN, "run": None})
    free = ScheduledRun.objects.filter(pk=step, run=None).first() if step else None
    if free:
        settle(free, {"state": ScheduledRunState.DONE, "run": run})


def _run_of(recorder: Recorder, key: Key) -> Run:
    if key.run is None:
        raise CantPressError("Say which run.")
    if not Recording.objects.filter(recorder=recorder, log=key.run.log_id).exists():
        raise CantPressError("That run was recorded with another recorder.")
    return key.run


def _change(run: Run, changes: Mapping[str, Any], seen: int | None, person: User) -> Run:
    """Change a run, unless somebody else changed the same fields after the screen had shown them.

    One's own keys follow one another without a reload between them, so their changes do not count.
    """
    current = Run.objects.select_for_update().get(pk=run.pk)
    if seen is not None:
        later = changes_of(current).filter(revision__gt=seen).exclude(action__person=person)
        for change in later.select_related("action__person"):
            if fields := set(change.values) & set(changes):
                message = f"{change.action.person} changed this run in the meantime ({min(fields).replace('_', ' ')})."
                raise CantPressError(f"{message} Look again, then decide.")
    return change_run(current, changes, current.revision, person)


_ACTS = {
    Action.KEEP: _decide,
    Action.VOID: _decide,
    Action.CONDITIONS: _set_conditions,
    Action.SKIP: _skip,
    Action.UNDO: _undo,
}
