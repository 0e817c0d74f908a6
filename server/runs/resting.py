"""What a run's results rest on beside its fixes: the one place that knows.

Everything that they are computed from is written into one digest, which the run keeps. Where the digest of what is
written down now is another, the run is stale and is timed again. Whatever changes is found this way, by whatever way it
was changed; nobody has to report it.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from typing import Any

from django.db.models import QuerySet
from django.db.models.signals import post_save
from django.dispatch import receiver

from cars.models import Car, SetUp
from coombe_core import __version__
from courses.models import Course
from runs.models import Run

# Columns by the path from a run. Each is read by `storing.request_for`, `judging` or the core.
COLUMNS = (
    *("log__start_utc", "log__date_known", "set_up_id", "set_up__change", "set_up__confirmed_by", "course_id"),
    *("set_up__car__test_mass_kg", "set_up__car__cda_m2", "set_up__car__rolling_coefficient"),
    *("set_up__car__power_kw", "course__slope_percent", "course__slope_u95_percent", "course__heading_deg"),
    *("wind_mps", "wind_from_deg", "charge_before_percent", "pack_temp_before_c", "pack_temp_after_c"),
    *("planned__day__plan__low_charge_percent", "planned__day__plan__high_charge_percent"),
    *("planned__day__plan__low_pack_temp_c", "planned__day__plan__high_pack_temp_c", "planned__day__plan__kind"),
    "log__bus__id",
)
SOME = 500


def digests(runs: QuerySet[Run]) -> dict[int, str]:
    """The digest of what each of some runs rests on now, by its number."""
    rows = list(runs.order_by("pk").values("pk", *COLUMNS))
    profiles = _profiles({row["course_id"] for row in rows if row["course_id"]})
    return {row["pk"]: _digest(row, profiles.get(row["course_id"])) for row in rows}


def _profiles(courses: set[int]) -> dict[int, list[tuple[float, float]]]:
    found: dict[int, list[tuple[float, float]]] = {course: [] for course in courses}
    for course in Course.objects.filter(pk__in=courses).prefetch_related("stations"):
        found[course.pk] = [(station.way_m, station.height_m) for station in course.stations.all()]
    return found


def _digest(row: dict[str, Any], profile: list[tuple[float, float]] | None) -> str:
    basis = {"core": __version__, "profile": profile, **{name: row[name] for name in COLUMNS}}
    return hashlib.sha256(json.dumps(basis, sort_keys=True, default=str).encode()).hexdigest()[:32]


def settle(run: Run) -> None:
    """Note that a run's results are those of what is written down now."""
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


@receiver(post_save, sender=Car)
def _car_saved(instance: Car, created: bool, **kwargs: Any) -> None:
    if not created:
        look(Run.objects.filter(set_up__car=instance))


@receiver(post_save, sender=SetUp)
def _set_up_saved(instance: SetUp, created: bool, **kwargs: Any) -> None:
    if not created:
        look(Run.objects.filter(set_up=instance))


@receiver(post_save, sender=Course)
def _course_saved(instance: Course, created: bool, **kwargs: Any) -> None:
    if not created:
        look(Run.objects.filter(course=instance))
