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
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
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
from recording.models import Recording
from runs.models import Import, ImportState, Log, Run
from runs.store import digest, storage
from trials.asking import Asker
from trials.cluster.balancing import Balancer
from trials.cluster.galera import Cluster, Node
from trials.cluster.laptops import Course, Laptop
from trials.cluster.people import Asked, Person
from trials.driven import Driven
from trials.waiting import until

TESTERS, UPLOADERS = 5, 2
BUCKET = "coombe-trial"
DOWN_S = 12.0  # how long a part stays away
SETTLE_S = 15.0  # after it is back
CUT_OFF_S = 15.0
IMPORTS_S = 300.0


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
    driven: Driven = field(default_factory=Driven)
    throughput: dict[int, float] = field(default_factory=dict)  # answers a second by number of web nodes

    @property
    def kept(self) -> bool:
        """Whether nothing that was acknowledged or driven is lost, and all nodes agree."""
        return not self.lost and not self.differing and not self.driven.wrong

    def __str__(self) -> str:
        asked = self.asked
        driven = self.driven
        recorded = f"{driven.pulls} pulls and stops, {driven.sentences} sentences of two cars recorded"
        acknowledged = f"{len(asked.cars)} cars, {len(asked.notes)} notes, {len(asked.uploads)} uploads acknowledged"
        rows = [
            f"| {self.minutes:.0f} minutes, {self.readers} readers, {TESTERS} testers, {UPLOADERS} who upload | |",
            "| --- | --- |",
            f"| requests | {asked.count}, of which {len(asked.failed)} failed ({100 * asked.failed_share:.2f} %) |",
            f"| slowest answer; longest without one | {asked.slowest_s:.1f} s; {asked.longest_failing_s:.1f} s |",
            f"| {acknowledged} | {len(self.lost)} lost, {len(self.differing)} differ between nodes |",
            f"| {recorded} | {len(driven.wrong)} lost, doubled or changed; {driven.gaps} gaps, each noted |",
            *(f"| answers a second with {webs} web nodes | {rate:.0f} |" for webs, rate in self.throughput.items()),
        ]
        rows += [f"| after {event.at_s:.0f} s | {event.what} |" for event in self.events]
        rows += [f"LOST {each}" for each in self.lost] + [f"DIFFERS {each}" for each in self.differing]
        rows += [f"WRONG {each}" for each in driven.wrong]
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
        until("the balancer passes the database on", self._database_answers)
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
        self.course = Course(folder, self.balancer.database_port, dict(os.environ), stack)

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

    until("the object store answers", made)
    return address


def run(minutes: float, readers: int, throughput: bool) -> Report:
    """Bring everything up, let it be used for some minutes while parts fail in turn, and compare what is stored."""
    report = Report(minutes, readers, Asked())
    with tempfile.TemporaryDirectory(prefix="coombe-cluster-") as name, ExitStack() as stack:
        folder = Path(name)
        folder.chmod(0o755)  # the database's own user passes
        parts = Parts(folder, stack)
        person, setup = _made()
        parts.asker.log_in(person)
        until("the web answers", lambda: _answers(parts.asker))
        if throughput:
            report.throughput = _throughput(parts)
        parts.course.record()
        began_s = time.monotonic()
        until_s = began_s + minutes * 60
        with parts.course.driven(until_s), _people(parts.asker, report, began_s, until_s, setup.pk):
            _break_and_mend(parts, report, began_s, until_s)
        until("every node takes part", lambda: all(node.is_ready() for node in parts.cluster.nodes))
        connection.close()  # it broke with the node that it was to
        until("every import is done", lambda: not Import.objects.filter(ended_at=None).exists(), IMPORTS_S)
        report.driven = parts.course.compared()
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
        faults = _faults(parts)
        name, breaking, mending, down_s = faults[turn % len(faults)]
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

    nodes, course = parts.cluster.nodes, parts.course

    def killed(node: Node) -> Fault:
        def mend() -> None:
            node.start(nodes)
            node.wait_until_ready()

        return f"{node.name} is killed", node.kill, mend, DOWN_S

    def rejoined() -> None:
        nodes[0].cut_off(False)
        nodes[0].wait_until_ready()

    def with_a_disk() -> list[Fault]:
        laptop = course.holder(1)
        fault = ("the disk of a laptop that records is full", laptop.fill, laptop.empty, DOWN_S)
        return [fault] if laptop.has_own_disk else []

    return [
        killed(nodes[0]),
        ("web 1 is killed", lambda: _kill(parts.web[0]), nothing, DOWN_S),
        _unheard(course.holder(0)),
        ("worker 1 is killed", lambda: _kill(parts.work[0]), nothing, DOWN_S),
        _switched_off(course.holder(1)),
        killed(nodes[1]),
        ("database 1 hears nothing of the others", lambda: nodes[0].cut_off(True), rejoined, CUT_OFF_S),
        ("web 2 is killed", lambda: _kill(parts.web[1]), nothing, DOWN_S),
        *with_a_disk(),
        killed(nodes[2]),
        ("worker 2 is killed", lambda: _kill(parts.work[1]), nothing, DOWN_S),
    ]


def _unheard(laptop: Laptop) -> Fault:
    return "a laptop that records does not reach the database", laptop.line.cut, laptop.line.mend, DOWN_S


def _switched_off(laptop: Laptop) -> Fault:
    return "a laptop that records loses its power", laptop.kill, laptop.start, DOWN_S


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
    """Tables of which the nodes do not hold the same; a node may take a while for what another has committed."""
    for model in (Car, Log, Import, Setup, User, Run, Recording):
        table = model._meta.db_table
        sums: dict[str, str] = {}

        def alike(table: str = table, sums: dict[str, str] = sums) -> bool:
            sums.update(cluster.checksums(table))
            return len(set(sums.values())) == 1 and "" not in sums.values()

        with suppress(TimeoutError):
            until(f"{table} is alike on all nodes", alike)
            continue
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
