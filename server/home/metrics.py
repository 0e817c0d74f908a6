"""How an installation stands, as numbers for a monitoring system; asked of the database and the disk each time."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from django.conf import settings
from django.db.models import Count, Sum
from django.utils import timezone
from django_tasks_db.models import DBTaskResult
from prometheus_client import CollectorRegistry
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector

from config.connections import AWAY, release_connections
from config.health import CHECKS, state_of
from coombe_launcher import backup_state
from recording.finishing import unstored
from recording.models import Recorder
from runs.models import Attachment, CanLog, Import, Log, Run

FOLDER = "PROMETHEUS_MULTIPROC_DIR"


def registry() -> CollectorRegistry:
    """Everything: what all processes counted, and how things stand."""
    made = CollectorRegistry()
    if FOLDER in os.environ:
        MultiProcessCollector(made)  # type: ignore[no-untyped-call]
    made.register(Standing())
    return made


class Standing(Collector):
    """Numbers of now."""

    def describe(self) -> list[GaugeMetricFamily]:
        """Nothing beforehand: the database is asked only when somebody looks."""
        return []

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """The numbers; without a database those that need none."""
        try:
            yield from self._numbers()
        except AWAY:
            return
        finally:
            release_connections()  # each look is made in a thread of its own

    def _numbers(self) -> Iterator[GaugeMetricFamily]:
        fit = GaugeMetricFamily("coombe_ready", "1 where a part works as it must.", labels=["part"])
        for name, check in CHECKS.items():
            fit.add_metric([name], float(state_of(check) == "ok"))
        yield fit
        yield from self._of_the_disk()
        yield from self._of_the_database()

    def _of_the_disk(self) -> Iterator[GaugeMetricFamily]:
        free = shutil.disk_usage(settings.VAR).free
        yield GaugeMetricFamily("coombe_disk_free_bytes", "Free where the data is.", free)
        spooled = sum(each.stat().st_size for each in Path(settings.SPOOL).rglob("*") if each.is_file())
        yield GaugeMetricFamily("coombe_spool_bytes", "Recorded and not yet in the store.", spooled)
        noted = backup_state.read(settings.VAR)
        if noted and noted["good_at"]:
            age = datetime.now(UTC) - datetime.fromisoformat(noted["good_at"])
            yield GaugeMetricFamily("coombe_backup_age_seconds", "Of the latest good backup.", age.total_seconds())

    def _of_the_database(self) -> Iterator[GaugeMetricFamily]:
        yield GaugeMetricFamily("coombe_runs", "Runs.", Run.objects.count())
        yield GaugeMetricFamily("coombe_store_bytes", "Stored files, as they were received.", stored_bytes())
        imports = GaugeMetricFamily("coombe_imports", "Imports by how far they came.", labels=["state"])
        for state, count in Import.objects.order_by().values_list("state").annotate(Count("id")):
            imports.add_metric([state], count)
        yield imports
        waiting = DBTaskResult.objects.ready()
        yield GaugeMetricFamily("coombe_tasks_waiting", "Tasks that wait for a worker.", waiting.count())
        oldest = waiting.order_by("enqueued_at").values_list("enqueued_at", flat=True).first()
        age_s = (timezone.now() - oldest).total_seconds() if oldest else 0.0
        yield GaugeMetricFamily("coombe_task_wait_seconds", "Of the task that waits longest.", age_s)
        yield GaugeMetricFamily("coombe_recordings_unstored", "Recordings that are not stored.", unstored().count())
        troubled = Recorder.objects.exclude(trouble="").count()
        yield GaugeMetricFamily("coombe_recorders_in_trouble", "Recorders that say what is wrong.", troubled)


def stored_bytes() -> int:
    """Of logs and attachments."""
    return sum(
        model.objects.aggregate(total=Sum(field))["total"] or 0
        for model, field in ((Log, "size_bytes"), (CanLog, "size_bytes"), (Attachment, "size_bytes"))
    )
