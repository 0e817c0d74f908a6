"""What a run's results rest on beside its fixes: the one place that knows.

Everything that they are computed from is written into one digest, which the run keeps. Where the digest of what is
recorded now is another, the run is stale and is timed again. Whatever changes is found this way, by whatever way it
was changed; nobody has to report it.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Collection, Iterable
from typing import Any

from django.db.models import Model, QuerySet
from django.db.models.signals import post_save
from django.dispatch import receiver

from cars.models import Car, Setup
from coombe_core import __version__
from coombe_core.uncertainty import Value
from courses.models import Course
from history.services import changed
from runs.models import Receiver, Run

# Columns by the path from a run. Each is read by `storing.request_for`, `judging` or the core.
COLUMNS = (
    *("log__start_utc", "log__date_known", "setup_id", "setup__change", "setup__confirmed_by", "course_id"),
    *("setup__car__test_mass_kg", "setup__car__cda_m2", "setup__car__rolling_coefficient"),
    *("setup__car__power_kw", "course__slope_percent", "course__slope_u95_percent", "course__heading_deg"),
    *("wind_mps", "wind_from_deg", "charge_before_percent", "battery_temp_before_c", "battery_temp_after_c"),
    *("scheduled__day__plan__low_charge_percent", "scheduled__day__plan__high_charge_percent"),
    *(
        "scheduled__day__plan__low_battery_temp_c",
        "scheduled__day__plan__high_battery_temp_c",
        "scheduled__day__plan__kind",
    ),
    "log__can_log__id",
)
# Those that came later are left out where they are empty, so that older digests stay what they are.
LATER_COLUMNS = ("setup__test_mass_kg", "setup__cda_m2")
# The way from a run to what it rests on.
RUNS_OF: dict[type[Model], str] = {Run: "pk", Car: "setup__car", Setup: "setup", Course: "course"}
SOME = 500


def digests(runs: QuerySet[Run]) -> dict[int, str]:
    """The digest of what each of some runs rests on now, by its number."""
    rows = list(runs.order_by("pk").values("pk", "receiver", *COLUMNS, *LATER_COLUMNS))
    profiles = _profiles({row["course_id"] for row in rows if row["course_id"]})
    smoothings = _smoothings({row["receiver"] for row in rows if row["receiver"]})
    return {row["pk"]: _digest(row, profiles.get(row["course_id"]), smoothings.get(row["receiver"])) for row in rows}


def _profiles(courses: set[int]) -> dict[int, list[tuple[float, float]]]:
    found: dict[int, list[tuple[float, float]]] = {course: [] for course in courses}
    for course in Course.objects.filter(pk__in=courses).prefetch_related("stations"):
        found[course.pk] = [(station.distance_m, station.elevation_m) for station in course.stations.all()]
    return found


def _smoothings(names: set[str]) -> dict[str, Value]:
    found = {each.name: each.smoothing for each in Receiver.objects.filter(name__in=names)}
    return {name: smoothing for name, smoothing in found.items() if smoothing}


def _digest(row: dict[str, Any], profile: list[tuple[float, float]] | None, smoothing: Value | None) -> str:
    later = {name: row[name] for name in LATER_COLUMNS if row[name] is not None}
    if smoothing:
        later["smoothing"] = (smoothing.value, smoothing.u95)
    basis = {"core": __version__, "profile": profile, **{name: row[name] for name in COLUMNS}, **later}
    return hashlib.sha256(json.dumps(basis, sort_keys=True, default=str).encode()).hexdigest()[:32]


def rests_on(field: str) -> bool:
    """Whether a field of a run is one that its results are computed from."""
    return field == "receiver" or field in COLUMNS or f"{field}_id" in COLUMNS


def settle(run: Run) -> None:
    """Note that a run's results are those of what is recorded now."""
    digest = digests(Run.objects.filter(pk=run.pk))[run.pk]
    Run.objects.filter(pk=run.pk).update(rests_on=digest, stale=False)


def look(runs: QuerySet[Run]) -> int:
    """Mark those of some runs that are stale now, and those that are so no more; how many are stale."""
    stale = 0
    numbers = list(runs.order_by("pk").values_list("pk", flat=True))
    for some in _pieces(numbers):
        now = digests(Run.objects.filter(pk__in=some))
        known = dict(Run.objects.filter(pk__in=some).values_list("pk", "rests_on"))
        changed = [pk for pk in some if known.get(pk) != now.get(pk)]
        Run.objects.filter(pk__in=changed, stale=False).update(stale=True)
        Run.objects.filter(pk__in=set(some) - set(changed), stale=True).update(stale=False)
        stale += len(changed)
    return stale


def _pieces(numbers: list[int]) -> Iterable[list[int]]:
    return (numbers[at : at + SOME] for at in range(0, len(numbers), SOME))


@receiver(changed)
def _rows_changed(sender: type[Model], rows: Collection[int], **kwargs: Any) -> None:
    """A person changed rows, or took a change back; many at once come without a signal of Django's."""
    if sender is Receiver:
        look(Run.objects.exclude(receiver=""))  # of whatever name: it may have been another
    elif path := RUNS_OF.get(sender):
        look(Run.objects.filter(**{f"{path}__in": rows}))


@receiver(post_save)
def _row_saved(sender: type[Model], instance: Model, created: bool, **kwargs: Any) -> None:
    """A row was saved in whatever way, such as on the admin site; runs themselves are saved whenever they are timed."""
    if (path := RUNS_OF.get(sender)) and sender is not Run and not created:
        look(Run.objects.filter(**{path: instance}))
