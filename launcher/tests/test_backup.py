"""Backups: taken while a home is used, kept by rule, checked by hash, put back; nothing half done."""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import os
import shutil
import tempfile
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import TestCase, mock

from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from coombe_launcher import backup, backup_state, backup_target, upgrading
from coombe_launcher.backup import back_up, bring_back, check
from coombe_launcher.backup_target import NAME, Locker, Target, kept
from coombe_launcher.console import LauncherError, manage
from coombe_launcher.database import database_url
from coombe_launcher.home import Home

STATE = {"applied": ["runs 0001_initial"], "pending": [], "unknown": [], "empty": False}
LOG = b"$GNRMC,a log\r\n" * 1000
HASH = hashlib.sha256(LOG).hexdigest()


class RuleTest(TestCase):
    def test_days_weeks_and_months_are_kept_of_two_years_of_nights(self):
        nights = [datetime(2025, 1, 1, 2, tzinfo=UTC) + timedelta(days=n) for n in range(700)]
        keep = sorted(kept([f"{night:{NAME}}" for night in nights]))
        # Worked out by hand with a calendar: the last night is Tuesday, December 1, 2026. Of each month its last night;
        # of each week its Sunday; of the days the last seven. November 29 and 30 are days, a week and a month at once.
        months = ["2026-01-31", "2026-02-28", "2026-03-31", "2026-04-30", "2026-05-31", "2026-06-30", "2026-07-31"]
        months += ["2026-08-31", "2026-09-30", "2026-10-31"]
        weeks = ["2026-11-08", "2026-11-15", "2026-11-22"]
        days = [f"2026-11-{day}" for day in range(25, 31)] + ["2026-12-01"]
        self.assertEqual([f"{name[:4]}-{name[4:6]}-{name[6:8]}" for name in keep], months + weeks + days)

    def test_the_only_one_is_kept(self):
        self.assertEqual(kept(["20200101T000000Z"]), {"20200101T000000Z"})


class FilesTest(TestCase):
    """With a database that stands in a text: what becomes of files."""

    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.home = Home(self.folder / "home")
        self.target = Target(self.folder / "safe", Locker())
        self.database, self.out = b"rows", io.StringIO()
        self.enterContext(contextlib.redirect_stdout(self.out))
        self.enterContext(mock.patch.object(backup, "dump", lambda url, path: path.write_bytes(self.database)))
        self.enterContext(mock.patch.object(backup, "schema_state", lambda env: STATE))
        self.enterContext(mock.patch.object(backup, "_load_into_new", self.load))
        self.write(f"store/logs/{HASH[:2]}/{HASH}", LOG)
        self.write("spool/under-way", b"first lines")
        self.write("secret-key", b"key")
        self.write("mariadb/data", b"tables")

    def load(self, folder: Path, copy: Path) -> None:
        folder.mkdir()
        (folder / "data").write_bytes(copy.read_bytes())

    def write(self, name: str, data: bytes) -> Path:
        path = self.home.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
        return path

    def back_up(self, target: Target | None = None, at: str = "20261201T020000Z") -> str:
        with mock.patch.object(backup, "datetime", mock.Mock(wraps=datetime)) as clock:
            clock.now.return_value = datetime.strptime(at, NAME).replace(tzinfo=UTC)
            return back_up(self.home, {"DATABASE_URL": "mysql://x"}, target or self.target)

    def pool(self) -> set[str]:
        return {path.name for path in (self.folder / "safe" / "pool").glob("??/*")}

    def contents(self) -> dict[str, bytes]:
        return {
            str(path.relative_to(self.home.folder)): path.read_bytes()
            for path in self.home.folder.rglob("*")
            if path.is_file() and path.name != backup_state.STATE and "before-restore" not in str(path)
        }

    def test_everything_comes_back_into_an_empty_home(self):
        before = self.contents()
        self.back_up()
        shutil.rmtree(self.home.folder)
        self.home.make()
        bring_back(self.home, self.target, None, replace=False, external=None)
        self.assertEqual(self.contents(), before | {"mariadb/data": b"rows"})

    def test_a_second_backup_copies_what_is_new_and_reads_no_log_again(self):
        self.back_up()
        first = self.pool()
        os.truncate(self.home.folder / f"store/logs/{HASH[:2]}/{HASH}", 3)  # would be seen if it were read
        self.write("spool/under-way", b"first lines, and more")
        self.back_up(at="20261202T020000Z")
        self.assertEqual(len(self.pool()), len(first) + 1)
        self.assertEqual(self.target.names, ["20261201T020000Z", "20261202T020000Z"])

    def test_what_a_recording_had_before_the_database_was_copied_is_kept_though_it_went_meanwhile(self):
        def dump(url: str, path: Path) -> None:
            path.write_bytes(b"rows")
            (self.home.folder / "spool/under-way").unlink()  # it ended, and was stored

        with mock.patch.object(backup, "dump", dump):
            self.back_up()
        names = [row["name"] for row in self.target.manifest(None)[1]["files"]]
        self.assertIn("spool/under-way", names)

    def test_files_that_no_kept_backup_names_leave_the_pool(self):
        self.back_up(at="20200101T020000Z")
        self.write("spool/under-way", b"another recording")
        with mock.patch.object(backup_target, "KEPT", {"%Y-%m-%d": 1}):
            self.back_up()
        self.assertEqual(self.target.names, ["20261201T020000Z"])
        self.assertNotIn(hashlib.sha256(b"first lines").hexdigest(), self.pool())
        check(self.target, None)

    def test_a_home_that_is_not_empty_is_left_alone_unless_told_and_then_put_aside(self):
        self.back_up()
        self.write("spool/later", b"new")
        before = self.contents()
        with self.assertRaisesRegex(LauncherError, "is not empty: it has store, spool, mariadb"):
            bring_back(self.home, self.target, None, replace=False, external=None)
        self.assertEqual(self.contents(), before)
        bring_back(self.home, self.target, None, replace=True, external=None)
        self.assertNotIn("spool/later", self.contents())
        (aside,) = self.home.folder.glob("before-restore-*")
        self.assertEqual((aside / "spool/later").read_bytes(), b"new")

    def test_a_backup_with_a_damaged_file_or_cut_short_is_named_and_changes_nothing(self):
        name = self.back_up()
        folder = self.folder / "safe"
        before = self.contents()
        stored = folder / "pool" / HASH[:2] / HASH
        whole = {path: path.read_bytes() for path in (stored, folder / "backups" / name / "database.sql.gz")}
        for path, data in whole.items():
            for wrong in (data[:-1], None):
                path.write_bytes(wrong) if wrong is not None else path.unlink()
                said = "damaged" if wrong is not None else "gone"
                with self.assertRaisesRegex(LauncherError, f"(?s)not whole.*{said}.*{path.name}"):
                    check(self.target, None)
                with self.assertRaisesRegex(LauncherError, said):
                    bring_back(self.home, self.target, None, replace=True, external=None)
                self.assertEqual(self.contents(), before)
                path.write_bytes(data)
        (folder / "backups" / name / "manifest.json").write_text('{"format": "coombe-ba')
        with self.assertRaisesRegex(LauncherError, "cut short"):
            check(self.target, None)

    def test_a_database_of_others_is_replaced_only_where_told_and_comes_back_where_that_fails(self):
        self.back_up()
        shutil.rmtree(self.home.folder)
        self.home.make()
        url, loaded = "mysql://elsewhere", []
        with (
            mock.patch.object(backup, "copy_database", lambda home, url, why: Path(f"/copies/{why}.sql.gz")),
            mock.patch.object(backup, "load", lambda url, copy: loaded.append(copy.read_bytes())),
        ):
            with self.assertRaisesRegex(LauncherError, "is not empty: it has tables in DATABASE_URL"):
                bring_back(self.home, self.target, None, replace=False, external=url)
            self.assertEqual((loaded, self.contents()), ([], {}))
            bring_back(self.home, self.target, None, replace=True, external=url)
            self.assertEqual((loaded, self.contents()["spool/under-way"]), ([b"rows"], b"first lines"))
            before = self.contents()
            with (
                mock.patch.object(backup, "load", side_effect=LauncherError("restoring failed: gone away")),
                self.assertRaisesRegex(LauncherError, "gone away\n.*restore /copies/before-restore.sql.gz"),
            ):
                bring_back(self.home, self.target, None, replace=True, external=url)
            self.assertEqual(self.contents(), before)

    def test_one_of_a_newer_coombe_is_refused(self):
        newer = STATE | {"applied": ["runs 0001_initial", "runs 9999_wings"]}
        with mock.patch.object(backup, "schema_state", lambda env: newer):
            self.back_up()
        with self.assertRaisesRegex(LauncherError, r"newer Coombe \(runs 9999_wings"):
            bring_back(self.home, self.target, None, replace=True, external=None)

    def test_a_locked_backup_opens_with_its_passphrase_alone(self):
        (self.folder / "right").write_text("five tall poplars\n")
        (self.folder / "wrong").write_text("six tall poplars\n")
        before = self.contents()
        self.back_up(Target(self.folder / "safe", Locker(self.folder / "right")))
        stored = b"".join(path.read_bytes() for path in (self.folder / "safe").rglob("*") if path.is_file())
        self.assertNotIn(b"$GNRMC", stored)
        self.assertNotIn(b"rows", stored)
        for locker in (Locker(), Locker(self.folder / "wrong")):
            with self.assertRaises(LauncherError):
                bring_back(self.home, Target(self.folder / "safe", locker), None, replace=True, external=None)
        right = Target(self.folder / "safe", Locker(self.folder / "right"))
        check(right, None)
        bring_back(self.home, right, None, replace=True, external=None)
        self.assertEqual(self.contents(), before | {"mariadb/data": b"rows"})

    def test_a_failed_backup_leaves_nothing_and_is_known_until_one_succeeds(self):
        def full(url: str, path: Path) -> None:
            path.write_bytes(b"half")
            raise OSError(28, "No space left on device")

        self.back_up()
        self.assertEqual(backup_state.trouble(self.home.folder), "")
        with mock.patch.object(backup, "dump", full), self.assertRaisesRegex(LauncherError, "No space left"):
            self.back_up(at="20261202T020000Z")
        self.assertEqual([path.name for path in (self.folder / "safe/backups").iterdir()], ["20261201T020000Z"])
        self.assertRegex(backup_state.trouble(self.home.folder), "latest backup .* failed: .*No space left")
        self.back_up(at="20261203T020000Z")
        self.assertEqual(backup_state.trouble(self.home.folder), "")

    def test_an_old_backup_is_named(self):
        self.back_up()
        path = self.home.folder / backup_state.STATE
        long_ago = (datetime.now(UTC) - timedelta(days=3)).isoformat()
        path.write_text(json.dumps(json.loads(path.read_text()) | {"good_at": long_ago}))
        self.assertIn("Does its timer run?", backup_state.trouble(self.home.folder))


class EverythingTest(TestCase):
    """With a real database: backed up, destroyed, brought back; the archive of it has the same contents."""

    def archive(self, env: dict[str, str], name: str) -> dict[str, str]:
        path = self.folder / name
        manage(env, "export_archive", str(path), doing="exporting")
        with zipfile.ZipFile(path) as archive:
            return {
                each: hashlib.sha256(archive.read(each)).hexdigest()
                for each in archive.namelist()
                if each != "datapackage.json"  # has the time of day
            }

    def test_what_is_destroyed_comes_back(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(contextlib.redirect_stdout(io.StringIO()))
        self.enterContext(mock.patch.dict(os.environ))
        os.environ.pop("DATABASE_URL", None)
        home, target = Home(self.folder / "home"), Target(self.folder / "safe", Locker())
        home.make()
        log = self.folder / "made.nmea"
        log.write_bytes(write_log(simulate(SCENARIOS["clean-run"], 7).trace, "nmea"))
        with database_url(home.database) as url:
            env = home.environment(url) | {"COOMBE_TASKS": "immediate"}
            upgrading.upgrade(home, env)
            manage(env, "shell", "-c", FILL.format(path=str(log)), doing="filling")
            before = self.archive(env, "before.zip")
            back_up(home, env, target)
        self.assertTrue(any(name.startswith("files/") for name in before))
        shutil.rmtree(home.folder)
        home.make()
        bring_back(home, target, None, replace=False, external=None)
        with database_url(home.database) as url:
            self.assertEqual(self.archive(home.environment(url), "after.zip"), before)


FILL = """
from pathlib import Path
from accounts.models import User
from runs.importing import begin
from runs.tests.factories import SetupFactory
person = User.objects.create_user("tester")
path = Path("{path}")
made = begin(path.name, path.read_bytes(), SetupFactory(), person, {{}}, None)
made.refresh_from_db()
assert made.log_id and made.log.runs.exists(), made.refusal
"""
