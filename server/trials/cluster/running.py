"""The trial: everything is brought up, used by people, loses each part in turn and gets it back, and is compared."""

from __future__ import annotations

import os
import signal
import tempfile
import threading
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path

from django.db import connection

from accounts.models import Role, User
from cars.models import Car, Setup
from config.again import whole
from recording.models import Recording
from runs.models import Import, ImportState, Log, Run
from runs.store import digest, storage
from trials.asking import Asker
from trials.cluster.galera import Cluster
from trials.cluster.parts import Parts, faults
from trials.cluster.people import Asked, Person
from trials.driven import Driven
from trials.waiting import until

TESTERS, UPLOADERS = 5, 2
SETTLE_S = 15.0  # after a part is back
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
        each = faults(parts)
        name, breaking, mending, down_s = each[turn % len(each)]
        turn += 1
        if time.monotonic() + SETTLE_S + down_s + SETTLE_S > until_s:
            return
        time.sleep(SETTLE_S)
        report.events.append(Event(time.monotonic() - began_s, name))
        breaking()
        time.sleep(down_s)
        mending()


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
