"""Setup passes over what is done; the doctor says what to do; serving stops its children."""

import contextlib
import io
import json
import os
import socket
import subprocess
import tempfile
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from unittest import TestCase, mock

from coombe_launcher import database, doctor, installing, serving, testing
from coombe_launcher.console import LauncherError
from coombe_launcher.home import Home
from coombe_launcher.places import PYTHON, PYTHON_PATH
from coombe_launcher.serving import Address


@contextlib.contextmanager
def answering(answer):
    """A web server that answers everything with this; gives its port."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self):
            data = json.dumps(answer).encode()
            self.send_response(200)
            self.send_header("Content-Length", str(len(data)))
            self.end_headers()
            self.wfile.write(data)

        def log_message(self, *args):
            """Nothing."""

    server = HTTPServer(("127.0.0.1", 0), Handler)
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True)
    thread.start()
    try:
        yield server.server_address[1]
    finally:
        server.shutdown()
        server.server_close()
        thread.join()


def quietly(act, *arguments):
    """What an act returned, and what it said."""
    out = io.StringIO()
    with contextlib.redirect_stdout(out):
        return act(*arguments), out.getvalue()


class StampsTest(TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        for name, value in {"ROOT": self.folder, "STAMPS": self.folder / "stamps"}.items():
            patch = mock.patch.object(installing, name, value)
            patch.start()
            self.addCleanup(patch.stop)
        self.lock = self.folder / "package-lock.json"
        self.lock.write_text("{}")

    def test_a_step_is_done_until_its_inputs_change(self):
        self.assertFalse(installing._is_done("npm", [self.lock]))
        installing._mark_done("npm", [self.lock])
        self.assertTrue(installing._is_done("npm", [self.lock]))
        self.lock.write_text('{"changed": true}')
        self.assertFalse(installing._is_done("npm", [self.lock]))

    def test_an_input_that_went_away_is_a_change(self):
        installing._mark_done("npm", [self.lock])
        self.lock.unlink()
        self.assertFalse(installing._is_done("npm", [self.lock]))

    def test_a_finished_step_runs_nothing(self):
        modules = self.folder / "node_modules"
        modules.mkdir()
        with (
            mock.patch.object(installing, "WEB", self.folder),
            mock.patch.dict(installing._STAMPED, {"npm": lambda: [self.lock]}),
            mock.patch.object(installing, "run", side_effect=AssertionError("ran")),
        ):
            installing._mark_done("npm", [self.lock])
            _, message = quietly(installing._web_packages)
        self.assertIn("all there", message)

    def test_a_failing_step_is_not_marked_done(self):
        with (
            mock.patch.object(installing, "WEB", self.folder),
            mock.patch.dict(installing._STAMPED, {"npm": lambda: [self.lock]}),
            mock.patch.object(installing, "run", side_effect=LauncherError("no network")),
            self.assertRaises(LauncherError),
        ):
            quietly(installing._web_packages)
        self.assertFalse(installing._is_done("npm", [self.lock]))


class DebianTest(TestCase):
    def listed(self, text: str) -> list[str]:
        answer = subprocess.CompletedProcess([], 0, stdout=text, stderr="")
        with mock.patch.object(installing.subprocess, "run", return_value=answer):
            return installing.missing_debian()

    def test_a_package_that_was_removed_but_left_its_settings_is_missing(self):
        every = (*installing.DEBIAN_PACKAGES, *installing.TEST_PACKAGES)
        text = "".join(f"{package} installed\n" for package in every)
        self.assertEqual(self.listed(text), [])
        self.assertEqual(self.listed(text.replace("curl installed", "curl config-files")), ["curl"])

    def test_where_coombe_is_only_used_nothing_is_missing_that_only_tests_need(self):
        text = "".join(f"{package} installed\n" for package in installing.DEBIAN_PACKAGES)
        with tempfile.TemporaryDirectory() as folder, mock.patch.object(installing, "FOR_USE", Path(folder) / "mark"):
            self.assertEqual(self.listed(text), list(installing.TEST_PACKAGES))
            installing.FOR_USE.touch()
            self.assertEqual(self.listed(text), [])
            self.assertEqual([path.name for path in installing._requirements()], ["requirements.txt"])

    def test_another_system_is_told_what_is_wanted(self):
        with (
            mock.patch.object(installing.shutil, "which", return_value=None),
            self.assertRaisesRegex(LauncherError, "no Debian system.*mariadb-server"),
        ):
            installing.missing_debian()


class DoctorTest(TestCase):
    def examine(self, checks) -> tuple[int, str]:
        with mock.patch.object(doctor, "_checks", return_value=checks):
            return quietly(doctor.examine, 8642)

    def test_every_line_is_ok_or_says_what_to_do(self):
        def broken() -> str:
            raise LauncherError("run ./coombe setup")

        code, message = self.examine({"Python": lambda: "3.11", "Chromium": broken})
        self.assertEqual(code, 1)
        self.assertEqual(message.splitlines(), ["ok    Python: 3.11", "TO DO Chromium: run ./coombe setup"])

    def test_all_well_leaves_with_nought(self):
        self.assertEqual(self.examine({"Python": lambda: "3.11"})[0], 0)

    def test_a_port_in_use_is_found(self):
        with socket.socket() as busy:
            busy.bind(("127.0.0.1", 0))
            busy.listen()
            silent = mock.patch.object(doctor, "ANSWERS_WITHIN_S", 0.2)
            with silent, self.assertRaisesRegex(LauncherError, "in use by something else"):
                doctor._server(busy.getsockname()[1])
        self.assertEqual(doctor._server(database.free_port()), "free")

    def test_a_server_that_runs_says_whether_it_can_work(self):
        with answering({"ready": True, "disk": "ok"}) as port:
            self.assertEqual(doctor._server(port), "Coombe runs there and is ready")
        full = self.assertRaisesRegex(LauncherError, "can't work: disk: The disk is full.")
        with answering({"ready": False, "disk": "The disk is full."}) as port, full:
            doctor._server(port)
        with answering(["something else"]) as port, self.assertRaisesRegex(LauncherError, "something else"):
            doctor._server(port)

    def test_questions_that_took_long_are_counted(self):
        home = Home(Path(self.enterContext(tempfile.TemporaryDirectory())))
        self.enterContext(mock.patch.dict(os.environ, {"COOMBE_VAR": str(home.folder)}))
        os.environ.pop("DATABASE_URL", None)
        self.assertEqual(doctor._slow_queries(), "none over 1 s")
        home.database.mkdir()
        lines = "# Query_time: 1.250000  Lock_time: 0.0\nSELECT 1;\n# Query_time: 3.4 Lock_time: 0\nSELECT 2;\n"
        (home.database / "slow.log").write_text(lines)
        self.assertIn("2 over 1 s, the longest 3.4 s", doctor._slow_queries())

    def test_a_full_disk_is_found(self):
        usage = mock.Mock(free=10**8)
        with mock.patch.object(doctor.shutil, "disk_usage", return_value=usage), self.assertRaises(LauncherError):
            doctor._disk()

    def test_a_missing_program_is_found(self):
        with self.assertRaisesRegex(LauncherError, "not installed"):
            doctor._version("no-such-program")


class ServingTest(TestCase):
    def test_the_web_server_listens_on_loopback_with_the_workers_asked_for(self):
        command = [str(part) for part in serving._web_command(Address(8700), 3)]
        self.assertEqual(command[command.index("--host") + 1], "127.0.0.1")
        self.assertEqual(command[command.index("--workers") + 1], "3")

    def test_other_devices_are_served_with_a_certificate_alone(self):
        made = {"names": ["192.0.2.7", "localhost"], "folder": "/var/https", "fingerprint": "AB:CD"}
        with mock.patch.object(serving, "manage", return_value=json.dumps(made)):
            report, env, options = serving._for_lan({}, Address(8700, lan=True))
        self.assertEqual(Address(8700, lan=True).host, "0.0.0.0")
        self.assertIn("https://192.0.2.7:8700/", report)
        self.assertIn("AB:CD", report)
        self.assertEqual((env["COOMBE_HTTPS"], env["COOMBE_HOSTS"]), ("1", "192.0.2.7,localhost"))
        self.assertEqual(options, ["--certificates", "/var/https"])


class TotalsTest(TestCase):
    def outcome(self, script: str) -> testing.Outcome:
        return quietly(testing._run_tests, [PYTHON, "-c", script], {**os.environ, "PYTHONPATH": PYTHON_PATH})[0]

    def test_the_totals_and_what_failed_are_read_from_the_runner(self):
        with mock.patch.object(testing, "SERVER", Path.cwd()):
            found = self.outcome(
                "print('FAILED (failures=1)'); print('FAILED test_a (b.C)'); print('12 passed, 1 failed')"
            )
        self.assertEqual(found + testing.Outcome(3), testing.Outcome(15, ["test_a (b.C)"]))

    def test_a_run_that_dies_without_totals_is_an_error(self):
        with mock.patch.object(testing, "SERVER", Path.cwd()), self.assertRaisesRegex(LauncherError, "exit 7"):
            self.outcome("raise SystemExit(7)")
