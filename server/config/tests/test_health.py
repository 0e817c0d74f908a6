"""Health: lives, and is fit or says what it lacks; of each fault the answer names it and is a 503."""

from __future__ import annotations

import shutil
import tempfile
from collections import namedtuple
from datetime import timedelta
from pathlib import Path
from unittest import mock

from django.core.files.storage import default_storage
from django.db import OperationalError
from django.test import TestCase
from django.utils import timezone
from django_tasks_db.models import DBTaskResult, get_date_max

from config import health

Usage = namedtuple("Usage", "total used free")


class HealthTest(TestCase):
    def ready(self, status: int) -> dict:
        answer = self.client.get("/health/ready")
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_a_sound_installation_is_ready_and_asks_for_no_log_in(self):
        self.assertEqual(self.client.get("/health/live").json(), {"live": True})
        sound = {"ready": True, "database": "ok", "clock": "ok", "store": "ok", "tasks": "ok", "disk": "ok"}
        self.assertEqual(self.ready(200), sound)

    def test_a_database_that_is_away_is_named(self):
        with mock.patch.object(health.connection, "cursor", side_effect=OperationalError("gone away")):
            found = self.ready(503)
        self.assertEqual((found["database"], found["store"]), ("The database does not answer.", "ok"))

    def test_a_store_that_cannot_be_written_is_named(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        (folder / "file").touch()
        with mock.patch.object(default_storage, "path", lambda name: str(folder / "file" / name)):
            self.assertRegex(self.ready(503)["store"], "store can't be written")

    def test_a_clock_that_is_off_is_named(self):
        now = timezone.now()
        with mock.patch.object(health.timezone, "now", return_value=now - timedelta(hours=1)):
            found = self.ready(503)["clock"]
        self.assertEqual(found, "This machine's clock is 60 minutes behind the database's: set both by NTP.")

    def test_a_full_disk_is_named(self):
        with mock.patch.object(shutil, "disk_usage", lambda path: Usage(10, 10, 1_000_000)):
            self.assertIn("1 MB left", self.ready(503)["disk"])

    def test_tasks_that_nobody_takes_are_named(self):
        waiting = DBTaskResult.objects.create(
            task_path="runs.tasks.none", args_kwargs={"args": [], "kwargs": {}}, run_after=get_date_max()
        )
        self.assertEqual(self.ready(200)["tasks"], "ok")
        DBTaskResult.objects.filter(pk=waiting.pk).update(enqueued_at=timezone.now() - timedelta(minutes=3))
        self.assertIn("no task worker runs", self.ready(503)["tasks"])
