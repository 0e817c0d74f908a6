"""MariaDB killed in mid-import: after its restart all of that import is there, or nothing of it."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

from coombe_launcher.database import PrivateDatabase
from coombe_launcher.places import PYTHON_PATH, SERVER
from runs.tests.test_import import log_bytes

IMPORTING = """
import os, signal, sys
from pathlib import Path
from unittest import mock
from django.db import DatabaseError
from accounts.models import User
from cars.models import Car, SetUp
from runs.models import Flag, Measured, RunTrace, Split
from runs.services import import_log

def kill():
    os.kill(int(os.environ["MARIADB_PID"]), signal.SIGKILL)

def killing(manager, method, calls):
    real, left = getattr(manager, method), [calls]
    def act(*args, **kwargs):
        left[0] -= 1
        if left[0] == 0:
            kill()
        return real(*args, **kwargs)
    return mock.patch.object(manager, method, act)

POINTS = {
    "before the measures of the first run": lambda: killing(Measured.objects, "bulk_create", 1),
    "before the splits of the second run": lambda: killing(Split.objects, "bulk_create", 2),
    "before the last trace": lambda: killing(RunTrace.objects, "create", 2),
}
person = User.objects.get_or_create(username="tester")[0]
car = Car.objects.get_or_create(name="Car")[0]
set_up = SetUp.objects.get_or_create(car=car, name="Set-up", since="2026-04-01")[0]
data = Path(os.environ["LOG"]).read_bytes()
point = os.environ["POINT"]
try:
    if point == "after the commit":
        import_log("day.nmea", data, set_up, person, {})
        kill()
    else:
        with POINTS[point]():
            import_log("day.nmea", data, set_up, person, {})
        sys.exit("the import went through although the database was killed")
except DatabaseError:
    pass
"""
COUNTING = """
import json
from runs.models import Flag, Log, Measured, Rejection, Run, RunTrace, Split
print(json.dumps({m.__name__: m.objects.count() for m in (Log, Run, Measured, Split, RunTrace)}))
"""


class CrashTest(SimpleTestCase):
    def setUp(self):
        self.home = Path(settings.VAR) / "crash"
        shutil.rmtree(self.home, ignore_errors=True)
        self.database = PrivateDatabase(self.home / "mariadb")
        self.database.start()
        self.addCleanup(self.database.stop)
        (self.home / "day.nmea").write_bytes(log_bytes())
        self.manage("migrate", "--no-input", "--verbosity=0")

    def manage(self, *arguments: str, **more: str) -> str:
        env = {
            **os.environ,
            "PYTHONPATH": PYTHON_PATH,
            "DATABASE_URL": self.database.url,
            "COOMBE_VAR": str(self.home / "var"),
            "LOG": str(self.home / "day.nmea"),
            **more,
        }
        done = subprocess.run(
            [sys.executable, "manage.py", *arguments], cwd=SERVER, env=env, text=True, capture_output=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        return done.stdout

    def counts(self) -> dict[str, int]:
        return json.loads(self.manage("shell", "--verbosity=0", "--command", COUNTING).splitlines()[-1])

    def import_and_kill(self, point: str) -> dict[str, int]:
        """What is stored after the database was killed at a point of the import and started again."""
        self.manage("shell", "--verbosity=0", "--command", IMPORTING, POINT=point, MARIADB_PID=str(self.database.pid))
        self.database.wait()
        self.database.start()
        return self.counts()

    def test_a_killed_database_holds_all_or_nothing_of_the_import(self):
        for point in (
            "before the measures of the first run",
            "before the splits of the second run",
            "before the last trace",
        ):
            with self.subTest(point):
                self.assertEqual(set(self.import_and_kill(point).values()), {0})
        whole = self.import_and_kill("after the commit")
        self.assertEqual((whole["Log"], whole["Run"], whole["RunTrace"]), (1, 2, 2))
        self.assertGreater(whole["Measured"], 20)
