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
from cars.models import Car, Setup
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
setup = Setup.objects.get_or_create(car=car, name="Setup", since="2026-04-01")[0]
data = Path(os.environ["LOG"]).read_bytes()
point = os.environ["POINT"]
try:
    if point == "after the commit":
        import_log("day.nmea", data, setup, person, {})
        kill()
    else:
        with POINTS[point]():
            import_log("day.nmea", data, setup, person, {})
        sys.exit("the import went through although the database was killed")
except DatabaseError:
    pass
"""
EDITING = """
import os, signal
from unittest import mock
from accounts.models import User
from history.models import Change
from runs.models import Run
from runs.services import RunChange, change_runs
from runs.tests.factories import RunFactory

person = User.objects.get_or_create(username="tester")[0]
if not Run.objects.exists():
    run = RunFactory()
    for number in range(1, 500):
        run.pk, run.start_s = None, number
        run.save(force_insert=True)
real = Change.objects.bulk_create

def kill(*args, **kwargs):
    os.kill(int(os.environ["MARIADB_PID"]), signal.SIGKILL)
    return real(*args, **kwargs)

changes = [RunChange(run, {"battery_temp_before_c": 40.0}, None) for run in Run.objects.all()]
try:
    with mock.patch.object(Change.objects, "bulk_create", kill if os.environ["POINT"] else real):
        change_runs(changes, person, "Changed 500 runs")
except Exception as error:
    print(error)
"""
EDITED = """
import json
from history.models import Action, Change
from runs.models import Run
edited = Run.objects.filter(battery_temp_before_c=40)
print(json.dumps([edited.count(), Action.objects.count(), Change.objects.count()]))
"""
COUNTING = """
import json
from runs.models import Log, Measured, Run, RunTrace, Split
ways = {Log: "name", Run: "log__name", Measured: "run__log__name", Split: "run__log__name", RunTrace: "run__log__name"}
print(json.dumps({model.__name__: model.objects.filter(**{way: "day.nmea"}).count() for model, way in ways.items()}))
"""


class CrashTest(SimpleTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.home = Path(settings.VAR) / "crash"
        shutil.rmtree(cls.home, ignore_errors=True)
        cls.database = PrivateDatabase(cls.home / "mariadb")
        cls.database.start()
        cls.addClassCleanup(cls.database.stop)
        (cls.home / "day.nmea").write_bytes(log_bytes())
        cls.manage("migrate", "--no-input", "--verbosity=0")

    @classmethod
    def manage(cls, *arguments: str, **more: str) -> str:
        env = {
            **os.environ,
            "PYTHONPATH": PYTHON_PATH,
            "DATABASE_URL": cls.database.url,
            "COOMBE_VAR": str(cls.home / "var"),
            "LOG": str(cls.home / "day.nmea"),
            **more,
        }
        command = [sys.executable, "manage.py", *arguments]
        return subprocess.run(command, cwd=SERVER, env=env, text=True, stdout=subprocess.PIPE, check=True).stdout

    def script(self, script: str, **more: str) -> str:
        return self.manage("shell", "--verbosity=0", "--command", script, **more)

    def counts(self) -> dict[str, int]:
        return json.loads(self.script(COUNTING).splitlines()[-1])

    def import_and_kill(self, point: str) -> dict[str, int]:
        """What is stored after the database was killed at a point of the import and started again."""
        self.script(IMPORTING, POINT=point, MARIADB_PID=str(self.database.pid))
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

    def test_a_killed_database_holds_all_or_nothing_of_a_change_of_500_runs(self):
        self.script(EDITING, POINT="before its history", MARIADB_PID=str(self.database.pid))
        self.database.wait()
        self.database.start()
        self.assertEqual(json.loads(self.script(EDITED)), [0, 0, 0])
        self.script(EDITING, POINT="", MARIADB_PID="")
        self.assertEqual(json.loads(self.script(EDITED)), [500, 1, 500])
