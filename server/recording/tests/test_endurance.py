"""What a recorder endures: whatever goes wrong around it, it records on, says so, and nothing is lost in silence."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import suppress
from itertools import pairwise
from pathlib import Path
from typing import Any
from unittest import TestCase, mock, skipUnless

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import TransactionTestCase
from django.urls import reverse
from rest_framework.test import APIClient

from coombe_launcher.places import SERVER
from recording import keeper as keeping_module
from recording import memory
from recording.broadcast import HOST
from recording.keeper import LEFT_TO_STORE, Keeper, NeverRecordedError
from recording.models import Device, Recorder, Recording
from recording.spool import Spool
from recording.tests.recording_case import RecordingCase, environment, sentences, until
from runs import store
from runs.models import Log, Run
from runs.tests.factories import SetupFactory, UserFactory
from runs.tests.test_import import log_bytes, settled

PACE = 6.0


def message_from(recorder: Recorder, wanted, count: int = 1) -> dict:
    """Wait for a number of messages to a screen for which something holds, and give the last."""
    recorder.refresh_from_db()
    with socket.create_connection((HOST, recorder.live_port), 30) as line, line.makefile() as lines:
        for message in map(json.loads, lines):
            count -= wanted(message)
            if count == 0:
                return message
    raise AssertionError("the recorder hung up")


def full(message: dict) -> bool:
    """Whether a message says that a fix could not be recorded."""
    return message["t"] == "glance" and message["word"] == "disk full"


def in_trouble(message: dict) -> bool:
    """Whether a message, which comes every second or so, names a trouble."""
    return message["t"] == "state" and bool(message["trouble"])


class DeletedTest(RecordingCase):
    def test_a_recorder_that_is_deleted_while_it_records_stores_what_it_has_and_ends(self):
        sent = self.var / "sent"
        with self.simulated_devices(pace=PACE, keep=sent) as made:
            process = self.listening()
            made.order(drive="launch")
            self.runs(2)
            recording = self.recorder.recordings.get()
            Recorder.objects.filter(pk=self.recorder.pk).delete()
            self.assertEqual(process.wait(30), 0)
        recording.refresh_from_db()
        self.assertIsNotNone(recording.stored_at)
        self.assert_kept(sent, recording.log.sha256, holes=0)
        self.assertEqual(recording.log.runs.count(), 2)

    def test_a_log_that_is_deleted_while_it_is_recorded_is_made_anew(self):
        with self.simulated_devices(pace=PACE) as made:
            process = self.listening()
            made.order(drive="launch")
            self.runs(2)
            Log.objects.all().delete()
            until("the car waits", lambda: made.order()["idle"])
            made.order(drive="launch")
            self.runs(2)
            log = self.stop(process)
        self.assertTrue(store.holds(log.sha256) or (self.var / "store" / store.address(log.sha256)).exists())
        self.assertEqual(log.runs.filter(kind="standing").count(), 1)


class BrokenDbcTest(RecordingCase):
    def test_a_dbc_that_cannot_be_read_costs_the_decoding_and_not_the_recording(self):
        with self.simulated_devices(pace=PACE):
            Device.objects.filter(kind="CAN").update(dbc="nonsense")
            process = self.listening()
            message = message_from(self.recorder, in_trouble)
            self.assertIn("CAN is recorded, but not decoded", message["trouble"])
            self.stop(process)


class KilledAfterStopTest(RecordingCase):
    def test_what_a_kill_right_after_stop_leaves_is_stored_and_the_next_start_is_another_recording(self):
        from django.utils import timezone

        sent = self.var / "sent"
        with self.simulated_devices(pace=PACE, keep=sent) as made:
            watching = subprocess.Popen(
                [sys.executable, "manage.py", "record"], cwd=SERVER, env=environment(self.var), start_new_session=True
            )
            self.addCleanup(watching.wait)
            self.addCleanup(watching.terminate)
            until("fixes came in", lambda: Log.objects.filter(recording__recorder=self.recorder).exists())
            made.order(drive="launch")
            self.runs(2)
            first = self.recorder.recordings.get()
            Recorder.objects.update(wanted=False)
            Recording.objects.update(stopped_at=timezone.now())
            for pid in until("it runs", self.recorders):
                with suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
            Recorder.objects.update(wanted=True)
            until(
                "the first is stored", lambda: Recording.objects.filter(pk=first.pk, stored_at__isnull=False).exists()
            )
            until(
                "the second goes on", lambda: self.recorder.recordings.exclude(pk=first.pk).exclude(log=None).exists()
            )
        first.refresh_from_db()
        self.assert_kept(sent, first.log.sha256, holes=0)
        self.assertEqual(first.log.runs.count(), 2)

    def recorders(self) -> list[int]:
        asked = ["pgrep", "--full", f"manage.py record {self.recorder.pk}$"]
        found = subprocess.run(asked, capture_output=True, text=True, check=False).stdout.split()
        return [int(pid) for pid in found if f"COOMBE_VAR={self.var}" in Path(f"/proc/{pid}/environ").read_text()]


def can_mount() -> bool:
    probe = Path("/tmp/coombe-mount-probe")
    probe.mkdir(exist_ok=True)
    done = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=1m", "tmpfs", probe], capture_output=True, check=False)
    if done.returncode == 0:
        subprocess.run(["umount", probe], check=True)
    return done.returncode == 0


@skipUnless(os.geteuid() == 0 and can_mount(), "needs leave to mount a small file system")
class FullDiskTest(RecordingCase):
    """On a file system of 12 MB, 1 MB of which recording leaves free."""

    def setUp(self) -> None:
        super().setUp()
        subprocess.run(["mount", "-t", "tmpfs", "-o", "size=12m", "tmpfs", self.var], check=True)
        self.addCleanup(subprocess.run, ["umount", "--lazy", self.var], check=True)
        for name, value in (("COOMBE_SPOOL_FLOOR_BYTES", 2**20), ("COOMBE_RESERVE_BYTES", 2**20)):
            self.enterContext(mock.patch.dict(os.environ, {name: str(value)}))

    def fill(self, leaving: int = 0) -> Path:
        filler = self.var / "filler"
        with filler.open("wb") as out, suppress(OSError):
            while store.storage.free_bytes() > leaving:
                out.write(b"x" * 4096)
                out.flush()
        return filler

    def send(self, data: bytes) -> Any:
        facts = {"file": SimpleUploadedFile("day.nmea", data), "setup": SetupFactory().pk}
        client = APIClient()
        client.force_authenticate(self.person)
        return settled(client, client.post(reverse("log-list"), facts, format="multipart"))

    def test_an_import_that_fills_the_disk_stores_nothing_and_can_be_sent_again(self):
        data = log_bytes("five-runs")
        for leaving in (0, len(data) // 4):  # full before the first byte, and in the middle of the log
            filler = self.fill(leaving)
            with mock.patch("runs.store.check_room"):  # as if there had been room when it was asked
                answer = self.send(data)
            self.assertEqual((answer.status_code, answer.json()["code"]), (507, "no_room"))
            self.assertFalse(Log.objects.exists() or Run.objects.exists())
            left = [path for path in (self.var / "store").rglob("*") if path.is_file()]
            self.assertEqual(left, [])
            filler.unlink()
        with self.settings(RESERVE_BYTES=2**20):
            self.assertEqual(self.send(data).status_code, 201)
        self.assertEqual(store.read(Log.objects.get().sha256), data)

    def test_recording_says_at_once_that_the_disk_is_full_marks_the_gap_and_goes_on_when_there_is_room(self):
        kept = Path(tempfile.gettempdir()) / f"sent-{os.getpid()}"
        self.addCleanup(lambda: kept.unlink(missing_ok=True))
        with self.simulated_devices(pace=PACE, keep=kept) as made:
            process = self.listening()
            made.order(drive="launch")
            self.runs(2)
            filler = self.fill()
            self.assertEqual(message_from(self.recorder, full)["word"], "disk full")
            state = message_from(self.recorder, in_trouble)
            self.assertIn("The disk is full; nothing is being recorded.", state["trouble"])
            until("the car waits", lambda: made.order()["idle"])
            made.order(drive="launch")  # which nobody can record
            until("the car pulls", lambda: made.made.car.state.speed_mps > 12)
            until("the car waits", lambda: made.order()["idle"])
            filler.unlink()
            message_from(self.recorder, lambda message: message["t"] == "glance" and message["word"] != "disk full")
            until("the gap was stored", lambda: self.recorder.recordings.get().gaps.exists())
            made.order(drive="launch")
            until("the next run was stored", lambda: self.recorder.recordings.get().log.runs.count() >= 4)
            log = self.stop(process)
        recording = self.recorder.recordings.get()
        self.assertIn("no room", set(recording.gaps.values_list("cause", flat=True)))
        standing = log.runs.filter(kind="standing").order_by("start_s")
        self.assertEqual(standing.count(), 2)
        self.assert_true(standing.first(), made.truths[0])
        self.assert_in_order(recording, kept)

    def test_two_recorders_on_one_full_disk_both_say_so_and_both_go_on(self):
        kept = [Path(tempfile.gettempdir()) / f"sent-{os.getpid()}-{name}" for name in ("one", "two")]
        for each in kept:
            self.addCleanup(each.unlink, missing_ok=True)
        with (
            self.simulated_devices(pace=PACE, keep=kept[0]),
            self.simulated_devices(name="Car two", pace=PACE, keep=kept[1]),
        ):
            processes = {}
            for self.recorder in Recorder.objects.order_by("pk"):
                processes[self.recorder] = self.listening()
            filler = self.fill()
            for recorder in processes:
                message_from(recorder, full)
                message_from(recorder, in_trouble, count=3)  # long enough to be a gap
            filler.unlink()
            for recorder in processes:
                message_from(recorder, lambda message: message["t"] == "glance" and message["word"] != "disk full")
                until("the gap was stored", recorder.recordings.get().gaps.exists)
            for self.recorder, process in processes.items():
                self.assertIsNotNone(self.stop(process))
        for recorder, sent in zip(processes, kept, strict=True):
            recording = recorder.recordings.get()
            self.assertIn("no room", set(recording.gaps.values_list("cause", flat=True)))
            self.assert_in_order(recording, sent)

    def assert_in_order(self, recording: Recording, sent: Path) -> None:
        """What was stored is what was sent, in its order, once each, with no hole without a gap."""
        places = {line: place for place, line in enumerate(sentences(sent.read_bytes()))}
        data = (self.var / "store" / store.address(recording.log.sha256)).read_bytes()
        found = [places[line] for line in sentences(data) if line in places]
        self.assertGreater(len(found), 100)
        self.assertEqual(found, sorted(set(found)))
        holes = sum(after - before != 1 for before, after in pairwise(found))
        self.assertLessEqual(holes, recording.gaps.count() + 1)


class KeeperTest(TransactionTestCase):
    def setUp(self):
        super().setUp()
        self.enterContext(mock.patch.object(keeping_module, "POLL_S", 0.01))
        self.enterContext(mock.patch.object(keeping_module, "AWAY_S", 0.01))
        self.enterContext(self.settings(SPOOL=Path(f"/tmp/coombe-keeper-{os.getpid()}")))
        self.recorder = Recorder.objects.create(name="One", setup=SetupFactory(), wanted=True, started_by=UserFactory())
        self.keeper = Keeper(self.recorder.pk, mock.Mock(port=1))
        self.keeper.first_aim()

    def run_on(self) -> None:
        self.keeper.start(lambda: None)
        self.addCleanup(self.end)

    def end(self) -> None:
        with mock.patch("recording.keeper.finish"):
            self.keeper.close()

    def test_a_look_that_fails_is_told_and_made_again_and_storing_goes_on(self):
        failing = mock.patch.object(Keeper, "_aim_now", side_effect=ValueError("a field that nobody foresaw"))
        with self.assertLogs("recording.keeper"), failing:
            self.run_on()
            until("it was reported", lambda: "Storing failed" in self.keeper.trouble)
            stored = threading.Event()
            self.keeper._put(stored.set)
            self.assertTrue(stored.wait(20))
        until("it recovered", lambda: not self.keeper.trouble)
        self.assertTrue(self.keeper._thread.is_alive())

    def test_without_the_database_it_records_what_it_did_last_and_never_into_an_older_recording(self):
        again = Keeper(self.recorder.pk, mock.Mock(port=1))
        away = mock.patch.object(Keeper, "_aim_now", side_effect=OperationalError(2002, "away"))
        for older, is_gone_on_with in ((False, True), (True, False)):
            self.keeper.folder.mkdir(parents=True, exist_ok=True)
            (self.keeper.folder / "receiver").write_bytes(b"$")
            if older:
                os.utime(self.keeper.folder / "receiver", (0, 0))
            with self.subTest(older=older), away:
                self.assertEqual(again.first_aim().measure, self.recorder.measure)
                self.assertEqual(again.folder == self.keeper.folder, is_gone_on_with)
        before = Recording.objects.get()
        self.assertNotEqual(again._running(), before)
        before.refresh_from_db()
        self.assertIsNotNone(before.stopped_at)

    def test_without_the_database_a_machine_that_never_recorded_with_it_says_so(self):
        memory.path_of(self.keeper._memory).unlink()
        away = mock.patch.object(Keeper, "_aim_now", side_effect=OperationalError(2002, "away"))
        with away, self.assertRaisesRegex(NeverRecordedError, "Connect it to the database once"):
            Keeper(self.recorder.pk, mock.Mock(port=1)).first_aim()

    def test_a_disk_that_is_full_while_it_remembers_costs_only_that(self):
        full = mock.patch.object(Path, "write_text", side_effect=OSError(28, "No space left on device"))
        with self.assertLogs("recording.memory"), full:
            self.run_on()
            Recorder.objects.update(measure="1/4 mile")
            until("the new aim was taken", lambda: self.keeper.aim.measure == "1/4 mile")
        self.assertTrue(self.keeper._thread.is_alive())

    def test_what_cannot_be_stored_is_left_to_the_end_and_told(self):
        with self.assertLogs("recording.keeper"):
            self.run_on()
            self.keeper._put(mock.Mock(side_effect=ValueError))
            stored = threading.Event()
            self.keeper._put(stored.set)
            self.assertTrue(stored.wait(20))
        self.assertEqual(self.keeper.trouble, LEFT_TO_STORE)
        with mock.patch("recording.keeper.finish") as finish:
            self.keeper.close()
        self.assertTrue(finish.call_args.kwargs["retime"])
        self.doCleanups()

    def test_a_recorder_that_is_gone_ends_the_recording(self):
        self.run_on()
        Recorder.objects.all().delete()
        self.assertTrue(self.keeper.ended.wait(20))


class SyncTest(TestCase):
    def test_a_sync_that_fails_is_told_and_made_again_until_it_succeeds(self):

        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        answers = iter([OSError(5, "Input/output error")] * 3)
        real, synced = os.fdatasync, threading.Event()

        def failing(handle: int) -> None:
            error = next(answers, None)
            if error:
                raise error
            real(handle)
            synced.set()

        with mock.patch("recording.spool.os.fdatasync", failing), self.assertLogs("recording.spool"):
            spool = Spool(folder / "one")
            spool.receiver.append(b"only once")
            limit = time.monotonic() + 20
            while not spool.trouble and time.monotonic() < limit:
                time.sleep(0.01)
            self.assertIn("Input/output error", spool.trouble)
            self.assertTrue(synced.wait(20))
            spool.close()
