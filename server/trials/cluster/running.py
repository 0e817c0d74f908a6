"""The trial: everything is brought up, used by people, loses each part in turn and gets it back, and is compared."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path

import boto3
from django.conf import settings
from django.db import connection

from accounts.models import Role, User
from cars.models import Car, Setup
from config.again import whole
from coombe_launcher.beside import KeptProcess, kept_running
from coombe_launcher.database import free_port
from coombe_launcher.places import SERVER
from runs.models import Import, ImportState, Log
from runs.store import digest, storage
from trials.asking import Asker
from trials.cluster.balancing import Balancer
from trials.cluster.galera import Cluster, Node
from trials.cluster.people import Asked, Person

TESTERS, UPLOADERS = 5, 2
BUCKET = "coombe-trial"
DOWN_S = 12.0  # how long a part stays away
SETTLE_S = 15.0  # after it is back
CUT_OFF_S = 15.0
UP_S = 90.0


@dataclass
class Event:
    """What was done to a part, and when."""

    at_s: float
    what: str


@dataclass
class Report:
    """What the trial came to."""

    minutes: float
    readers: int
    asked: Asked
    events: list[Event] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)
    differing: list[str] = field(default_factory=list)
    throughput: dict[int, float] = field(default_factory=dict)  # answers a second by number of web nodes

    @property
    def kept(self) -> bool:
        """Whether nothing that was acknowledged is lost, and all nodes agree."""
        return not self.lost and not self.differing

    def __str__(self) -> str:
        asked = self.asked
        acknowledged = f"{len(asked.cars)} cars, {len(asked.notes)} notes, {len(asked.uploads)} uploads acknowledged"
        rows = [
            f"| {self.minutes:.0f} minutes, {self.readers} readers, {TESTERS} testers, {UPLOADERS} who upload | |",
            "| --- | --- |",
            f"| requests | {asked.count}, of which {len(asked.failed)} failed ({100 * asked.failed_share:.2f} %) |",
            f"| slowest answer; longest without one | {asked.slowest_s:.1f} s; {asked.longest_failing_s:.1f} s |",
            f"| {acknowledged} | {len(self.lost)} lost, {len(self.differing)} differ between nodes |",
            *(f"| answers a second with {webs} web nodes | {rate:.0f} |" for webs, rate in self.throughput.items()),
        ]
        rows += [f"| after {event.at_s:.0f} s | {event.what} |" for event in self.events]
        rows += [f"LOST {each}" for each in self.lost] + [f"DIFFERS {each}" for each in self.differing]
        return "\n".join(rows)


class Parts:
    """Everything that runs, and what can be done to it."""

    def __init__(self, folder: Path, stack: ExitStack) -> None:
        password = os.environ["COOMBE_TRIAL_PASSWORD"]
        self.cluster = Cluster(folder, password)
        stack.callback(self.cluster.stop)
        self.cluster.start()
        web_ports = [free_port(), free_port()]
        self.balancer = Balancer(folder, self.cluster.nodes, web_ports, int(settings.DATABASES["default"]["PORT"]))
        stack.callback(self.balancer.stop)
        _until("the balancer passes the database on", self._database_answers)
        _manage("migrate", "--no-input", "--verbosity=0")
        self.store = _object_store(folder, stack)
        self.web: list[KeptProcess] = []
        self.work: list[KeptProcess] = []
        for number, port in enumerate(web_ports, start=1):
            env = self._environment(folder / f"web{number}")
            command = [sys.executable, "-m", "config.web", "--host", "127.0.0.1", "--port", str(port)]
            self.web.append(stack.enter_context(kept_running(f"web {number}", command, env)))
            work = [sys.executable, "manage.py", "work"]
            self.work.append(stack.enter_context(kept_running(f"worker {number}", work, env)))
        self.asker = Asker(self.balancer.web_port)

    def _environment(self, folder: Path) -> dict[str, str]:
        folder.mkdir()
        (folder / "static").mkdir()
        return {**os.environ, "COOMBE_VAR": str(folder), "COOMBE_SECRET_KEY": settings.SECRET_KEY}

    def _database_answers(self) -> bool:
        try:
            connection.ensure_connection()
        except Exception:
            return False
        return True


def _manage(*command: str) -> None:
    subprocess.run([sys.executable, "manage.py", *command], cwd=SERVER, env=dict(os.environ), check=True)


def _object_store(folder: Path, stack: ExitStack) -> str:
    """A simulated object store in a process of its own; its address."""
    address = os.environ["COOMBE_STORE_ENDPOINT"]
    port = address.rsplit(":", 1)[1]
    with (folder / "store.log").open("wb") as log:
        command = [sys.executable, "-m", "moto.server", "-H", "127.0.0.1", "-p", port]
        server = subprocess.Popen(command, stdout=log, stderr=log, start_new_session=True)
    stack.callback(server.wait)
    stack.callback(server.kill)

    def made() -> bool:
        try:
            boto3.resource("s3", endpoint_url=address, region_name="us-east-1").create_bucket(Bucket=BUCKET)
        except Exception:
            return False
        return True

    _until("the object store answers", made)
    return address


def _until(what: str, holds: Callable[[], bool], limit_s: float = UP_S) -> None:
    limit = time.monotonic() + limit_s
    while not holds():
        if time.monotonic() > limit:
            raise TimeoutError(f"not within {limit_s:.0f} s: {what}")
        time.sleep(0.3)


def run(minutes: float, readers: int, throughput: bool) -> Report:
    """Bring everything up, let it be used for some minutes while parts fail in turn, and compare what is stored."""
    report = Report(minutes, readers, Asked())
    with tempfile.TemporaryDirectory(prefix="coombe-cluster-") as name, ExitStack() as stack:
        folder = Path(name)
        folder.chmod(0o755)  # the database's own user passes
        parts = Parts(folder, stack)
        person, setup = _made()
        parts.asker.log_in(person)
        _until("the web answers", lambda: _answers(parts.asker))
        if throughput:
            report.throughput = _throughput(parts)
        began_s = time.monotonic()
        until_s = began_s + minutes * 60
        with _people(parts.asker, report, began_s, until_s, setup.pk):
            _break_and_mend(parts, report, began_s, until_s)
        _until("every node takes part", lambda: all(node.is_ready() for node in parts.cluster.nodes))
        connection.close()  # it broke with the node that it was to
        _until("every import is done", lambda: not Import.objects.filter(ended_at=None).exists(), 300)
        report.lost = list(_lost(report.asked))
        report.differing = list(_differing(parts.cluster))
    return report


@whole
def _made() -> tuple[User, Setup]:
    person = User.objects.create(username=f"trial-{uuid.uuid4().hex[:8]}", role=Role.TESTER)
    car = Car.objects.create(name=f"Trial {uuid.uuid4().hex[:8]}")
    return person, Setup.objects.create(car=car, name="as it is", since=date(2026, 1, 1))


def _answers(asker: Asker) -> bool:
    return asker.ask("GET", "/api/v1/session/")[0] == 200


@contextmanager
def _people(asker: Asker, report: Report, began_s: float, until_s: float, setup: int) -> Iterator[None]:
    acts: list[Callable[[Person], None]] = [
        *([lambda each: each.read(until_s)] * report.readers),
        *([lambda each: each.edit(until_s)] * TESTERS),
        *([lambda each: each.upload(until_s, setup)] * UPLOADERS),
    ]
    people = [
        threading.Thread(target=act, args=(Person(asker, report.asked, began_s, seed),))
        for seed, act in enumerate(acts)
    ]
    for each in people:
        each.start()
    yield
    for each in people:
        each.join()


def _break_and_mend(parts: Parts, report: Report, began_s: float, until_s: float) -> None:
    """Each part in turn, as long as there is time to mend it and look on."""
    turn = 0
    while True:
        name, breaking, mending, down_s = _faults(parts)[turn % len(_faults(parts))]
        turn += 1
        if time.monotonic() + SETTLE_S + down_s + SETTLE_S > until_s:
            return
        time.sleep(SETTLE_S)
        report.events.append(Event(time.monotonic() - began_s, name))
        breaking()
        time.sleep(down_s)
        mending()


Fault = tuple[str, Callable[[], None], Callable[[], None], float]


def _faults(parts: Parts) -> list[Fault]:
    """What fails: its name, how it is broken and mended, and for how long it is away."""

    def nothing() -> None:
        """The supervisor starts it again by itself."""

    nodes = parts.cluster.nodes

    def killed(node: Node) -> Fault:
        def mend() -> None:
            node.start(nodes)
            node.wait_until_ready()

        return f"{node.name} is killed", node.kill, mend, DOWN_S

    def rejoined() -> None:
        nodes[0].cut_off(False)
        nodes[0].wait_until_ready()

    return [
        killed(nodes[0]),
        ("web 1 is killed", lambda: _kill(parts.web[0]), nothing, DOWN_S),
        ("worker 1 is killed", lambda: _kill(parts.work[0]), nothing, DOWN_S),
        killed(nodes[1]),
        ("database 1 hears nothing of the others", lambda: nodes[0].cut_off(True), rejoined, CUT_OFF_S),
        ("web 2 is killed", lambda: _kill(parts.web[1]), nothing, DOWN_S),
        killed(nodes[2]),
        ("worker 2 is killed", lambda: _kill(parts.work[1]), nothing, DOWN_S),
    ]


def _kill(kept: KeptProcess) -> None:
    os.killpg(kept.process.pid, signal.SIGKILL)


def _lost(asked: Asked) -> Iterator[str]:
    """What was acknowledged and is not there, or is there twice."""
    names = list(Car.objects.values_list("name", flat=True))
    yield from (f"car {name}: {names.count(name)} times" for name in asked.cars if names.count(name) != 1)
    notes = dict(Car.objects.filter(pk__in=asked.notes).values_list("pk", "notes"))
    yield from (
        f"car {car} has {notes.get(car)!r}, not one of {sure}"
        for car, sure in asked.notes.items()
        if notes.get(car) not in sure
    )
    imports = {row.name: row for row in Import.objects.select_related("log")}
    for name in asked.uploads:
        row = imports.get(name)
        if row is None or row.state != ImportState.DONE or row.log is None:
            yield f"upload {name}: {row.state if row else 'gone'} {row.refusal if row else ''}"
    for log in Log.objects.exclude(sha256=None):
        with storage.open(f"logs/{log.sha256[:2]}/{log.sha256}") as file:  # type: ignore[index]
            if digest(file) != log.sha256:
                yield f"bytes of {log.name}"


def _differing(cluster: Cluster) -> Iterator[str]:
    """Tables of which the nodes do not hold the same."""
    for model in (Car, Log, Import, Setup, User):
        table = model._meta.db_table
        sums: Mapping[str, str] = {
            node.name: node.ask(f"CHECKSUM TABLE coombe.`{table}`") for node in cluster.nodes if node.is_ready()
        }
        if len(set(sums.values())) != 1 or len(sums) != len(cluster.nodes):
            yield f"{table}: {sums}"


def _throughput(parts: Parts, seconds: float = 20.0) -> dict[int, float]:
    """Answers a second that one and two web nodes give to people without pauses."""
    found = {}
    for webs in (1, 2):
        stopped = parts.web[1] if webs == 1 else None
        if stopped:
            os.killpg(stopped.process.pid, signal.SIGSTOP)
            time.sleep(3.0)
        until_s, counts = time.monotonic() + seconds, [0] * 8

        def ask(place: int, until_s: float = until_s, counts: list[int] = counts) -> None:
            while time.monotonic() < until_s:
                counts[place] += parts.asker.ask("GET", "/api/v1/cars/")[0] == 200

        threads = [threading.Thread(target=ask, args=(place,)) for place in range(len(counts))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        if stopped:
            os.killpg(stopped.process.pid, signal.SIGCONT)
            time.sleep(3.0)
        found[webs] = sum(counts) / seconds
    return found
