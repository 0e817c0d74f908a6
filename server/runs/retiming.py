"""Timing runs again, from the fixes that are kept with them, where what they rest on has changed."""

from __future__ import annotations

import io
import logging
from collections.abc import Callable
from dataclasses import dataclass, field

from django.db import transaction

from config.again import whole
from config.connections import AWAY
from coombe_core.analysis import AnalyzedRun, time_runs
from coombe_core.detection.can_data import AlignedCan
from coombe_core.formats.can_log import read_can_log
from coombe_core.formats.reading import CanError
from coombe_core.timing.results import QUANTITIES
from coombe_core.timing.results import Measured as CoreMeasured
from coombe_core.uncertainty import Value
from runs import resting, store
from runs.models import CanLog, Measured, Run
from runs.storing import SAME_RUN_S, replace_results, request_of
from runs.traces import trace_of

logger = logging.getLogger(__name__)


class CantRetimeError(ValueError):
    """A run that can't be timed again; its text is a sentence."""


@dataclass(frozen=True)
class Change:
    """A value that moved by more than its u95."""

    run: int
    name: str
    clock: str
    quantity: str
    before: Value
    after: Value | None

    def __str__(self) -> str:
        now = f"{self.after.value:.4g} ± {self.after.u95:.2g}" if self.after else "absent"
        was = f"{self.before.value:.4g} ± {self.before.u95:.2g}"
        return f"run {self.run}, {self.name} ({self.clock}), {self.quantity}: {was} → {now}"


@dataclass
class Summary:
    """What timing again came to."""

    timed: int = 0
    changes: list[Change] = field(default_factory=list)
    failed: list[tuple[int, str]] = field(default_factory=list)


def retime_stale(progress: Callable[[int, int], None] = lambda done, of: None) -> Summary:
    """Time every stale run again, one after the other; what breaks off goes on where it was."""
    summary = Summary()
    waiting = list(Run.objects.filter(stale=True).order_by("pk").values_list("pk", flat=True))
    for done, pk in enumerate(waiting, 1):
        try:
            changes = retime(pk)
        except Run.DoesNotExist:
            continue
        except AWAY:
            raise
        except Exception as error:
            if not isinstance(error, CantRetimeError | store.StoreError):
                logger.exception("run %d could not be timed again", pk)
            _give_up(pk, str(error) if isinstance(error, CantRetimeError) else f"{type(error).__name__}: {error}")
            summary.failed.append((pk, str(error)))
        else:
            summary.timed += 1
            summary.changes += changes
        progress(done, len(waiting))
    return summary


def retime(pk: int) -> list[Change]:
    """Time a run again; what moved by more than its u95. Raises CantRetimeError, and leaves the run as it was."""
    run = Run.objects.select_related("setup__car", "course", "log__can_log", "trace").get(pk=pk)
    digest = resting.digests(Run.objects.filter(pk=pk))[pk]
    changes = _replaced(pk, _timed(run), digest)
    resting.look(Run.objects.filter(pk=pk))  # stale again where something changed meanwhile
    return changes


@whole
def _replaced(pk: int, timed: AnalyzedRun, digest: str) -> list[Change]:
    """Put the new results in the place of the old ones; what moved."""
    with transaction.atomic():
        locked = Run.objects.select_for_update().select_related("setup__car").get(pk=pk)
        before = {(row.name, row.clock): row for row in locked.measured.all()}
        replace_results(locked, timed)
        Run.objects.filter(pk=pk).update(rests_on=digest, stale=False, retiming_trouble="")
        return _changes(pk, before, timed)


def _timed(run: Run) -> AnalyzedRun:
    trace = trace_of(run)
    log_s = (run.start_utc - trace.start_utc).total_seconds()
    can_data = _can_data(run, log_s)
    found = [each for each in time_runs(trace, request_of(run), can_data) if each.kind == run.kind]
    nearest = min(found, key=lambda each: abs(each.start_s - log_s), default=None)
    if nearest is None or abs(nearest.start_s - log_s) > SAME_RUN_S:
        raise CantRetimeError("The fixes no longer show this run, so its previous times stay.")
    return nearest


def _can_data(run: Run, log_s: float) -> AlignedCan | None:
    """The CAN log on the time axis of the run's own fixes; None where there is none, or its bytes are gone."""
    kept = CanLog.objects.filter(log=run.log_id).first()
    if kept is None:
        return None
    try:
        log = read_can_log(io.BytesIO(store.read(kept.sha256)), kept.dbc or None)
    except (CanError, store.StoreError):
        return None
    shift_s = log_s - run.start_s  # from seconds of the log to seconds of these fixes
    return AlignedCan(log, Value(kept.offset_s + shift_s, kept.offset_u95_s), kept.over_reading)


def _changes(pk: int, before: dict[tuple[str, str], Measured], timed: AnalyzedRun) -> list[Change]:
    after: dict[tuple[str, str], CoreMeasured] = {(row.name, row.clock): row for row in timed.measures}
    found = []
    for (name, clock), old in before.items():
        row, new = old.to_core(), after.get((name, clock))
        for quantity in QUANTITIES:
            was: Value | None = getattr(row, quantity)
            now: Value | None = getattr(new, quantity) if new else None
            if was is not None and (now is None or abs(now.value - was.value) > was.u95):
                found.append(Change(pk, name, clock, quantity, was, now))
    return found


def _give_up(pk: int, why: str) -> None:
    """Leave a run as it is, with the reason, until what it rests on changes again."""
    digest = resting.digests(Run.objects.filter(pk=pk)).get(pk, "")
    Run.objects.filter(pk=pk).update(stale=False, rests_on=digest, retiming_trouble=why[:300])
