"""The store: whole files or none, nothing deleted unasked, and what the database does not know taken back."""

from __future__ import annotations

import errno
import hashlib
import io
import os
import tempfile
from datetime import timedelta
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import override_settings
from django.utils import timezone

from accounts.models import Role
from runs import store
from runs.models import CanLog, Log, Run
from runs.tests.factories import UserFactory
from runs.tests.test_can_logs import drive
from runs.tests.test_import import ImportTest, log_bytes


class StoreCase(ImportTest):
    """With a store of its own."""

    def setUp(self):
        super().setUp()
        self.place = Path(self.enterContext(tempfile.TemporaryDirectory()))
        storages = {
            **settings.STORAGES,
            "default": {**settings.STORAGES["default"], "OPTIONS": {"location": self.place}},
        }
        self.enterContext(override_settings(STORAGES=storages))
        self.data = log_bytes()
        self.sha256 = hashlib.sha256(self.data).hexdigest()

    @property
    def path(self) -> Path:
        return Path(default_storage.path(store.address(self.sha256)))

    def files(self) -> list[str]:
        return [path.name for path in self.place.rglob("*") if path.is_file()]

    def check(self, *options: str) -> tuple[int, str]:
        out = io.StringIO()
        try:
            call_command("check_store", *options, stdout=out)
        except SystemExit as left:
            return left.code, out.getvalue()
        return 0, out.getvalue()


class WholeFilesTest(StoreCase):
    def test_a_truncated_file_counts_as_absent_is_listed_and_mended_by_importing_again(self):
        self.send(self.data)
        os.truncate(self.path, 1000)
        with self.assertRaisesRegex(store.MissingBytesError, "damaged"):
            store.read(self.sha256)
        code, message = self.check()
        self.assertEqual(code, 1)
        self.assertIn("damaged: log day.nmea", message)
        self.assertEqual(self.send(self.data).status_code, 200)
        self.assertEqual(self.path.read_bytes(), self.data)
        self.assertEqual(self.check()[0], 0)

    def test_a_file_that_is_gone_is_listed(self):
        self.send(self.data)
        self.path.unlink()
        code, message = self.check("--quick")
        self.assertEqual(code, 1)
        self.assertIn("missing: log day.nmea", message)

    def test_a_full_disk_leaves_nothing_and_says_so(self):
        real = os.fsync

        def full(handle: int) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        with mock.patch("runs.store.os.fsync", side_effect=full):
            answer = self.send(self.data)
        self.assertEqual((answer.status_code, answer.data["code"]), (507, "no_room"))
        self.assertIn("Nothing was stored", answer.data["detail"])
        self.assertEqual(self.files(), [])
        self.assertTrue(self.nothing_stored())
        self.assertIs(os.fsync, real)

    def test_an_import_that_would_use_up_the_reserve_is_refused_before_it_writes(self):
        with (
            override_settings(RESERVE_BYTES=10**18),
            mock.patch.object(store.SyncedStorage, "_save") as save,
        ):
            answer = self.send(self.data)
        self.assertEqual(answer.status_code, 507)
        self.assertIn("kept free for recording", answer.data["detail"])
        save.assert_not_called()
        self.assertTrue(self.nothing_stored())

    def test_a_process_killed_while_it_writes_leaves_no_file_under_the_name(self):
        class Killed(BaseException):
            pass

        with mock.patch("runs.store.os.fsync", side_effect=Killed), self.assertRaises(Killed):
            store.keep(self.data, self.sha256)
        self.assertFalse(self.path.exists())

    def test_bytes_that_read_back_otherwise_are_told(self):
        with (
            mock.patch.object(store, "holds", return_value=False),
            self.assertRaisesRegex(store.StoreError, "may be failing"),
        ):
            store.keep(self.data, self.sha256)


class UnknownFilesTest(StoreCase):
    def setUp(self):
        super().setUp()
        self.admin = UserFactory(role=Role.ADMINISTRATOR)

    def test_against_an_empty_database_everything_is_listed_and_nothing_is_touched(self):
        self.send(self.data)
        Log.objects.all().delete()
        code, message = self.check()
        self.assertEqual(code, 0)
        self.assertIn(f"unknown: no row names {self.sha256}", message)
        self.assertEqual(self.path.read_bytes(), self.data)

    def test_what_rows_name_stays_when_the_rest_goes_to_the_trash(self):
        log, can_log = drive()
        self.assertEqual(self.send(log, can_log=SimpleUploadedFile("drive.log", can_log)).status_code, 201)
        store.keep(b"left behind", hashlib.sha256(b"left behind").hexdigest())
        _, message = self.check("--trash")
        self.assertIn("1 moved to the trash", message)
        self.assertTrue(store.holds(Log.objects.get().sha256))
        self.assertTrue(store.holds(CanLog.objects.get().sha256))
        self.assertEqual(store.in_trash(), [hashlib.sha256(b"left behind").hexdigest()])

    def test_the_trash_keeps_for_thirty_days(self):
        store.keep(b"old", hashlib.sha256(b"old").hexdigest())
        self.check("--trash")
        self.check("--empty-trash")
        self.assertEqual(len(store.in_trash()), 1)
        month = (timezone.now() - timedelta(days=31)).timestamp()
        os.utime(self.place / "trash" / store.in_trash()[0], (month, month))
        self.check("--empty-trash")
        self.assertEqual(store.in_trash(), [])

    def test_unknown_logs_are_taken_back_from_store_and_trash_with_their_runs(self):
        self.send(self.data)
        other = log_bytes(seed=44)
        self.send(other)
        Log.objects.get(sha256=self.sha256).delete()
        self.check("--trash")
        Log.objects.all().delete()
        out = io.StringIO()
        call_command("adopt", stdout=out)
        self.assertIn("2 of 2 taken back", out.getvalue())
        self.assertEqual((Log.objects.count(), Run.objects.count()), (2, 4))
        self.assertEqual(self.path.read_bytes(), self.data)
        self.assertEqual(self.check()[0], 0)

    def test_what_is_no_log_is_named_and_stays(self):
        store.keep(b"a photograph", hashlib.sha256(b"a photograph").hexdigest())
        out = io.StringIO()
        call_command("adopt", stdout=out)
        self.assertIn("not taken back", out.getvalue())
        self.assertEqual(len(self.files()), 1)
