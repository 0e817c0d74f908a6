"""Upgrades of a database: copied first, refused where it is newer or half changed, restored from the copy."""

from __future__ import annotations

import contextlib
import gzip
import hashlib
import io
import json
import subprocess
import tempfile
import uuid
from pathlib import Path
from unittest import TestCase, mock

from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from coombe_launcher import upgrading
from coombe_launcher.console import LauncherError, manage
from coombe_launcher.database import PrivateDatabase
from coombe_launcher.home import Home

EARLIER = Path(__file__).parent / "earlier.sql.gz"


class UpgradingTest(TestCase):
    """On a MariaDB of its own: each test has a database in it."""

    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.server = PrivateDatabase(Path(folder.name) / "mariadb", forgetful=True)
        with contextlib.redirect_stdout(io.StringIO()):
            cls.server.start()
        cls.addClassCleanup(cls.server.stop)

    def setUp(self):
        self.home = Home(Path(self.enterContext(tempfile.TemporaryDirectory())))
        self.enterContext(contextlib.redirect_stdout(io.StringIO()))
        self.url = self.server.url
        self.server._ask("DROP DATABASE coombe; CREATE DATABASE coombe CHARACTER SET utf8mb4")
        self.env = self.home.environment(self.url)

    def load(self, copy: Path) -> None:
        with upgrading._client_options(self.url) as (options, database):
            sql = gzip.decompress(copy.read_bytes())
            subprocess.run(["mariadb", *options, database], input=sql, check=True)

    def rows(self, query: str) -> list[str]:
        return self.server._ask(f"USE coombe; {query}").splitlines()[1:]

    def test_an_earlier_database_is_upgraded_without_loss(self):
        """The database that the demo made on November 27, 2026, before this work, with the logs of two outings."""
        self.load(EARLIER)
        counted = ("runs_run", "runs_measured", "runs_log", "comparisons_comparison", "days_plannedrun", "cars_setup")
        before = {table: self.rows(f"SELECT COUNT(*) FROM {table}") for table in counted}
        times = self.rows("SELECT id, time_s, corrected_time_s FROM runs_measured ORDER BY id")
        recorders = self.rows("SELECT name, receiver, bus_channel, mast FROM recording_recorder ORDER BY id")
        upgrading.upgrade(self.home, self.env)
        self.assertEqual({table: self.rows(f"SELECT COUNT(*) FROM {table}") for table in counted}, before)
        self.assertEqual(self.rows("SELECT id, time_s, corrected_time_s FROM runs_measured ORDER BY id"), times)
        self.assertEqual(len(recorders), 2)
        for row in recorders:
            name, receiver, channel, mast = row.split("\t")
            found = self.rows(
                "SELECT d.host, d.port, c.port, c.channel, w.port FROM recording_recorder r"
                " JOIN recording_device d ON d.id = r.receiver_id JOIN recording_device c ON c.id = r.can_id"
                f" JOIN recording_device w ON w.id = r.weather_station_id WHERE r.name = '{name}'"
            )[0].split("\t")
            host, port = receiver.removeprefix("socket://").split(":")
            can_port, can = channel.removeprefix("127.0.0.1:").split("/")
            self.assertEqual(found, [host, port, can_port, can, mast.rsplit(":", 1)[1]])
        marks = self.rows("SELECT role, is_staff, is_superuser FROM accounts_user ORDER BY role")
        self.assertEqual(marks, ["administrator\t1\t1", "reader\t0\t0", "tester\t0\t0"])
        self.assertEqual(upgrading.schema_state(self.env)["pending"], [])
        copy = next(self.home.copies.glob("*before-upgrade.sql.gz"))
        upgrading.restore(self.home, self.url, copy)
        self.assertEqual(self.rows("SELECT receiver FROM recording_recorder LIMIT 1"), [recorders[0].split("\t")[1]])

    def test_what_an_earlier_version_recorded_and_had_not_stored_is_stored_after_the_upgrade(self):
        """A spool of a recorder that was stopped while its process was dead: nobody goes on with it."""
        self.load(EARLIER)
        data = write_log(simulate(SCENARIOS["five-runs"], 41).trace, "nmea")
        spool = self.home.folder / "spool" / str(uuid.uuid4())
        spool.mkdir(parents=True)
        (spool / "receiver").write_bytes(data)
        self.server._ask(
            "USE coombe; UPDATE recording_recorder SET wanted = 0; INSERT INTO recording_recording"
            f" (spool, began_at, recorder_id) SELECT '{spool.name}', '2026-05-09 09:00:00', MIN(id)"
            " FROM recording_recorder"
        )
        upgrading.upgrade(self.home, self.env)
        manage(self.env, "store_recordings", "--all", doing="storing what was recorded")
        stored = self.rows(
            "SELECT l.sha256, l.size_bytes FROM recording_recording r JOIN runs_log l ON l.id = r.log_id"
        )
        self.assertEqual(stored, [f"{hashlib.sha256(data).hexdigest()}\t{len(data)}"])
        standing = self.rows(
            "SELECT COUNT(*) FROM runs_run r JOIN recording_recording c ON c.log_id = r.log_id"
            " WHERE r.kind = 'standing'"
        )
        self.assertEqual(standing, ["5"])
        self.assertFalse(spool.exists())

    def test_a_newer_database_is_refused_with_a_sentence(self):
        manage(self.env, "migrate", "--verbosity=0", doing="making the tables")
        self.server._ask(
            "USE coombe; INSERT INTO django_migrations (app, name, applied) VALUES ('runs', '9999_later', NOW())"
        )
        with self.assertRaisesRegex(LauncherError, "made by a newer Coombe .runs 9999_later"):
            upgrading.upgrade(self.home, self.env)

    def test_an_upgrade_that_broke_off_is_refused_until_its_copy_is_restored(self):
        self.load(EARLIER)
        real = upgrading.manage

        def broken(env, command, *arguments, doing):
            if command != "apply_changes":
                return real(env, command, *arguments, doing=doing)
            Path(arguments[0]).write_text(json.dumps({"migration": "cars 0005", "copy": arguments[2]}))
            raise LauncherError("killed in the middle")

        with mock.patch.object(upgrading, "manage", broken), self.assertRaisesRegex(LauncherError, "killed"):
            upgrading.upgrade(self.home, self.env)
        self.server._ask("USE coombe; ALTER TABLE cars_car ADD COLUMN revision INT NOT NULL DEFAULT 1")  # half of it
        with self.assertRaisesRegex(LauncherError, "broke off in cars 0005(?s:.*)./coombe restore"):
            upgrading.upgrade(self.home, self.env)
        copy = next(self.home.copies.glob("*before-upgrade.sql.gz"))
        upgrading.restore(self.home, self.url, copy)
        upgrading.upgrade(self.home, self.env)
        self.assertEqual(upgrading.schema_state(self.env)["pending"], [])

    def test_the_marker_names_the_change_that_fails(self):
        self.load(EARLIER)
        self.server._ask("USE coombe; CREATE TABLE accounts_securityevent (id INT)")  # in the way of the first change
        with self.assertRaises(LauncherError):
            upgrading.upgrade(self.home, self.env)
        marker = json.loads((self.home.folder / upgrading.UNDER_WAY).read_text())
        self.assertEqual(marker["migration"], "accounts 0002_security")
        self.assertTrue(Path(marker["copy"]).exists())

    def test_a_copy_that_is_not_there_lists_those_that_are(self):
        manage(self.env, "migrate", "--verbosity=0", doing="making the tables")
        made = upgrading.copy_database(self.home, self.url, "try")
        with self.assertRaisesRegex(LauncherError, str(made)):
            upgrading.restore(self.home, self.url, Path("-"))
        self.assertEqual(made.stat().st_mode & 0o077, 0)

    def test_no_password_stands_in_a_command_line(self):
        seen: list[list[str]] = []
        real = subprocess.Popen.__init__

        def noting(popen, command, *arguments, **options):
            seen.append([str(part) for part in command])
            real(popen, command, *arguments, **options)

        manage(self.env, "migrate", "--verbosity=0", doing="making the tables")
        with mock.patch.object(subprocess.Popen, "__init__", noting):
            upgrading.copy_database(self.home, self.url, "try")
            self.server._allow()
        secret = self.server._password()
        self.assertGreaterEqual(len(seen), 2)
        self.assertFalse([command for command in seen if any(secret in part for part in command)])
