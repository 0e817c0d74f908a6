"""The launcher: what it refuses, and a private database that stops cleanly."""

import contextlib
import io
import os
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path
from unittest import TestCase, mock

from coombe_launcher import installing, serving
from coombe_launcher.__main__ import main
from coombe_launcher.console import LauncherError, run
from coombe_launcher.database import PrivateDatabase, database_url, free_port
from coombe_launcher.places import ROOT


class CommandTest(TestCase):
    def quietly(self, *arguments: str) -> tuple[int, str]:
        err = io.StringIO()
        with contextlib.redirect_stderr(err), contextlib.redirect_stdout(io.StringIO()):
            code = main(list(arguments))
        return code, err.getvalue()

    def test_a_busy_port_is_told_in_a_sentence(self):
        with socket.socket() as busy:
            busy.bind(("127.0.0.1", 0))
            busy.listen()
            port = busy.getsockname()[1]
            with mock.patch("coombe_launcher.serving.is_set_up", return_value=True):
                code, message = self.quietly("serve", "--port", str(port))
        self.assertEqual(code, 1)
        self.assertIn(f"port {port} is in use; name another with --port", message)

    def test_a_failing_step_shows_the_end_of_what_it_printed(self):
        with self.assertRaisesRegex(LauncherError, "(?s)counting failed.*three"):
            run(["sh", "-c", "echo one; echo three; exit 3"], "counting")

    def test_a_missing_program_is_named(self):
        with self.assertRaisesRegex(LauncherError, "no-such-program"):
            run(["no-such-program"], "looking")

    def test_the_one_command_analyses_without_a_server(self):
        with tempfile.TemporaryDirectory() as folder:
            log = Path(folder) / "made.nmea"
            command = [str(ROOT / "coombe")]
            subprocess.run(
                [*command, "simulate", "--scenario", "clean-run", "--out", log], check=True, capture_output=True
            )
            done = subprocess.run(
                [*command, "analyse", "made.nmea"], cwd=folder, check=True, capture_output=True, text=True
            )
        self.assertIn("run 1: standing start", done.stdout)


class RecordElsewhereTest(TestCase):
    """A machine that records and has its database elsewhere."""

    def setUp(self):
        folder = self.enterContext(tempfile.TemporaryDirectory())
        url = f"mysql://coombe:x@127.0.0.1:{free_port()}/coombe"
        self.enterContext(mock.patch.dict(os.environ, COOMBE_VAR=folder, DATABASE_URL=url))
        self.enterContext(mock.patch.object(serving, "is_set_up", return_value=True))
        self.enterContext(mock.patch.object(serving, "_until_stopped", return_value=0))
        self.kept = self.enterContext(mock.patch.object(serving, "kept_running"))
        self.out = self.enterContext(contextlib.redirect_stdout(io.StringIO()))
        before = signal.getsignal(signal.SIGTERM)
        self.addCleanup(signal.signal, signal.SIGTERM, before)

    def test_without_a_network_it_records_all_the_same(self):
        self.assertEqual(serving.record(None), 0)
        self.kept.assert_called_once()
        self.assertIn("kept on this machine, and stored once it does", self.out.getvalue())

    def test_it_never_upgrades_a_database_that_others_use(self):
        state = {"unknown": [], "pending": ["runs.0099"], "empty": False}
        with (
            mock.patch.object(serving, "_is_reached", return_value=True),
            mock.patch("coombe_launcher.upgrading.schema_state", return_value=state),
            self.assertRaisesRegex(LauncherError, "upgrade it where it is served from"),
        ):
            serving.record(None)
        self.kept.assert_not_called()


class GivenSocketTest(TestCase):
    def test_it_is_taken_from_who_meant_it_for_this_process_alone(self):
        for pid, count, given in ((os.getpid(), "1", 3), (os.getpid() + 1, "1", None), (os.getpid(), "2", None)):
            with (
                self.subTest(pid=pid, count=count),
                mock.patch.dict(os.environ, LISTEN_PID=str(pid), LISTEN_FDS=count),
            ):
                self.assertEqual(serving._given_socket(), given)
                self.assertNotIn("LISTEN_FDS", os.environ)  # nor to a process of its own
        self.assertIsNone(serving._given_socket())


class SetUpTest(TestCase):
    def test_without_root_or_sudo_the_line_to_run_is_printed(self):
        with (
            mock.patch.object(installing, "missing_debian", return_value=["chromium", "gpsbabel"]),
            mock.patch.object(os, "geteuid", return_value=1000),
            mock.patch.object(installing.shutil, "which", return_value=None),
            self.assertRaisesRegex(LauncherError, "apt-get install chromium gpsbabel"),
        ):
            installing._debian_packages()

    def test_an_old_node_is_replaced_from_a_package(self):
        with (
            mock.patch.object(installing, "_node_version", return_value=(18, 19)),
            mock.patch.object(installing, "_node_wheel", return_value=Path(__file__).parent),
        ):
            path, npm = installing.node_environment()["PATH"], installing._npm()
        self.assertTrue(path.startswith(str(Path(__file__).parent)))
        self.assertEqual((npm[0], Path(npm[1]).name), ("node", "npm-cli.js"))

    def test_every_locked_package_has_a_hash_and_no_address(self):
        for name in ("requirements.txt", "requirements-dev.txt", "requirements-node.txt"):
            text = (ROOT / name).read_text()
            self.assertIn("--hash=sha256:", text)
            self.assertNotIn("://", text)
        self.assertNotIn('"resolved"', (ROOT / "web" / "package-lock.json").read_text())


class PrivateDatabaseTest(TestCase):
    def test_it_starts_on_loopback_stops_cleanly_and_starts_again(self):
        with tempfile.TemporaryDirectory() as folder:
            database = PrivateDatabase(Path(folder), forgetful=True)
            with contextlib.redirect_stdout(io.StringIO()):
                for _ in range(2):
                    database.start()
                    self.assertIn(f"@127.0.0.1:{database.port}/", database.url)
                    with socket.socket() as probe:
                        self.assertEqual(probe.connect_ex(("127.0.0.1", database.port)), 0)
                    database.stop()
            log = (Path(folder) / "server.log").read_text()
            self.assertEqual(log.count("mariadbd: Shutdown complete"), 2)
            self.assertNotIn("crash recovery", log)
            self.assertEqual((Path(folder) / "password").stat().st_mode & 0o077, 0)

    def test_a_killed_server_comes_back_at_the_same_port(self):
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.dict(os.environ),
            contextlib.redirect_stdout(io.StringIO()),
        ):
            os.environ.pop("DATABASE_URL", None)
            with database_url(Path(folder) / "mariadb") as url:
                port = int(url.rsplit(":", 1)[1].split("/")[0])
                killed = int((Path(folder) / "mariadb" / "server.pid").read_text())
                os.kill(killed, signal.SIGKILL)
                limit = time.monotonic() + 60
                while time.monotonic() < limit:
                    with socket.socket() as probe, contextlib.suppress(OSError, ValueError):
                        again = int((Path(folder) / "mariadb" / "server.pid").read_text())
                        if again != killed and probe.connect_ex(("127.0.0.1", port)) == 0:
                            return
                self.fail("the database did not come back")

    def test_a_given_database_url_is_used_as_it_is(self):
        with mock.patch.dict(os.environ, DATABASE_URL="mysql://there"), database_url(Path("none")) as url:
            self.assertEqual(url, "mysql://there")

    def test_a_free_port_can_be_bound(self):
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", free_port()))
