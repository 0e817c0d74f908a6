"""Processes killed in mid-run: what is stored is what was sent, but for a flagged gap."""

from __future__ import annotations

import json
import os
import pty
import select
import signal
import socket
import subprocess
import sys
import termios
import threading

from django.db import connection

from coombe_launcher.database import PrivateDatabase, free_port
from coombe_launcher.places import SERVER
from recording.models import Device, Recorder, Recording
from recording.tests.recording_case import RecordingCase, database_url, environment, until
from runs.models import Log, Run
from trials.cluster.balancing import Line

PACE = 6.0
KILLED = """
import json
from recording.models import Recording
from runs.models import Run
print(json.dumps({
    "runs": [[run.kind, run.start_s, run.complete] for run in Run.objects.order_by("start_s")],
    "gaps": [gap.cause for recording in Recording.objects.all() for gap in recording.gaps.all()],
    "ended": [bool(recording.ended_at) for recording in Recording.objects.all()],
    "shas": [recording.log.sha256 for recording in Recording.objects.all()],
}))
"""


class KilledRecorderTest(RecordingCase):
    def test_what_was_read_is_kept_and_what_was_not_is_a_gap(self):
        sent = self.var / "sent"
        with self.simulated_devices(pace=PACE, keep=sent) as made:
            process = self.listening()
            made.order(drive="launch")
            self.runs(2)
            made.order(drive="launch")
            until("the car pulls", lambda: made.made.car.state.speed_mps > 12)
            process.send_signal(signal.SIGKILL)
            process.wait()
            again = self.record()
            recording = self.recorder.recordings.get()
            until("the gap was seen", lambda: recording.gaps.exists())
            until("the car waits", lambda: made.order()["idle"])
            made.order(drive="launch")
            until("the next run was stored", lambda: self.complete().count() >= 2)
            log = self.stop(again)
        self.assertEqual(set(recording.gaps.values_list("cause", flat=True)), {"not listening"})
        first, last = self.complete().first(), self.complete().last()
        standing = [truth for truth in made.truths if truth["kind"] == "standing"]
        self.assert_true(first, standing[0])
        self.assert_true(last, standing[-1])
        self.assert_kept(sent, log.sha256, holes=1)

    def complete(self):
        return self.recorder.recordings.get().log.runs.filter(kind="standing", complete=True).order_by("start_s")


class KilledDatabaseTest(RecordingCase):
    def setUp(self):
        super().setUp()
        self.database = PrivateDatabase(self.var / "mariadb")
        self.database.start()
        self.addCleanup(self.database.stop)

    def manage(self, *arguments: str) -> str:
        env = environment(self.var, self.database.url)
        done = subprocess.run(
            [sys.executable, "manage.py", *arguments], cwd=SERVER, env=env, text=True, capture_output=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        return done.stdout

    def asked(self) -> dict:
        return json.loads(self.manage("shell", "--verbosity=0", "--command", KILLED).splitlines()[-1])

    def test_a_killed_database_delays_what_is_stored_and_loses_nothing(self):
        self.manage("migrate", "--no-input", "--verbosity=0")
        sent = self.var / "sent"
        with self.simulated_devices(pace=3.0, can=False, keep=sent) as made:
            facts = {"pk": self.recorder.pk, "port": made.ports.receiver}
            self.manage("shell", "--verbosity=0", "--command", CREATING.format(**facts))
            process = self.record(self.database.url)
            until("fixes came in", lambda: list((self.var / "spool").glob("*/receiver")))
            made.order(drive="launch")
            until("the car pulls", lambda: made.made.car.state.speed_mps > 12)
            os.kill(self.database.pid, signal.SIGKILL)
            self.database.wait()
            until("the car waits", lambda: made.order()["idle"])
            self.assertIsNone(process.poll())
            self.database.start()
            until("both runs were stored", lambda: len(self.asked()["runs"]) == 2)
            self.manage("shell", "--verbosity=0", "--command", STOPPING)
            self.assertEqual(process.wait(60), 0)
        found = self.asked()
        self.assertEqual([run[0] for run in found["runs"]], ["standing", "stop"])
        self.assertEqual((found["gaps"], found["ended"]), ([], [True]))
        self.assert_kept(sent, found["shas"][0], holes=0)


CREATING = """
from datetime import date
from accounts.models import User
from cars.models import Car, Setup
from recording.models import Device, Recorder
receiver = Device.objects.create(name="Receiver", kind="receiver", connection="tcp", host="127.0.0.1", port={port})
car = Car.objects.create(name="Car")
setup = Setup.objects.create(car=car, name="Setup", since=date(2026, 4, 1))
person = User.objects.create(username="tester")
Recorder.objects.create(name="Car one", setup=setup, started_by=person, wanted=True, receiver=receiver, pk={pk})
"""
STOPPING = "from recording.models import Recorder; Recorder.objects.update(wanted=False)"


class NoNetworkTest(RecordingCase):
    def test_a_laptop_that_begins_without_a_network_records_and_stores_all_of_it_once_when_there_is_one(self):
        sent, far_port = self.var / "sent", connection.settings_dict["PORT"]
        port = free_port()
        url = database_url().replace(f":{far_port}/", f":{port}/")
        with self.simulated_devices(pace=3.0, can=False, keep=sent) as made:
            before = self.record_all()
            until("fixes came in", lambda: Log.objects.filter(recording__recorder=self.recorder).exists())
            before.terminate()
            before.wait(60)
            length = self.spooled()
            process = self.record_all(url)  # to a port where nobody listens
            until("it records", lambda: self.spooled() > length)
            made.order(drive="launch")
            until("the car pulls", lambda: made.made.car.state.speed_mps > 12)
            until("the car waits", lambda: made.order()["idle"])
            self.assertFalse(Run.objects.exists())
            line = Line(self.var, far_port, port)
            self.addCleanup(line.stop)
            until("both runs were stored", lambda: Run.objects.count() == 2)
            Recorder.objects.update(wanted=False)
            until("all is stored", lambda: not Recording.objects.filter(stored_at=None).exists())
            process.terminate()
            process.wait(60)
        self.assertEqual(list(Run.objects.order_by("start_s").values_list("kind", flat=True)), ["standing", "stop"])
        recording = Recording.objects.get()
        self.assertEqual(list(recording.gaps.values_list("cause", flat=True)), ["not listening"])
        self.assert_kept(sent, recording.log.sha256, holes=1)

    def record_all(self, url: str | None = None) -> subprocess.Popen[bytes]:
        """Start what keeps a process running for every recorder that is wanted."""
        command = [sys.executable, "manage.py", "record"]
        process = subprocess.Popen(command, cwd=SERVER, env=environment(self.var, url))
        self.addCleanup(process.wait)
        self.addCleanup(process.terminate)
        return process

    def spooled(self) -> int:
        return sum(path.stat().st_size for path in (self.var / "spool").glob("*/receiver"))


class SerialPortTest(RecordingCase):
    def test_a_serial_port_is_recorded_like_a_socket(self):
        """A pseudo-terminal carries what the simulated receiver sends over its socket."""
        ours, theirs = pty.openpty()
        modes = termios.tcgetattr(theirs)
        modes[3] &= ~(termios.ECHO | termios.ICANON)
        termios.tcsetattr(theirs, termios.TCSANOW, modes)
        with self.simulated_devices(pace=PACE, can=False) as made:
            over = threading.Event()
            carrying = threading.Thread(target=carry, args=(made.ports.receiver, ours, over), daemon=True)
            carrying.start()
            serial = {"kind": "receiver", "connection": "serial", "path": os.ttyname(theirs)}
            Recorder.objects.update(receiver=Device.objects.create(name="On a wire", **serial))
            process = self.listening()
            made.order(drive="launch")
            pull, _ = self.runs(2)
            log = self.stop(process)
            over.set()
        carrying.join()
        self.assert_true(pull, made.truths[0])
        self.assertEqual((log.format, log.rejected), ("nmea", 0))
        os.close(theirs)


def carry(port: int, terminal: int, over: threading.Event) -> None:
    """From a socket to a terminal until the socket ends; it waits for whoever reads, until it is over."""
    os.set_blocking(terminal, False)
    with socket.create_connection(("127.0.0.1", port)) as line:
        while data := line.recv(4096):
            while data and not over.is_set():
                if select.select([], [terminal], [], 0.2)[1]:
                    data = data[os.write(terminal, data) :]
    os.close(terminal)
