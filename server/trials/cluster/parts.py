"""All that runs in a trial of a cluster, and how each part fails."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path

import boto3
from django.conf import settings
from django.db import connection

from coombe_launcher.beside import KeptProcess, kept_running
from coombe_launcher.database import free_port
from coombe_launcher.places import SERVER
from trials.asking import Asker
from trials.cluster.balancing import Balancer
from trials.cluster.galera import Cluster, Node
from trials.cluster.laptops import Course, Laptop
from trials.waiting import until

BUCKET = "coombe-trial"
DOWN_S = 12.0  # how long a part stays away
CUT_OFF_S = 15.0


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


Fault = tuple[str, Callable[[], None], Callable[[], None], float]


def faults(parts: Parts) -> list[Fault]:
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
