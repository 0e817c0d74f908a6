"""Metrics: what stands in them is what the database and the processes say."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from datetime import UTC, datetime, timedelta
from unittest import mock

from django.conf import settings
from django.db import OperationalError
from django.test import TestCase
from django.urls import reverse
from prometheus_client import REGISTRY, generate_latest
from prometheus_client.parser import text_string_to_metric_families
from rest_framework.test import APIClient

from comparisons.models import Comparison
from home.metrics import registry
from recording.models import Recorder, Recording
from runs.models import Import
from runs.tests.factories import LogFactory, RunFactory, SetupFactory, UserFactory


def numbers() -> dict[str, float]:
    """Every sample, by its name and labels."""
    shown = generate_latest(registry()).decode()
    return {
        each.name + "".join(f" {value}" for value in each.labels.values()): each.value
        for family in text_string_to_metric_families(shown)
        for each in family.samples
    }


class StandingTest(TestCase):
    def test_what_stands_in_the_database_is_counted(self):
        setup, person = SetupFactory(), UserFactory()
        RunFactory(setup=setup, log=LogFactory(size_bytes=1000))
        for state in ("waiting", "waiting", "refused"):
            Import.objects.create(name="a", setup=setup, created_by=person, state=state, asked={})
        recorder = Recorder.objects.create(name="Left", setup=setup, trouble="No receiver.")
        now = datetime.now(UTC)
        Recording.objects.create(recorder=recorder, began_at=now - timedelta(hours=1), stopped_at=now)
        found = numbers()
        self.assertEqual(found["coombe_runs"], 1)
        self.assertEqual(found["coombe_store_bytes"], 1000)
        self.assertEqual((found["coombe_imports waiting"], found["coombe_imports refused"]), (2, 1))
        self.assertEqual(found["coombe_recordings_unstored"], 1)
        self.assertEqual(found["coombe_recorders_in_trouble"], 1)
        self.assertEqual(found["coombe_ready database"], 1)
        self.assertGreater(found["coombe_disk_free_bytes"], 0)

    def test_without_a_database_the_rest_is_shown(self):
        with mock.patch("home.metrics.Run.objects.count", side_effect=OperationalError(2002, "away")):
            found = numbers()
        self.assertIn("coombe_disk_free_bytes", found)
        self.assertNotIn("coombe_runs", found)

    def test_a_comparison_is_timed(self):
        comparison = Comparison.objects.create(title="?", measure="0-60 mph", clock="rollout", created_by=UserFactory())
        labels = {"part": "verdict"}
        before = REGISTRY.get_sample_value("coombe_comparing_seconds_count", labels) or 0
        client = APIClient()
        client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        client.get(reverse("comparison-detail", args=[comparison.pk]))
        self.assertEqual(REGISTRY.get_sample_value("coombe_comparing_seconds_count", labels), before + 1)


class ProcessesTest(TestCase):
    def test_what_several_processes_counted_is_added_up(self):
        with tempfile.TemporaryDirectory() as folder:
            env = os.environ | {"PROMETHEUS_MULTIPROC_DIR": folder}
            counting = "from config.metrics import FIXES; FIXES.labels('Left').inc(25)"
            for _ in range(2):
                subprocess.run([sys.executable, "-c", counting], cwd=settings.ROOT / "server", env=env, check=True)
            with mock.patch.dict(os.environ, {"PROMETHEUS_MULTIPROC_DIR": folder}):
                self.assertEqual(numbers()["coombe_fixes_total Left"], 50)
