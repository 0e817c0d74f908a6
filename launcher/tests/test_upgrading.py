"""Upgrades of a database: copied first, refused where it is newer or half changed, restored from the copy."""

from __future__ import annotations

import contextlib
import gzip
import hashlib
import io
import json
import os
import subprocess
import tempfile
import uuid
from pathlib import Path
from unittest import TestCase, mock

import numpy as np

from coombe_core.formats import write_log
from coombe_core.formats.parquet import read_columns, write_columns
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from coombe_launcher import upgrading, version_change
from coombe_launcher.backup_target import Locker, Target
from coombe_launcher.console import LauncherError, manage
from coombe_launcher.database import PrivateDatabase
from coombe_launcher.home import Home

EARLIER = Path(__file__).parent / "earlier.sql.gz"
OLD_CHANNELS = {"since_s": np.array([0.0, 0.1]), "pack_temp_c": np.array([40.0, 40.1])}
# Where each column that was renamed stood, and where it stands.
RENAMED = {
    "cars_car.pack_kwh": "cars_car.battery_kwh",
    "cars_car.hottest_pack_c": "cars_car.hottest_battery_c",
    "cars_setup.promised_measure": "cars_setup.claimed_measure",
    "cars_setup.promised_gain_s": "cars_setup.claimed_gain_s",
    "cars_claim.value_s": "cars_manufacturerclaim.value_s",
    "cars_packspell.kind": "cars_batteryinterval.kind",
    "cars_packreading.spell_id": "cars_batteryreading.interval_id",
    "cars_packreading.pack_temp_c": "cars_batteryreading.battery_temp_c",
    "courses_course.run_off_m": "courses_course.runout_m",
    "courses_station.way_m": "courses_station.distance_m",
    "courses_station.height_m": "courses_station.elevation_m",
    "plans_plan.smallest_difference": "plans_plan.difference_that_matters",
    "plans_plan.runs_per_arm": "plans_plan.runs_per_group",
    "plans_plan.days_per_arm": "plans_plan.days_per_group",
    "plans_plan.low_pack_temp_c": "plans_plan.low_battery_temp_c",
    "plans_plan.high_pack_temp_c": "plans_plan.high_battery_temp_c",
    "plans_plan.minutes_a_run": "plans_plan.minutes_per_run",
    "plans_plan.minutes_a_change": "plans_plan.minutes_per_change",
    "plans_arm.set_up_id": "plans_group.setup_id",
    "days_testday.pack_temp_c": "days_testday.battery_temp_c",
    "days_plannedrun.arm_id": "days_scheduledrun.group_id",
    "days_plannedrun.run_id": "days_scheduledrun.run_id",
    "days_checkitem.text": "days_checklistitem.text",
    "runs_run.set_up_id": "runs_run.setup_id",
    "runs_run.pack_temp_before_c": "runs_run.battery_temp_before_c",
    "runs_run.pack_temp_after_c": "runs_run.battery_temp_after_c",
    "runs_runtrace.LENGTH(fixes)": "runs_runtrace.LENGTH(fixes)",
    "runs_busrecord.sha256": "runs_canlog.sha256",
    "comparisons_comparison.matters": "comparisons_comparison.difference_that_matters",
    "comparisons_arm.typed": "comparisons_group.typed_values",
    "comparisons_member.arm_id": "comparisons_member.group_id",
    "recording_recorder.set_up_id": "recording_recorder.setup_id",
    "runs_log.sha256": "runs_log.sha256",
    "runs_measured.time_s": "runs_measured.time_s",
    "runs_measured.corrected_time_s": "runs_measured.corrected_time_s",
}


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

    def column(self, name: str) -> list[str]:
        """Every value of `table.column`, by number."""
        table, column = name.split(".", 1)
        return self.rows(f"SELECT id, {column} FROM {table} ORDER BY id")

    def test_an_earlier_database_is_upgraded_without_loss(self):
        """The database that the demo made on November 27, 2026, before this work, with the logs of two outings."""
        self.load(EARLIER)
        before = {new: self.column(old) for old, new in RENAMED.items()}
        self.assertTrue(all(before["runs_run.battery_temp_before_c"]))
        recorders = self.rows("SELECT name, receiver, bus_channel, mast FROM recording_recorder ORDER BY id")
        run = self.store_old_words()
        asked = self.move_up()
        self.assertEqual([each[0] for each in asked], ["retime", "check_store"])
        self.assertEqual({new: self.column(new) for new in RENAMED.values()}, before)
        self.assert_words_are_those_of_today(run)
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
        self.assert_the_newer_code_does_not_go_back()
        applied = Target(self.safe, Locker()).manifest(None)[1]["database"]["migrations"]
        with mock.patch.object(version_change, "_own_changes", lambda: set(applied)):  # as the older code has them
            version_change.move_back(self.home, Locker())
        self.assertEqual(self.rows("SELECT receiver FROM recording_recorder LIMIT 1"), [recorders[0].split("\t")[1]])
        with self.assertRaisesRegex(LauncherError, "was not upgraded"):
            version_change.move_back(self.home, Locker())

    def move_up(self) -> list[tuple[str, ...]]:
        """Upgrade as the command does; what it asks of the server afterwards, which needs the logs of that time."""
        self.safe = Path(self.enterContext(tempfile.TemporaryDirectory())) / "safe"
        self.enterContext(mock.patch.dict(os.environ, {"DATABASE_URL": self.url}))
        asked: list[tuple[str, ...]] = []
        with mock.patch.object(version_change, "manage", lambda env, *command, doing: asked.append(command) or "ok"):
            version_change.move_up(self.home, self.env, Target(self.safe, Locker()))
        return asked

    def assert_the_newer_code_does_not_go_back(self) -> None:
        with self.assertRaisesRegex(LauncherError, "this is still the newer Coombe"):
            version_change.move_back(self.home, Locker())
        self.assertEqual(upgrading.schema_state(self.env)["pending"], [])

    def store_old_words(self) -> str:
        """Rows whose values are words that were renamed; the run that they belong to."""
        run = self.rows("SELECT MIN(id) FROM runs_run")[0]
        person = self.rows("SELECT MIN(id) FROM accounts_user")[0]
        recorder = self.rows("SELECT MIN(id) FROM recording_recorder")[0]
        self.server._ask(
            "USE coombe; INSERT INTO runs_flag (run_id, code, severity, message, excludes) VALUES"
            f" ({run}, 'pack_temperature_outside_window', 'note', 'Too cold.', '');"
            " INSERT INTO runs_edit (run_id, field, old_value, new_value, edited_by_id, edited_at) VALUES"
            f" ({run}, 'pack_temp_before_c', '40', '41', {person}, NOW());"
            " INSERT INTO recording_press (id, recorder_id, action, run_id, `before`, pressed_by_id, pressed_at,"
            f" received_at, undone) VALUES (REPLACE(UUID(), '-', ''), {recorder}, 'conditions', {run},"
            f""" '{{"pack_temp_before_c": 40}}', {person}, NOW(), NOW(), 0);"""
            " UPDATE plans_plan SET `order` = 'randomised' ORDER BY id LIMIT 1;"
            """ UPDATE comparisons_comparison SET adjust = '["charge", "pack temperature"]' ORDER BY id LIMIT 1;"""
            f" UPDATE runs_runtrace SET bus = X'{write_columns(OLD_CHANNELS).hex()}' WHERE run_id = {run}"
        )
        return run

    def assert_words_are_those_of_today(self, run: str) -> None:
        for query, found in {
            f"SELECT code FROM runs_flag WHERE run_id = {run} AND message = 'Too cold.'": (
                "battery_temperature_outside_window"
            ),
            "SELECT JSON_KEYS(`values`) FROM history_change WHERE model = 'runs.run'": '["battery_temp_before_c"]',
            "SELECT `before` FROM recording_press": '{"battery_temp_before_c": 40}',
            "SELECT `order` FROM plans_plan ORDER BY id LIMIT 1": "randomized",
            "SELECT adjust FROM comparisons_comparison ORDER BY id LIMIT 1": '["charge", "battery temperature"]',
            "SELECT COUNT(*) FROM plans_plan WHERE kind = 'arms'": "0",
            "SELECT COUNT(*) FROM comparisons_comparison WHERE kept LIKE '%no clear difference%'": "1",
            "SELECT COUNT(*) FROM comparisons_comparison WHERE kept LIKE '%\"no difference shown\"%'": "0",
        }.items():
            self.assertEqual(self.rows(query), [found], query)
        blob = bytes.fromhex(self.rows(f"SELECT HEX(can_data) FROM runs_runtrace WHERE run_id = {run}")[0])
        self.assertEqual(sorted(read_columns(blob)), ["battery_temp_c", "since_s"])

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
        self.load(EARLIER)
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
            given = dict(zip(arguments[::2], arguments[1::2], strict=True))
            Path(given["--marker"]).write_text(json.dumps({"migration": "cars 0005", "copy": given["--copy"]}))
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
        self.load(EARLIER)
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

        self.load(EARLIER)
        with mock.patch.object(subprocess.Popen, "__init__", noting):
            upgrading.copy_database(self.home, self.url, "try")
            self.server._allow()
        secret = self.server._password()
        self.assertGreaterEqual(len(seen), 2)
        self.assertFalse([command for command in seen if any(secret in part for part in command)])
