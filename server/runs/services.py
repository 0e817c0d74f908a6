"""Importing logs and changing what is written about runs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import F

from accounts.models import User
from cars.models import Setup
from config.again import whole
from config.errors import Conflict, UnfitError
from config.revisions import STALE
from coombe_core import __version__
from coombe_core.analysis import Analysis, AnalyzedRun, Each, analyse_log
from coombe_core.formats.reading import CanError
from coombe_core.planning.spreading import spread
from coombe_core.timing.results import Untimed
from coombe_core.wording.changes import log_deletion_sentence
from coombe_core.wording.untimed import untimed_reason
from history import trash
from history.services import act
from runs import can_logs, layouts, store
from runs.can_logs import CanUpload
from runs.dating import Dating, dated
from runs.models import Attachment, Log, Rejection, Run, UntimedRun, Validity
from runs.names import plain_name
from runs.storing import add_run, request_for

# What was read at the last pull of a log, by the condition whose first value it goes with.
LAST_OF = {
    "charge_before_percent": "last_charge_before_percent",
    "battery_temp_before_c": "last_battery_temp_before_c",
}

Noted = Callable[[Sequence[AnalyzedRun]], Sequence[Mapping[str, Any]]]


@dataclass(frozen=True)
class Imported:
    """What an import came to; `already` where the same bytes had been imported before."""

    log: Log
    already: bool


def import_log(
    name: str,
    data: bytes,
    setup: Setup,
    person: User,
    conditions: Mapping[str, Any],
    layout: Mapping[str, str] | None = None,
    can_log: CanUpload | None = None,
    dating: Dating | None = None,
    later: bool = False,
    each: Each = map,
    noted: Noted | None = None,
) -> Imported:
    """Read a log, time its runs and store all of it or nothing.

    `layout` says what the headings of a table mean, and is remembered once the log was read with it; `can_log` is the
    CAN log of the same drive; `dating` is when a log without a date was driven, which is said `later` or not at all.
    The bytes are on disk before the rows that name them commit. Raises ReadError where the log can't be read, CanError
    where the CAN log can't or shows another drive, UndatedError where the log has no date and none is given. `each` is
    how its runs are timed; `noted` gives what was noted of each run beside the conditions of all.
    """
    parsed_can_log = can_log.read() if can_log else None
    request = replace(request_for(setup, conditions), layout=layout or layouts.remembered(data), can_log=parsed_can_log)
    analysis = analyse_log(data, request, each)
    if layout:
        layouts.remember(data, layout, person)
    if (known := _known(analysis.sha256)) and can_log:
        raise CanError("the log is imported already; delete it first to import it with its CAN log")
    if not known:
        analysis = dated(analysis, dating, later)
    store.keep(data, analysis.sha256)  # of a known log too: that mends bytes which were lost or damaged
    if known:
        return Imported(known, already=True)
    can_sha256 = can_log.keep() if can_log else ""
    own = _of_each(analysis.runs, conditions, noted)
    can = (replace(can_log, name=plain_name(can_log.name)), can_sha256) if can_log else None
    try:
        return Imported(_stored(plain_name(name), len(data), analysis, setup, person, own, can), already=False)
    except IntegrityError:
        if known := _known(analysis.sha256):  # the same bytes came in twice at once, and the other was first
            return Imported(known, already=True)
        raise


@whole
def _stored(
    name: str,
    size: int,
    analysis: Analysis,
    setup: Setup,
    person: User,
    own: Sequence[Mapping[str, Any]],
    can: tuple[CanUpload, str] | None,
) -> Log:
    """The rows of a log and its runs, all of them or none; `own` are the conditions of each run."""
    with act(person, f"Imported log {name}") as made:
        log = _add_log(name, size, analysis, person)
        if can and analysis.can_data:
            can_logs.record(log, *can, analysis.can_data)
        for timed, its_own in zip(analysis.runs, own, strict=True):
            add_run(log, timed, analysis.reading.trace, analysis.can_data, setup, its_own)
        note_untimed(log, analysis.untimed)
        made.added(log, *log.runs.all())
    return log


def _of_each(runs: Sequence[AnalyzedRun], conditions: Mapping[str, Any], noted: Noted | None) -> list[dict[str, Any]]:
    """The conditions of each run, with what was noted of it beside those of all."""
    own = noted(runs) if noted else [{}] * len(runs)
    return [{**shared, **beside} for shared, beside in zip(_spread(runs, conditions), own, strict=True)]


def _spread(runs: Sequence[AnalyzedRun], conditions: Mapping[str, Any]) -> list[dict[str, Any]]:
    """The conditions of each run: those of all, with what was read at the first and the last pull spread between."""
    shared = {name: value for name, value in conditions.items() if name not in LAST_OF.values()}
    spread_out = {
        name: spread([run.kind != "stop" for run in runs], shared[name], conditions[last])
        for name, last in LAST_OF.items()
        if shared.get(name) is not None and conditions.get(last) is not None
    }
    estimated = {"estimated": sorted(spread_out)} if spread_out else {}
    return [
        shared | {name: round(values[place], 1) for name, values in spread_out.items()} | estimated
        for place in range(len(runs))
    ]


def note_untimed(log: Log, untimed: Sequence[Untimed]) -> None:
    """Keep which runs were found and could not be timed, in place of what was kept before."""
    log.untimed.all().delete()
    UntimedRun.objects.bulk_create(
        UntimedRun(log=log, kind=each.kind, start_s=each.start_s, reason=untimed_reason(each)) for each in untimed
    )


def _known(sha256: str) -> Log | None:
    return Log.objects.filter(sha256=sha256).first()


def _add_log(name: str, size: int, analysis: Analysis, person: User) -> Log:
    reading = analysis.reading
    log = Log.objects.create(
        sha256=analysis.sha256,
        name=plain_name(name),
        size_bytes=size,
        format=reading.format,
        fixes=len(reading.trace),
        rejected=reading.rejections.total,
        rate_hz=reading.trace.rate_hz,
        start_utc=reading.trace.start_utc,
        date_known=reading.trace.date_known,
        duration_s=reading.trace.duration_s,
        core_version=__version__,
        imported_by=person,
    )
    kept = reading.rejections[: Rejection.MOST_KEPT]
    Rejection.objects.bulk_create(Rejection(log=log, line=row.line, reason=row.reason[:200]) for row in kept)
    return log


@dataclass(frozen=True)
class RunChange:
    """What is to change of a run; `revision` is the one that was read, where another person may have changed it."""

    run: Run
    values: Mapping[str, Any]
    revision: int | None = None


def change_runs(changes: Sequence[RunChange], person: User, title: str) -> list[Run]:
    """Change what is recorded of runs, all of it or nothing, as one action.

    Raises Conflict where somebody else changed a run since it was read, or deleted it.
    """
    asked = {change.run.pk: change for change in changes}
    with transaction.atomic():
        rows = {row.pk: row for row in Run.objects.select_for_update().filter(pk__in=asked).order_by("pk")}
        if gone := set(asked) - set(rows):
            raise Conflict(f"{len(gone)} of the {len(asked)} runs were deleted in the meantime. Nothing was changed.")
        for pk, row in rows.items():
            _refuse_stale(row, asked[pk])
        for setup, some in _by_setup(changes).items():
            refuse_unfit(some, setup)
        with act(person, title, *rows.values()):
            alike: dict[str, tuple[dict[str, Any], list[int]]] = {}
            for pk, row in rows.items():
                if values := _differing(row, asked[pk].values):
                    for name, value in values.items():
                        setattr(row, name, value)
                    row.revision += 1
                    alike.setdefault(repr(values), (values, []))[1].append(pk)
            for values, pks in alike.values():  # one statement for all that change alike
                Run.objects.filter(pk__in=pks).update(**values, revision=F("revision") + 1)
    return [rows[pk] for pk in asked]


def _differing(row: Run, asked: Mapping[str, Any]) -> dict[str, Any]:
    """What a change makes another of a run; a value that somebody gives is no estimate any more."""
    values = {name: value for name, value in asked.items() if getattr(row, name) != value}
    still_estimated = [name for name in row.estimated if name not in values]
    return values if still_estimated == row.estimated else {**values, "estimated": still_estimated}


def refuse_unfit(runs: Sequence[Run], setup: Setup) -> None:
    """Raises UnfitError where runs can't get a setup: one that is in a plan stays with its car."""
    planned = Run.objects.filter(pk__in=[run.pk for run in runs], scheduled__isnull=False)
    stuck = planned.exclude(setup__car=setup.car_id).order_by("start_utc").first()
    if stuck:
        raise UnfitError(
            f"{setup} is a setup of another car, and run {stuck} is in the plan {stuck.scheduled.day.plan}. "
            "Take it out of that day's order first.",
            "setup",
        )


def _by_setup(changes: Sequence[RunChange]) -> dict[Setup, list[Run]]:
    found: dict[Setup, list[Run]] = defaultdict(list)
    for change in changes:
        if "setup" in change.values:
            found[change.values["setup"]].append(change.run)
    return found


def _refuse_stale(row: Run, change: RunChange) -> None:
    if change.revision is not None and row.revision != change.revision:
        raise Conflict(STALE, {name: row.serializable_value(name) for name in ("revision", *change.values)})


def change_run(run: Run, changes: Mapping[str, Any], revision: int, person: User, verb: str = "Changed") -> Run:
    """Change what is recorded of one run. Raises Conflict where somebody else changed it since `revision` was read."""
    return change_runs([RunChange(run, changes, revision)], person, f"{verb} run {run}")[0]


def comparisons_of(runs: Iterable[Run]) -> list[str]:
    """The titles of the saved comparisons that runs are in."""
    members = Run.objects.filter(pk__in=[run.pk for run in runs], memberships__isnull=False)
    return sorted(set(members.values_list("memberships__group__comparison__title", flat=True)))


def what_hangs_on(log: Log) -> str:
    """What deleting a log would take with it, as a sentence."""
    runs = list(log.runs.all())
    attachments = Attachment.objects.filter(run__log=log).count()
    scheduled = Run.objects.filter(log=log, scheduled__isnull=False).count()
    return log_deletion_sentence(len(runs), attachments, comparisons_of(runs), scheduled, trash.KEPT.days)


def void_run(run: Run, reason: str, note: str, revision: int, person: User) -> Run:
    """Void a run: it is kept, and out of every statistic."""
    changes = {"validity": Validity.VOID, "void_reason": reason, "void_note": note, "decided": True}
    return change_run(run, changes, revision, person, "Voided")


def keep_run(run: Run, revision: int, person: User) -> Run:
    """Count a run, also against a flag that proposes to void it."""
    changes = {"validity": Validity.VALID, "void_reason": "", "void_note": "", "decided": True}
    return change_run(run, changes, revision, person, "Kept")
