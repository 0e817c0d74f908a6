"""Archives: what one installation wrote is what another has afterwards, or nothing is stored and a sentence says why.

The form is checked by frictionless, a reader of the open Data Package standard that is no part of Coombe.
"""

from __future__ import annotations

import hashlib
import io
import json
import tempfile
import zipfile
from collections import Counter
from datetime import date
from pathlib import Path
from unittest.mock import patch

import frictionless
from django.core.management import CommandError, call_command
from django.test import TestCase
from django.urls import reverse

from accounts.models import User
from archive.cells import ArchiveError
from archive.contents import MODELS
from archive.importing import take_in
from archive.tests import elsewhere
from cars.models import Car, Setup
from comparisons.models import Comparison
from coombe_core.packages.reading import MOST_RATIO
from history.models import Action, Change
from reports.models import Report, Version
from reports.tests.test_publishing import Written
from runs import store
from runs.models import Attachment, Log, Run
from runs.services import import_log, void_run
from runs.tests.factories import CarFactory, RunFactory, SetupFactory, UserFactory
from runs.tests.test_import import log_bytes
from studies.models import OwnMeasure, OwnValue, Study


class Doctored:
    """Archives that are not as they were written."""

    def read(self) -> dict[str, bytes]:
        with zipfile.ZipFile(self.path) as archive:
            return {each: archive.read(each) for each in archive.namelist()}

    def doctored(self, path: str, change) -> Path:
        """The archive with one file otherwise, and its description as that file is now."""
        files = self.read()
        files[path] = change(files[path])
        described = json.loads(files["datapackage.json"])
        for resource in described["resources"]:
            if resource["path"] == path:
                resource["hash"] = f"sha256:{hashlib.sha256(files[path]).hexdigest()}"
        return self.zipped({**files, "datapackage.json": json.dumps(described).encode()})

    def zipped(self, files: dict[str, bytes]) -> Path:
        made = self.folder / "doctored.zip"
        with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
            for path, data in files.items():
                archive.writestr(path, data)
        return made

    def refused(self, path: Path, why: str) -> None:
        before = [model._base_manager.count() for model in MODELS]
        with self.assertRaisesRegex(ArchiveError, why):
            take_in(path)
        self.assertEqual([model._base_manager.count() for model in MODELS], before)


class ArchiveCase(Written, TestCase):
    """A compared and published pair of setups, and a change of a car that is in the history."""

    def setUp(self):
        super().setUp()
        with patch("reports.publishing.pdf_of", return_value=b"%PDF-"), patch("reports.publishing.html_of") as page:
            page.return_value = "<p>What it brought</p>"  # how it looks is tested where reports are
            self.publish()
        self.car = Setup.objects.get(runs=self.groups["before"][0]).car
        answer = self.client.patch(
            reverse("car-detail", args=[self.car.pk]), {"notes": "=1+1", "revision": self.car.revision}
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.path = elsewhere.written(self.folder)


class ElsewhereTest(ArchiveCase):
    def test_it_is_a_data_package_whose_tables_refer_to_each_other(self):
        with zipfile.ZipFile(self.path) as archive:
            archive.extractall(self.folder / "out")
        described = json.loads((self.folder / "out" / "datapackage.json").read_text())
        described["resources"] = [each for each in described["resources"] if each["path"].startswith("tables/")]
        report = frictionless.Package(described, basepath=str(self.folder / "out")).validate()
        self.assertTrue(report.valid, report.flatten(["type", "title", "note"])[:5])

    def test_an_empty_installation_has_it_all_afterwards_and_twice_changes_nothing(self):
        before = elsewhere.answers()
        with elsewhere.another_installation():
            found = take_in(self.path)
            self.assertEqual((found.stored, found.conflicts), (True, []))
            self.assertEqual(elsewhere.answers(), before)
            self.assertEqual(elsewhere.tables(elsewhere.written(self.folder, "again.zip")), elsewhere.tables(self.path))
            again = take_in(self.path)
            self.assertEqual((again.added, again.conflicts, again.stored), (Counter(), [], True))
            self.assertEqual(store.read(Version.objects.get().pdf_sha256)[:5], b"%PDF-")
            self.assertEqual(Car.objects.get(pk=self.car.pk).notes, "=1+1")

    def test_what_was_undone_and_what_is_alike_comes_and_is_known_again(self):
        measure = OwnMeasure.objects.create(name="Noise", unit="dB")
        for _ in range(2):
            OwnValue.objects.create(measure=measure, setup=self.car.setups.first(), value=67, day=date(2026, 5, 1))
        done = Action.objects.filter(title__startswith="Changed").first()
        self.assertEqual(self.client.post(reverse("action-undo", args=[done.pk])).status_code, 201)
        path = elsewhere.written(self.folder, "undone.zip")
        with elsewhere.another_installation():
            found = take_in(path)
            self.assertEqual((found.stored, found.added[OwnValue]), (True, 2))
            self.assertEqual(Action.objects.get(undoes=done.pk).undoes.title, done.title)
            again = take_in(path)
            self.assertEqual((again.added, again.conflicts), (Counter(), []))

    def test_its_people_are_names_who_cant_log_in(self):
        with zipfile.ZipFile(self.path) as archive:
            everything = b"".join(archive.read(name) for name in archive.namelist() if name.startswith("tables/"))
        for person in User.objects.all():
            self.assertNotIn(person.password.encode(), everything)
        with elsewhere.another_installation():
            found = take_in(self.path)
            self.assertIn(self.person.username, found.people)
            person = User.objects.get(username=self.person.username)
            self.assertFalse(person.is_active or person.has_usable_password() or person.is_staff)
            self.assertEqual(Report.objects.get().created_by, person)

    def test_where_other_rows_stand_they_stay_and_what_comes_gets_other_numbers(self):
        number = self.car.setups.first().pk
        with elsewhere.another_installation():
            someone = UserFactory(username="someone")
            there = RunFactory(pk=self.groups["before"][0], setup=SetupFactory(pk=number))
            stood = Run.objects.filter(pk=there.pk).values().get()
            take_in(self.path)
            self.assertEqual(Run.objects.filter(pk=there.pk).values().get(), stood)
            self.assertTrue(User.objects.filter(pk=someone.pk).exists())
            said = elsewhere.answers()
            compared = next(value for key, value in said.items() if key.startswith("comparison "))
            members = {row["id"] for row in compared["result"]["runs"]}
            self.assertNotIn(there.pk, members)
            self.assertEqual(compared["changes"], [])
            slip = next(part for part in Report.objects.get().parts if part["kind"] == "slip")
            self.assertIn(slip["id"], members)
            self.assertLessEqual({int(run) for run in Version.objects.get().content["runs"]}, members)
            change = Change.objects.get(model="cars.car", kind="changed")
            self.assertEqual(Car.objects.get(pk=change.row).notes, "=1+1")
            self.assertEqual(take_in(self.path).added, Counter())

    def test_a_look_stores_nothing(self):
        with elsewhere.another_installation():
            found = take_in(self.path, only_look=True)
            self.assertFalse(found.stored)
            self.assertGreater(found.added[Run], 3)
            self.assertFalse(Run.objects.exists() or User.objects.filter(username=self.person.username).exists())

    def test_what_differs_is_named_and_nothing_is_stored_unless_what_is_here_stays(self):
        with elsewhere.another_installation():
            take_in(self.path)
            car = Car.objects.get(notes="=1+1")
            Car.objects.filter(pk=car.pk).update(test_mass_kg=1234)
            Action.objects.filter(title__startswith="Changed").delete()
            found = take_in(self.path)
            self.assertFalse(found.stored)
            self.assertEqual(len(found.conflicts), 1)
            self.assertIn("test mass kg is 1234", str(found.conflicts[0]))
            self.assertFalse(Action.objects.filter(title__startswith="Changed").exists())
            self.assertTrue(take_in(self.path, keep_here=True).stored)
            self.assertTrue(Action.objects.filter(title__startswith="Changed").exists())
            car.refresh_from_db()
            self.assertEqual(car.test_mass_kg, 1234)

    def test_a_part_that_is_only_here_is_a_difference(self):
        with elsewhere.another_installation():
            take_in(self.path)
            Car.objects.get(notes="=1+1").charge_points.create(charge_percent=50, power_kw=90)
            found = take_in(self.path)
            self.assertEqual(
                (found.stored, [conflict.differs for conflict in found.conflicts]), (False, [["charge points differ"]])
            )

    def test_a_void_run_differs_and_what_a_core_found_anew_does_not(self):
        with elsewhere.another_installation():
            take_in(self.path)
            run = Run.objects.get(pk=self.groups["before"][0])
            run.measured.update(time_s=9.9)
            self.assertEqual(take_in(self.path).conflicts, [])
            void_run(run, "traffic", "", run.revision, User.objects.first())
            self.assertIn("validity is void here, valid there", str(take_in(self.path).conflicts[0]))

    def test_of_one_car_comes_what_is_its_own(self):
        other = RunFactory(setup=SetupFactory(car=CarFactory(name="Another")))
        its_own, of_two = (Comparison.objects.create(title=name, created_by=self.person) for name in ("own", "two"))
        for comparison, runs in ((its_own, []), (of_two, [other])):
            group = comparison.groups.create(name="before", position=0)
            group.runs.set([Run.objects.get(pk=self.groups["before"][0]), *runs])
        for name, cars in (("own", [self.car]), ("two", [self.car, other.setup.car])):
            study = Study.objects.create(
                title=name, kind="tires", measure="60-0 mph", clock="speed", created_by=self.person
            )
            for place, car in enumerate(cars):
                study.series.create(position=place, name=car.name, car=car)
        path = elsewhere.written(self.folder, "car.zip", self.car)
        runs = set(Run.objects.filter(setup__car=self.car).values_list("pk", flat=True))
        with elsewhere.another_installation():
            take_in(path)
            self.assertEqual(set(Run.objects.values_list("pk", flat=True)), runs)
            self.assertEqual(Car.objects.get().notes, "=1+1")
            self.assertEqual(Change.objects.get(model="cars.car", kind="changed").row, Car.objects.get().pk)
            self.assertEqual([each.title for each in Comparison.objects.all()], ["own"])  # "Did it?" is of two cars
            self.assertEqual([study.title for study in Study.objects.all()], ["own"])
            # The report also shows the table of all cars, which is not this one's alone.
            self.assertFalse(Report.objects.exists())


class RefusedTest(Doctored, TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        log = import_log("evening.nmea", log_bytes(), SetupFactory(), UserFactory(), {}).log
        self.assertTrue(log.runs.exists())
        self.path = elsewhere.written(self.folder)

    def test_a_file_that_is_no_archive(self):
        (self.folder / "words.zip").write_bytes(b"words")
        self.refused(self.folder / "words.zip", "no ZIP file")
        self.refused(self.zipped({"a.txt": b"a"}), "no archive")

    def test_a_newer_format_a_path_that_leads_out_a_bomb(self):
        files = self.read()
        newer = files["datapackage.json"].replace(b"coombe-archive-1", b"coombe-archive-2")
        self.refused(self.zipped({**files, "datapackage.json": newer}), "the format coombe-archive-2")
        self.refused(self.zipped({**files, "../../out": b""}), "leads out")
        self.refused(self.zipped({**files, "bomb": b"\0" * 10_000 * MOST_RATIO}), "would grow")

    def test_one_octet_changed_a_file_or_a_table_gone(self):
        files = self.read()
        log = next(each for each in files if each.startswith("files/"))
        changed = files[log][:-1] + bytes([files[log][-1] ^ 1])
        self.refused(self.zipped({**files, log: changed}), f"{log} was changed")
        left = {each: data for each, data in files.items() if each != log}
        self.refused(self.zipped(left), f"{log} is missing")
        described = json.loads(files["datapackage.json"])
        described["resources"] = [each for each in described["resources"] if each["path"] != "tables/runs.run.csv"]
        less = {**files, "datapackage.json": json.dumps(described).encode()}
        self.refused(self.zipped(less), "table runs.run is missing")

    def test_a_cell_a_row_or_a_column_that_is_wrong_names_its_line(self):
        with elsewhere.another_installation():
            for change, why in (
                (lambda data: data.replace(b"true", b"perhaps", 1), r"line \d+ of the table runs.run: 'perhaps' is no"),
                (lambda data: data.replace(b"id,", b"id,color,", 1), "a column color: a newer Coombe"),
                (lambda data: data.replace(b"log_id", b"lag_id", 1), "a column lag_id"),
                (lambda data: data + b"1,2\r\n", "not as many cells"),
                (lambda data: data + b"\xff", "can't be read"),
            ):
                self.refused(self.doctored("tables/runs.run.csv", change), why)

    def test_a_row_that_belongs_to_none_or_refers_to_none(self):
        with elsewhere.another_installation():
            more = self.doctored("tables/runs.flag.csv", lambda data: data + b"99,999,late,info,words,,\r\n")
            self.refused(more, "line .* runs.flag belongs to no row")
            none = self.doctored("tables/cars.car.csv", lambda data: data.splitlines(keepends=True)[0])
            self.refused(none, "car .* is neither in the archive nor the same here")

    def test_a_value_that_the_database_does_not_take(self):
        with elsewhere.another_installation():
            odd = self.doctored("tables/runs.run.csv", lambda data: data.replace(b",valid,", b",splendid,", 1))
            self.refused(odd, "does not fit what is here")
            self.assertFalse(Log.objects.exists())

    def test_a_file_that_is_not_what_its_name_says_leaves_neither_rows_nor_files(self):
        with zipfile.ZipFile(self.path) as archive:
            log = next(each for each in archive.namelist() if each.startswith("files/"))
        other = b"first of all"
        early = f"files/{hashlib.sha256(other).hexdigest()}"
        with elsewhere.another_installation():
            wrong = self.doctored(log, lambda data: data + b"\n")
            with self.assertRaises(store.StoreError):
                take_in(wrong)
            with self.assertRaises(store.StoreError):
                store.keep_all([(early.removeprefix("files/"), other), ("0" * 64, b"not that")])
            self.assertEqual(store.check(set()).unknown, [])
            self.assertFalse(Log.objects.exists())

    def test_a_file_that_is_gone_here_stops_the_export(self):
        Attachment.objects.create(
            run=Run.objects.first(),
            name="a.png",
            sha256="0" * 64,
            size_bytes=1,
            media_type="image/png",
            added_by=User.objects.first(),
        )
        with self.assertRaises(store.MissingBytesError):
            elsewhere.written(self.folder, "short.zip")


class CommandTest(ArchiveCase):
    def said(self, *args, **kwargs) -> str:
        out = io.StringIO()
        call_command(*args, stdout=out, **kwargs)
        return out.getvalue()

    def test_out_and_in(self):
        path = self.folder / "by command.zip"
        self.assertIn("No password, token or link", self.said("export_archive", path))
        with self.assertRaisesRegex(CommandError, "is there already"):
            self.said("export_archive", path)
        with self.assertRaisesRegex(CommandError, f"no car Zeppelin. There are: .*{self.car.name}"):
            self.said("export_archive", self.folder / "z.zip", car="Zeppelin")
        self.assertIn("Nothing was stored: this was a look", self.said("import_archive", path, look=True))
        with elsewhere.another_installation():
            said = self.said("import_archive", path)
            self.assertIn(f"Their people: {self.person.username}", said)
            self.assertTrue(said.endswith("Stored.\n"))
            Car.objects.update(test_mass_kg=1111)
            with self.assertRaisesRegex(CommandError, "--keep-here"):
                self.said("import_archive", path)
            self.assertIn("differs: car", self.said("import_archive", path, keep_here=True))
        with self.assertRaisesRegex(CommandError, "words.zip: this is no ZIP file"):
            (self.folder / "words.zip").write_bytes(b"words")
            self.said("import_archive", self.folder / "words.zip")
        with self.assertRaisesRegex(CommandError, "can't be read: No such file"):
            self.said("import_archive", self.folder / "none.zip")
