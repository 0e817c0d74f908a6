"""Laptops at the course: each records with every car that no other one holds, on a small disk and a line of its own."""

from __future__ import annotations

import subprocess
import sys
import threading
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager
from datetime import date
from pathlib import Path

from accounts.models import User
from cars.models import Car, Setup
from config.again import patiently, whole
from coombe_core.simulating.in_thread import Running, running
from coombe_launcher.beside import end
from coombe_launcher.looking_after import die_with_parent
from coombe_launcher.places import SERVER
from recording.models import Recorder, Recording
from recording.simulated import devices_at
from trials.cluster.balancing import Line
from trials.driven import Driven
from trials.waiting import until

DISK_MIB, FLOOR_MIB = 48, 8
PAUSE_S = 2.0  # of a driver, between two looks


class Laptop:
    """One of them: its processes, its disk, its line to the database."""

    def __init__(self, folder: Path, far_port: int, env: Mapping[str, str]) -> None:
        self.folder = folder
        self._spool = folder / "spool"
        self._spool.mkdir(parents=True)
        mount = ["mount", "-t", "tmpfs", "-o", f"size={DISK_MIB}m,mode=0700", "none", str(self._spool)]
        self.has_own_disk = subprocess.run(mount, capture_output=True, check=False).returncode == 0
        self.line = Line(folder, far_port)
        address = env["DATABASE_URL"].replace(f":{far_port}/", f":{self.line.port}/")
        floor = str(FLOOR_MIB * 2**20)
        self._env = {**env, "DATABASE_URL": address, "COOMBE_VAR": str(folder), "COOMBE_SPOOL_FLOOR_BYTES": floor}
        self._env["COOMBE_RESERVE_BYTES"] = floor
        self.start()

    @property
    def name(self) -> str:
        """What it is called among those that record."""
        path = self._spool / "machine"
        return path.read_text() if path.exists() else ""

    def start(self) -> None:
        """Begin, as after it was switched on."""
        with (self.folder / "record.log").open("ab") as log:
            self.process = subprocess.Popen(
                [sys.executable, "manage.py", "record"],
                cwd=SERVER,
                env=self._env,
                stdout=log,
                stderr=log,
                start_new_session=True,
                preexec_fn=die_with_parent,
            )

    def kill(self) -> None:
        """End it at once with all that it runs; the disk keeps what the kernel has."""
        self.process.kill()
        self.process.wait()

    def fill(self) -> None:
        """Leave nothing free of its disk."""
        with (self._spool / "filler").open("wb") as file:
            try:
                while True:
                    file.write(b"\0" * 2**16)
                    file.flush()
            except OSError:
                pass

    def empty(self) -> None:
        """Make room again."""
        (self._spool / "filler").unlink()

    def stop(self) -> None:
        """End it, and give its disk back."""
        self.line.mend()
        end(self.process)
        self.line.stop()
        if self.has_own_disk:
            subprocess.run(["umount", "--lazy", str(self._spool)], check=False)


class Course:
    """Two cars that are driven, and the laptops that record them."""

    def __init__(self, folder: Path, far_port: int, env: Mapping[str, str], stack: ExitStack) -> None:
        self._sent = [folder / f"sent-{number}" for number in (1, 2)]
        self.cars = [stack.enter_context(running(keep=path)) for path in self._sent]
        self.recorders = _made(self.cars)
        self.laptops = []
        for number in (1, 2):
            self.laptops.append(Laptop(folder / f"laptop{number}", far_port, env))
            stack.callback(self.laptops[-1].stop)

    def holder(self, place: int) -> Laptop:
        """The laptop that records with a car; the first one where nobody does."""
        held_by = patiently(Recorder.objects.values_list("held_by", flat=True).get)(pk=self.recorders[place])
        return next((each for each in self.laptops if each.name == held_by), self.laptops[0])

    def record(self) -> None:
        """Wait until both cars are recorded."""
        until("both cars are recorded", lambda: _recorded(self.recorders))

    @contextmanager
    def driven(self, until_s: float) -> Iterator[None]:
        """Each car launched and stopped, again and again, for as long as the block lasts."""
        ended = threading.Event()

        def drive(car: Running) -> None:
            while not ended.wait(PAUSE_S) and time.monotonic() < until_s:
                if car.order()["idle"]:
                    car.order(drive="launch")

        threads = [threading.Thread(target=drive, args=(car,)) for car in self.cars]
        for thread in threads:
            thread.start()
        try:
            yield
        finally:
            ended.set()
            for thread in threads:
                thread.join()

    def compared(self) -> Driven:
        """End recording once the cars stand, and compare all that was stored with all that was driven."""
        until("the cars stand", lambda: all(car.order()["idle"] for car in self.cars))
        time.sleep(PAUSE_S)  # for the last fix to come in
        patiently(Recorder.objects.filter(pk__in=self.recorders).update)(wanted=False)
        until("all is stored", _all_stored)
        found = Driven()
        for pk, car, sent in zip(self.recorders, self.cars, self._sent, strict=True):
            found.compare(pk, car, sent.read_bytes())
        return found


@whole
def _made(cars: Sequence[Running]) -> list[int]:
    person = User.objects.create(username="course")
    numbers = []
    for number, car in enumerate(cars, start=1):
        name = f"Car {number}"
        made = Car.objects.create(name=name, test_mass_kg=1900)
        setup = Setup.objects.create(car=made, name="as it is", since=date(2026, 1, 1))
        facts = devices_at(name, vars(car.ports)) | {"setup": setup, "started_by": person, "wanted": True}
        numbers.append(Recorder.objects.create(name=name, **facts).pk)
    return numbers


def _recorded(recorders: Sequence[int]) -> bool:
    return Recording.objects.filter(recorder__in=recorders).exclude(log=None).count() >= len(recorders)


def _all_stored() -> bool:
    return not Recording.objects.filter(stored_at=None).exists()
