"""Three MariaDB servers as one Galera cluster on loopback, each of which can be killed, cut off and started again."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import time
from contextlib import suppress
from pathlib import Path

import MySQLdb

from coombe_launcher.database import free_port
from coombe_launcher.looking_after import die_with_parent

PROVIDER = Path("/usr/lib/galera/libgalera_smm.so")
START_LIMIT_S = 120.0
ANSWER_LIMIT_S = 10
STATUS = "SHOW STATUS LIKE"
SYNCED, GIVING = "4", "2"  # wsrep_local_state
PERSON = "mysql"  # a transfer between nodes writes what the server can read only where it runs as its own user
# A node that says nothing is suspected after two seconds, and left out after four.
PATIENCE = "evs.keepalive_period=PT0.5S;evs.suspect_timeout=PT2S;evs.inactive_timeout=PT4S;evs.install_timeout=PT4S"


class Node:
    """One server of the cluster."""

    def __init__(self, number: int, folder: Path, password: str) -> None:
        self.number, self.folder, self._password = number, folder, password
        self.port, self.group_port, self.transfer_port, self.catch_up_port = (free_port() for _ in range(4))
        self.process: subprocess.Popen[bytes] | None = None
        self._create()

    @property
    def name(self) -> str:
        """What people call it."""
        return f"database {self.number}"

    def start(self, others: list[Node], first: bool = False) -> None:
        """Start it, as the first of a new cluster or to join the others.

        One that ran before says how far it has come, so that it is given what came since, and not everything.
        """
        addresses = "" if first else ",".join(f"127.0.0.1:{node.group_port}" for node in others)
        options = f"base_port={self.group_port};gmcast.listen_addr=tcp://127.0.0.1:{self.group_port}"
        options += f";ist.recv_addr=127.0.0.1:{self.catch_up_port};gcache.size=64M;{PATIENCE}"
        command = [
            *("mariadbd", "--no-defaults", f"--datadir={self._data}", f"--socket={self.folder / 'socket'}"),
            *(f"--port={self.port}", "--bind-address=127.0.0.1", "--skip-name-resolve", f"--tmpdir={self.folder}"),
            *("--binlog-format=ROW", "--innodb-autoinc-lock-mode=2", "--max-connections=300"),
            *("--innodb-flush-log-at-trx-commit=0", "--max-allowed-packet=256M", "--character-set-server=utf8mb4"),
            *("--wsrep-on=ON", f"--wsrep-provider={PROVIDER}", "--wsrep-cluster-name=coombe-trial"),
            *(f"--wsrep-cluster-address=gcomm://{addresses}", f"--wsrep-node-name=node{self.number}"),
            *(f"--wsrep-node-address=127.0.0.1:{self.group_port}", "--wsrep-sst-method=rsync"),
            *(f"--wsrep-sst-receive-address=127.0.0.1:{self.transfer_port}", f"--wsrep-provider-options={options}"),
            *_as_person(),
        ]
        if self.process:
            command.append(f"--wsrep-start-position={self._position(command)}")
        with (self.folder / "server.log").open("ab") as log:
            self.process = subprocess.Popen(
                command, stdout=log, stderr=log, start_new_session=True, preexec_fn=die_with_parent
            )

    def _position(self, command: list[str]) -> str:
        printed = subprocess.run([*command, "--wsrep-recover"], capture_output=True, text=True, check=True).stderr
        return printed.split("Recovered position:")[1].split()[0]

    def kill(self) -> None:
        """End it at once, as a machine that loses its power."""
        if self.process:
            with suppress(ProcessLookupError):
                os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()

    def cut_off(self, off: bool) -> None:
        """Have it hear nothing of the others, or hear them again."""
        self.tell(f"SET GLOBAL wsrep_provider_options='gmcast.isolate={int(off)}'")

    def is_ready(self) -> bool:
        """Whether it takes part in the cluster and has all that the others have."""
        return self._takes_part(SYNCED)

    def answers(self) -> bool:
        """Whether it can be used: it takes part, though it may be giving another node what that lacks."""
        return self._takes_part(SYNCED, GIVING)

    def _takes_part(self, *states: str) -> bool:
        try:
            return self.ask(f"{STATUS} 'wsrep_ready'") == "ON" and self.ask(f"{STATUS} 'wsrep_local_state'") in states
        except MySQLdb.Error:
            return False

    def wait_until_ready(self) -> None:
        """Raises TimeoutError with the end of its log where it does not come."""
        limit = time.monotonic() + START_LIMIT_S
        while time.monotonic() < limit:
            if self.is_ready():
                return
            if self.process and self.process.poll() is not None:
                break
            time.sleep(0.3)
        tail = "\n".join((self.folder / "server.log").read_text(errors="replace").splitlines()[-12:])
        raise TimeoutError(f"{self.name} did not join:\n{tail}")

    def ask(self, sql: str) -> str:
        """The last column of the first row of an answer; empty without one."""
        connection = self._connect()
        try:
            cursor = connection.cursor()
            cursor.execute(sql)
            row = cursor.fetchone()
            return str(row[-1]) if row else ""
        finally:
            connection.close()

    def tell(self, *statements: str) -> None:
        """Statements as the server's own administrator."""
        connection = MySQLdb.connect(
            unix_socket=str(self.folder / "socket"), user="root", connect_timeout=2, autocommit=True
        )
        try:
            for statement in statements:
                connection.cursor().execute(statement)
        finally:
            connection.close()

    def _connect(self) -> MySQLdb.Connection:
        return MySQLdb.connect(
            host="127.0.0.1",
            port=self.port,
            user="coombe",
            passwd=self._password,
            connect_timeout=2,
            read_timeout=ANSWER_LIMIT_S,
        )

    @property
    def _data(self) -> Path:
        return self.folder / "data"

    def _create(self) -> None:
        self.folder.mkdir(parents=True)
        if os.geteuid() == 0:
            shutil.chown(self.folder, PERSON)
        made = [
            *("mariadb-install-db", "--no-defaults", f"--datadir={self._data}", "--skip-test-db", "--force"),
            *("--auth-root-authentication-method=socket", "--auth-root-socket-user=root", f"--tmpdir={self.folder}"),
        ]
        subprocess.run([*made, *_as_person()], check=True, capture_output=True)


def _as_person() -> list[str]:
    return [f"--user={PERSON}"] if os.geteuid() == 0 else []


class Cluster:
    """Three of them."""

    def __init__(self, folder: Path, password: str) -> None:
        self.password = password
        self.nodes = [Node(number, folder / f"node{number}", password) for number in (1, 2, 3)]

    def start(self) -> None:
        """Form the cluster, with Coombe's account and an empty database."""
        first, *others = self.nodes
        first.start(self.nodes, first=True)
        self._wait_for_socket(first)
        account = "'coombe'@'127.0.0.1'"
        first.tell(
            "CREATE DATABASE coombe CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_520_ci",
            f"CREATE USER {account} IDENTIFIED BY '{self.password}'",
            f"GRANT ALL ON coombe.* TO {account}",
        )
        first.wait_until_ready()
        for node in others:
            node.start(self.nodes)
            node.wait_until_ready()

    def _wait_for_socket(self, node: Node) -> None:
        limit = time.monotonic() + START_LIMIT_S
        while True:
            try:
                node.tell("SELECT 1")
                return
            except MySQLdb.Error:
                if time.monotonic() > limit or (node.process and node.process.poll() is not None):
                    raise
                time.sleep(0.3)

    def checksums(self, table: str) -> dict[str, str]:
        """What each node has in a table, as a number; empty where it does not answer."""
        found = dict.fromkeys((node.name for node in self.nodes), "")
        for node in self.nodes:
            with suppress(MySQLdb.Error):
                found[node.name] = node.ask(f"CHECKSUM TABLE coombe.`{table}`")
        return found

    def stop(self) -> None:
        """End all of it; it is thrown away."""
        for node in self.nodes:
            node.kill()
