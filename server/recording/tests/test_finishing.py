"""What ends a recording: the spool goes only when every run and byte of it is stored, and what failed is kept."""

from __future__ import annotations

import hashlib
import io
import os
import shutil
import tempfile
from datetime import UTC, datetime
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import TestCase, override_settings
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from recording import finishing, keeping
from recording.finishing import CantStoreError, finish, finish_all, in_trouble, unstored
from recording.models import Recorder, Recording
from recording.spool import CAN_FILE, LOCK, hold
from runs import store
from runs.models import Log, Run
from runs.tests.factories import SetupFactory, UserFactory
from runs.tests.test_can_logs import drive
from runs.tests.test_import import log_bytes

BEGAN = datetime(2026, 4, 18, 9, 0, tzinfo=UTC)


class FinishingCase(TestCase):
    def setUp(self):
        self.var = Path(tempfile.mkdtemp(prefix="coombe-"))
        self.addCleanup(shutil.rmtree, self.var, ignore_errors=True)
        storages = {
            **settings.STORAGES,
            "default": {**settings.STORAGES["default"], "OPTIONS": {"location": self.var / "store"}},
        }
        self.enterContext(override_settings(SPOOL=self.var / "spool", STORAGES=storages))
        self.person = UserFactory()
        self.recorder = Recorder.objects.create(name="Car one", setup=SetupFactory(), started_by=self.person)
        self.data = log_bytes()

    def spooled(self, data: bytes | None = None, **facts) -> Recording:
        """A recording that has stopped, its bytes in the spool and nothing stored: as a kill leaves it."""
        made = {**keeping.facts_of(self.recorder), "recorder": self.recorder, "began_at": BEGAN, "stopped_at": BEGAN}
        recording = Recording.objects.create(**made | facts)
        folder = keeping.folder_of(recording)
        folder.mkdir(parents=True)
        (folder / "receiver").write_bytes(self.data if data is None else data)
        return recording

    def assert_waits(self, recording: Recording, why: str) -> None:
        recording.refresh_from_db()
        self.assertIsNone(recording.stored_at)
        self.assertIn(why, recording.trouble)
        self.assertTrue((keeping.folder_of(recording) / "receiver").exists())
        self.assertIn(recording, unstored())

    def assert_stored(self, recording: Recording) -> None:
        recording.refresh_from_db()
        self.assertIsNotNone(recording.stored_at)
        self.assertEqual(recording.trouble, "")
        self.assertFalse(keeping.folder_of(recording).exists())
        self.assertEqual(store.read(recording.log.sha256), self.data)


class FinishTest(FinishingCase):
    def test_what_a_kill_left_is_stored_with_its_runs_and_only_then_the_spool_goes(self):
        recording = self.spooled()
        self.assertEqual(finish_all(everything=False), [])
        self.assert_stored(recording)
        self.assertEqual([run.kind for run in recording.log.runs.order_by("start_s")], ["standing", "stop"])
        self.assertEqual(recording.log.imported_by, self.person)

    def test_finishing_twice_doubles_nothing(self):
        recording = self.spooled()
        with mock.patch("recording.finishing.shutil.rmtree"):
            finish(recording)
            recording.refresh_from_db()
            finish(recording)
        self.assertEqual((Log.objects.count(), Run.objects.count()), (1, 2))

    def test_a_run_that_cannot_be_stored_keeps_the_spool_and_not_the_others_from_being_stored(self):
        recording = self.spooled()
        real = keeping.add_run

        def failing(log, timed, *rest):
            if timed.kind == "standing":
                raise ValueError("a value that nobody foresaw")
            return real(log, timed, *rest)

        with mock.patch("recording.keeping.add_run", failing), self.assertLogs("recording.finishing"):
            self.assertFalse(finish(recording))
        self.assert_waits(recording, "1 of 2 runs could not be stored: ValueError: a value that nobody foresaw")
        self.assertEqual(Run.objects.get().kind, "stop")
        self.assertEqual(finish_all(everything=False), [])  # a known trouble waits for somebody
        self.assertEqual(finish_all(everything=True), [])  # such as an upgrade
        self.assert_stored(recording)
        self.assertEqual(Run.objects.count(), 2)

    def test_a_store_that_does_not_hold_the_bytes_keeps_the_spool(self):
        recording = self.spooled()
        with mock.patch("runs.store.holds", return_value=False):
            self.assertFalse(finish(recording))
        self.assert_waits(recording, "the disk may be failing")

    def test_trouble_is_announced_once_and_again_when_it_is_another(self):
        heard: list[str] = []
        listener = lambda trouble, **kwargs: heard.append(trouble)  # noqa: E731 - kept alive for the signal
        in_trouble.connect(listener)
        self.addCleanup(in_trouble.disconnect, listener)
        recording = self.spooled()
        for why in ("first", "first", "second"):
            with mock.patch("recording.finishing._finish", side_effect=CantStoreError(why)):
                self.assertFalse(finish(Recording.objects.get(pk=recording.pk)))
        self.assertEqual(heard, ["first", "second"])

    def test_a_full_disk_keeps_the_spool(self):
        recording = self.spooled()
        with override_settings(SPOOL_FLOOR_BYTES=10**18):
            self.assertFalse(finish(recording))
        self.assert_waits(recording, "Nothing was stored; make room")
        finish(recording)
        self.assert_stored(recording)

    def test_bytes_without_a_fix_wait_for_somebody(self):
        recording = self.spooled(b"\xff\x00 at the wrong baud rate" * 50)
        finish(recording)
        self.assert_waits(recording, "no fix could be read")

    def test_a_spool_that_is_gone_is_told(self):
        log = Log.objects.create(
            name="x", size_bytes=0, format="nmea", fixes=0, rejected=0, rate_hz=25, start_utc=BEGAN, duration_s=0,
            core_version="1", imported_by=self.person,
        )  # fmt: skip
        recording = self.spooled(log=log)
        shutil.rmtree(keeping.folder_of(recording))
        self.assertFalse(finish(recording))
        recording.refresh_from_db()
        self.assertIn("spool is gone", recording.trouble)

    def test_a_recording_without_any_byte_is_done(self):
        recording = self.spooled(b"")
        self.assertTrue(finish(recording))
        self.assertFalse(Log.objects.exists())

    def test_one_that_another_process_works_on_is_left_to_it(self):
        recording = self.spooled()
        with hold(keeping.folder_of(recording) / LOCK):
            self.assertEqual(finish_all(everything=True), [])
        recording.refresh_from_db()
        self.assertIsNone(recording.stored_at)

    def test_its_recorder_may_be_gone(self):
        recording = self.spooled()
        self.recorder.delete()
        finish_all(everything=False)
        self.assert_stored(recording)
        self.assertEqual(recording.log.runs.first().setup, recording.setup)

    def test_its_log_may_be_gone(self):
        recording = self.spooled()
        keeping.open_log(recording, BEGAN, "nmea", 25.0)
        Log.objects.all().delete()
        recording.refresh_from_db()
        finish(recording)
        self.assert_stored(recording)

    def test_can_frames_are_stored_and_aligned(self):
        self.data, frames = drive()
        recording = self.spooled()
        (keeping.folder_of(recording) / CAN_FILE).write_bytes(frames)
        finish(recording)
        self.assert_stored(recording)
        self.assertEqual(store.read(recording.log.can_log.sha256), frames)
        self.assertIsNotNone(recording.log.runs.first().charge_before_percent)


class GoingOnTest(FinishingCase):
    def test_a_start_after_a_stop_is_a_recording_of_its_own_even_where_the_first_never_closed(self):
        first = self.spooled(stopped_at=None)
        self.assertEqual(keeping.current(self.recorder), first)
        client = APIClient()
        client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")
        client.post(reverse("recorder-stop", args=[self.recorder.pk]))
        client.post(reverse("recorder-start", args=[self.recorder.pk]))
        second = keeping.current(self.recorder)
        self.assertNotEqual(second, first)
        finish_all(everything=False)
        self.assert_stored(first)

    def test_one_that_broke_off_hours_ago_is_not_gone_on_with(self):
        first = self.spooled(stopped_at=None)
        old = BEGAN.timestamp()
        os.utime(keeping.folder_of(first) / "receiver", (old, old))
        self.assertNotEqual(keeping.current(self.recorder), first)
        self.assertIn(first, unstored())


class ListedTest(FinishingCase):
    def client_of(self, person) -> APIClient:
        client = APIClient()
        client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        return client

    def test_what_could_not_be_stored_is_listed_with_its_reason_and_tried_again(self):
        recording = self.spooled(b"noise" * 100)
        finish(recording)
        client = self.client_of(self.person)
        row = client.get(reverse("recording-list")).json()["results"][0]
        self.assertEqual((row["id"], row["name"]), (recording.pk, "Car one"))
        self.assertIn("no fix could be read", row["trouble"])
        (keeping.folder_of(recording) / "receiver").write_bytes(self.data)
        client.post(reverse("recording-retry", args=[recording.pk]))
        finish_all(everything=False)
        self.assert_stored(recording)
        self.assertEqual(client.get(reverse("recording-list")).json()["count"], 0)

    def test_giving_it_up_moves_the_bytes_aside_and_is_for_who_made_it(self):
        recording = self.spooled(b"noise" * 100)
        finish(recording)
        page = reverse("recording-detail", args=[recording.pk])
        self.assertEqual(self.client_of(UserFactory(role=Role.TESTER)).delete(page).status_code, 403)
        self.assertEqual(self.client_of(self.person).delete(page).status_code, 204)
        kept = self.var / "spool" / finishing.DISCARDED / str(recording.spool) / "receiver"
        self.assertEqual(kept.read_bytes(), b"noise" * 100)
        self.assertFalse(unstored().exists())

    def test_doctor_is_told(self):
        recording = self.spooled(b"noise" * 100)
        finish(recording)
        Recorder.objects.update(trouble="Recording could not begin: OSError: no such port")
        with self.assertRaisesRegex(CommandError, "(?s)is not stored: .*no fix could be read.*no such port"):
            call_command("unstored")
        Recording.objects.all().delete()
        Recorder.objects.update(trouble="")
        out = io.StringIO()
        call_command("unstored", stdout=out)
        self.assertEqual(out.getvalue().strip(), "all stored")

    def test_a_recorder_that_records_is_not_deleted_and_its_log_neither(self):
        admin = self.client_of(UserFactory(role=Role.ADMINISTRATOR))
        recording = self.spooled(stopped_at=None)
        log = keeping.open_log(recording, BEGAN, "nmea", 25.0)
        answer = admin.delete(reverse("recorder-detail", args=[self.recorder.pk]))
        self.assertEqual(answer.status_code, 409)
        self.assertIn("Stop it first", answer.json()["detail"])
        self.assertEqual(admin.delete(reverse("log-detail", args=[log.pk])).status_code, 409)
        self.assertTrue(Log.objects.exists() and Recorder.objects.exists())


class HashTest(FinishingCase):
    def test_the_stored_bytes_are_those_of_the_spool(self):
        recording = self.spooled()
        finish(recording)
        recording.refresh_from_db()
        self.assertEqual(recording.log.sha256, hashlib.sha256(self.data).hexdigest())
