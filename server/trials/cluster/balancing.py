"""HAProxy before the database nodes and the web nodes, and as a line that can be cut."""

from __future__ import annotations

import signal
import subprocess
import threading
from collections.abc import Sequence
from contextlib import suppress
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from coombe_launcher.database import free_port
from coombe_launcher.looking_after import die_with_parent
from trials.cluster.galera import Node

TEMPLATE = """
global
    maxconn 2000
defaults
    timeout connect 2s
    timeout check 5s
    timeout client 1h
    timeout server 1h
    option redispatch
    retries 3
    default-server inter 1s fall 2 rise 2 on-marked-down shutdown-sessions

# One node takes everything until it fails, the others stand by: two that take writes give up more of what meets.
listen database
    mode tcp
    stick-table type ip size 1 nopurge
    stick on dst
    bind 127.0.0.1:{database_port}
    option httpchk GET /
{database_nodes}

listen web
    mode http
    bind 127.0.0.1:{web_port}
    balance roundrobin
    option httpchk GET /health/live
    retry-on conn-failure empty-response
{web_nodes}
"""


class Watch:
    """A port that says 200 as long as a database node takes part in its cluster, and 503 otherwise."""

    def __init__(self, node: Node) -> None:
        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                ready = node.answers()
                with suppress(ConnectionError):  # it may have waited for too long
                    self.send_response(200 if ready else 503)
                    self.send_header("Content-Length", "0")
                    self.end_headers()

            def log_message(self, *args: object) -> None:
                """Nothing."""

        self._server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self.port: int = self._server.server_address[1]
        threading.Thread(target=self._server.serve_forever, daemon=True).start()

    def stop(self) -> None:
        """No more."""
        self._server.shutdown()
        self._server.server_close()


class Balancer:
    """HAProxy, with the nodes behind it."""

    def __init__(self, folder: Path, nodes: Sequence[Node], web_ports: Sequence[int], database_port: int) -> None:
        self.web_port, self.database_port = free_port(), database_port
        self._watches = [Watch(node) for node in nodes]
        lines = [
            f"    server db{node.number} 127.0.0.1:{node.port} check port {watch.port}{' backup' if place else ''}"
            for place, (node, watch) in enumerate(zip(nodes, self._watches, strict=True))
        ]
        webs = [f"    server web{place} 127.0.0.1:{port} check" for place, port in enumerate(web_ports, start=1)]
        path = folder / "haproxy.cfg"
        ports = {"database_port": database_port, "web_port": self.web_port}
        path.write_text(TEMPLATE.format(**ports, database_nodes="\n".join(lines), web_nodes="\n".join(webs)))
        with (folder / "haproxy.log").open("wb") as log:
            command = ["haproxy", "-q", "-f", str(path)]
            self._process = subprocess.Popen(command, stdout=log, stderr=log, preexec_fn=die_with_parent)

    def stop(self) -> None:
        """End it."""
        self._process.kill()
        self._process.wait()
        for watch in self._watches:
            watch.stop()


LINE = """
global
    maxconn 200
defaults
    timeout connect 2s
    timeout client 1h
    timeout server 1h
listen line
    mode tcp
    bind 127.0.0.1:{port}
    server far 127.0.0.1:{far_port}
"""


class Line:
    """A port that passes everything on to another one, until it is cut: then all is silence."""

    def __init__(self, folder: Path, far_port: int, port: int | None = None) -> None:
        self.port = port or free_port()
        path = folder / f"line-{self.port}.cfg"
        path.write_text(LINE.format(port=self.port, far_port=far_port))
        self._process = subprocess.Popen(["haproxy", "-q", "-f", str(path)], preexec_fn=die_with_parent)

    def cut(self) -> None:
        """From now on nothing comes through."""
        self._process.send_signal(signal.SIGSTOP)

    def mend(self) -> None:
        """Everything comes through, also what was sent meanwhile."""
        self._process.send_signal(signal.SIGCONT)

    def stop(self) -> None:
        """End it."""
        self._process.kill()
        self._process.wait()
