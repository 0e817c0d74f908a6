"""Processes kept running alone, one server a home, and what a kill leaves."""

from __future__ import annotations

import contextlib
import io
import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from unittest import TestCase, mock

from coombe_launcher.beside import Backoff, kept_running
from coombe_launcher.console import LauncherError
from coombe_launcher.home import Home
from coombe_launcher.looking_after import looked_after

LIMIT_S = 30.0


def until(what: str, holds: Callable[[], object]) -> None:
    limit = time.monotonic() + LIMIT_S
    while not holds():
        if time.monotonic() > limit:
            raise AssertionError(f"in {LIMIT_S:.0f} s it never came to pass that {what}")
        time.sleep(0.02)


class BackoffTest(TestCase):
    def test_each_early_end_doubles_the_wait_up_to_a_limit_and_a_long_life_ends_that(self):
        backoff = Backoff(first_s=0.5, longest_s=4.0, settled_s=20.0)
        waits = [backoff.ended(started_at=now, now=now + 1) for now in range(0, 60, 10)]
        self.assertEqual(waits, [0.5, 1.0, 2.0, 4.0, 4.0, 4.0])
        self.assertEqual(backoff.ended(started_at=100, now=130), 0.5)
        self.assertFalse(backoff.is_due(130.4))
        self.assertTrue(backoff.is_due(130.5))


class KeptProcessTest(TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(mock.patch("coombe_launcher.looking_after.AGAIN_S", 0.02))
        self.output = self.enterContext(contextlib.redirect_stdout(io.StringIO()))

    def command(self, body: str) -> list[str]:
        """A process that notes each of its starts, then does something."""
        starts = self.folder / "starts"
        return [sys.executable, "-c", f"open({str(starts)!r}, 'a').write('started\\n'); {body}"]

    @property
    def starts(self) -> int:
        path = self.folder / "starts"
        return path.read_text().count("started") if path.exists() else 0

    def test_a_killed_process_is_started_again_and_the_end_is_told(self):
        with kept_running("web server", self.command("import signal; signal.pause()"), dict(os.environ)) as kept:
            until("it started", lambda: self.starts == 1)
            kept.process.kill()
            until("it started again", lambda: self.starts == 2)
            last = kept.process
        self.assertIsNotNone(last.poll())
        self.assertIn("The web server ended (killed by signal 9); it starts again in 0.5 s", self.output.getvalue())

    def test_one_that_ends_at_once_is_not_started_again_at_once(self):
        self.enterContext(mock.patch("coombe_launcher.beside.Backoff", lambda: Backoff(first_s=60.0)))
        with kept_running("recorder", self.command("raise SystemExit(3)"), dict(os.environ)) as kept:
            until("it was printed", lambda: "exit 3" in self.output.getvalue())
            for _ in range(50):
                kept.look()
        self.assertEqual(self.starts, 1)

    def test_a_look_that_fails_is_told_and_made_again(self):
        looks = []

        def look() -> None:
            looks.append(True)
            raise OSError("no such thing")

        with contextlib.redirect_stderr(io.StringIO()) as output, looked_after(look):
            until("it looked again", lambda: len(looks) > 2)
        self.assertIn("no such thing", output.getvalue())


class HomeTest(TestCase):
    def test_a_home_has_one_server_and_the_second_is_told_which(self):
        with tempfile.TemporaryDirectory() as folder:
            home = Home(Path(folder) / "var")
            script = (
                "import sys; from pathlib import Path; from coombe_launcher.home import Home\n"
                "with Home(Path(sys.argv[1])).alone(): print('alone', flush=True); sys.stdin.read()"
            )
            env = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
            command = [sys.executable, "-c", script, str(home.folder)]
            first = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, env=env)
            self.assertEqual(first.stdout.readline(), b"alone\n")
            with self.assertRaisesRegex(LauncherError, f"process {first.pid}"), home.alone():
                self.fail("two have it")
            first.send_signal(signal.SIGKILL)
            first.communicate()
            with home.alone():  # what a killed one leaves is no hindrance
                self.assertEqual(home.folder.stat().st_mode & 0o077, 0)

    def test_the_demo_has_a_home_of_its_own(self):
        self.assertNotEqual(Home.of(demo=True).database, Home.of().database)
        self.assertTrue(Home.of(demo=True).folder.is_relative_to(Home.of().folder))

    def test_what_a_killed_web_process_was_receiving_is_removed(self):
        with tempfile.TemporaryDirectory() as folder:
            home = Home(Path(folder))
            (home.folder / "uploads").mkdir()
            (home.folder / "uploads" / "tmp1.upload").write_bytes(b"half")
            home.clear_uploads()
            self.assertFalse((home.folder / "uploads").exists())
