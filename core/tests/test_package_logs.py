"""What verifying makes of logs: courses, receivers, named measures, and logs that are not what they were."""

from __future__ import annotations

import hashlib
import io
import zipfile
from dataclasses import replace
from unittest import TestCase

from drives import nmea, one_run
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.analysis import Request, analyse_log
from coombe_core.formats import write_log
from coombe_core.packages.package import About, Package, PackageError
from coombe_core.packages.reading import read_package
from coombe_core.packages.tables import TABLES
from coombe_core.packages.verifying import Checked, verify
from coombe_core.packages.writing import write_package
from coombe_core.physics.course import Profile, SurveyedCourse
from coombe_core.simulating.car import SimulatedCar
from coombe_core.timing.measures import parse_measure
from coombe_core.timing.results import QUANTITIES
from coombe_core.uncertainty import Value

STATIONS = [(0.0, 10.0), (200.0, 11.0), (500.0, 11.5)]
COURSE = {"course": 3, "name": "Strip", "direction": "out", "heading_deg": None, "slope_percent": 0.3}


def packed(package: Package) -> bytes:
    out = io.BytesIO()
    write_package(out, package, "Read me.")
    return out.getvalue()


def checked(package: Package) -> list[Checked]:
    return list(verify(read_package(io.BytesIO(packed(package)))))


def of_log(data: bytes, request: Request | None = None, suffix: str = ".nmea", **of_run) -> Package:
    """A package of one log, as it is timed when it is stored; `of_run` is what else its runs say."""
    found = analyse_log(data, request or Request())
    tables: dict[str, list] = {name: [] for name in TABLES}
    path = f"logs/{found.sha256}{suffix}"
    tables["logs"] = [{"sha256": found.sha256, "name": f"drive{suffix}", "format": "nmea", "file": path}]
    for number, run in enumerate(found.runs, 1):
        known = {"run": number, "log": found.sha256, "kind": run.kind, "start_s": run.start_s, "validity": "valid"}
        tables["runs"].append(known | of_run)
        for each in run.measures:
            for quantity in QUANTITIES:
                if value := getattr(each, quantity):
                    row = {"run": number, "name": each.name, "clock": each.clock, "quantity": quantity}
                    tables["measures"].append(row | {"value": value.value, "u95": value.u95})
    return Package(About("A drive", "1.6", "2026-12-01T10:00:00Z"), tables, {path: data})


def with_tables(package: Package, **tables) -> Package:
    return replace(package, tables={**package.tables, **tables})


class LogTest(TestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.drive = write_log(one_run(5, SimulatedCar()).trace, "nmea")
        cls.package = of_log(cls.drive)

    def only(self, package: Package) -> Checked:
        """The one thing that does not agree."""
        wrong = [each for each in checked(package) if each.outcome != "agrees"]
        self.assertEqual(len(wrong), 1, wrong)
        return wrong[0]

    def test_a_pull_and_its_stop_come_out(self):
        found = checked(self.package)
        self.assertEqual([each.outcome for each in found], ["agrees"] * 3)
        self.assertRegex(found[1].what, r"drive\.nmea, standing at \d+\.\d s")
        self.assertRegex(found[1].detail, r"^\d\d numbers$")

    def test_a_surveyed_course_with_its_stations_is_taken_as_it_was(self):
        survey = SurveyedCourse(Value(0.3, 0.05), None, Profile.of(STATIONS))
        package = of_log(self.drive, Request(surveyed=survey), course=3)
        stations = [{"course": 3, "distance_m": at, "elevation_m": height} for at, height in STATIONS]
        package = with_tables(package, courses=[COURSE | {"slope_u95_percent": 0.05}], stations=stations)
        self.assertEqual({each.outcome for each in checked(package)}, {"agrees"})

    def test_a_receiver_s_filter_is_taken_out_again(self):
        request = Request(smoothing_s=Value(0.2, 0.02))
        package = of_log(self.drive, request, smoothing_s=0.2, smoothing_u95_s=0.02)
        self.assertEqual({each.outcome for each in checked(package)}, {"agrees"})
        runs = [{**row, "smoothing_s": None, "smoothing_u95_s": None} for row in package.tables["runs"]]
        wrong = [each for each in checked(with_tables(package, runs=runs)) if each.outcome == "differs"]
        self.assertTrue(wrong and "standing" in wrong[0].what)

    def test_a_measure_that_a_person_named_is_timed_too(self):
        package = of_log(self.drive, Request([parse_measure("37-55 mph")]))
        self.assertTrue(any(row["name"] == "37-55 mph" for row in package.tables["measures"]))
        self.assertEqual({each.outcome for each in checked(package)}, {"agrees"})

    def test_a_log_that_is_not_in_it_is_not_checked(self):
        logs = [{**row, "file": ""} for row in self.package.tables["logs"]]
        found = self.only(replace(with_tables(self.package, logs=logs), files={}))
        self.assertEqual((found.outcome, found.detail), ("not checked", "the log is not in the package"))

    def test_another_log_in_its_place_is_told_though_its_hash_was_mended(self):
        path = next(iter(self.package.files))
        other = replace(self.package, files={path: nmea("five-runs")})
        details = [each.detail for each in checked(other) if each.outcome == "differs"]
        self.assertIn("these are not the bytes that its runs were timed from", details)
        self.assertIn("this log holds no such run", details)

    def test_a_log_that_is_none_is_told(self):
        path, data = next(iter(self.package.files)), b"nothing of this is a log\n" * 40
        logs = [{**row, "sha256": hashlib.sha256(data).hexdigest()} for row in self.package.tables["logs"]]
        runs = [{**row, "log": logs[0]["sha256"]} for row in self.package.tables["runs"]]
        found = self.only(replace(with_tables(self.package, logs=logs, runs=runs), files={path: data}))
        self.assertTrue(found.detail.startswith("it can't be read: "), found)

    def test_a_run_that_was_made_up_is_told(self):
        runs = [*self.package.tables["runs"], {**self.package.tables["runs"][0], "run": 9, "start_s": 900.0}]
        self.assertEqual(self.only(with_tables(self.package, runs=runs)).detail, "this log holds no such run")

    def test_a_u95_that_was_made_smaller_is_told(self):
        rows = [dict(row) for row in self.package.tables["measures"]]
        row = next(row for row in rows if row["name"] == "0-60 mph" and row["clock"] == "first_movement")
        row["u95"] /= 2
        found = self.only(with_tables(self.package, measures=rows))
        self.assertIn("1 of ", found.detail)
        self.assertIn("0-60 mph (first_movement), time_s", found.detail)

    def test_inputs_that_are_none_are_told(self):
        for inputs in ({}, {"groups": [1]}, {"groups": [{"name": "a"}, {"name": "b"}], "measure": "0-60 mph"}):
            found = checked(replace(self.package, inputs=[inputs]))[-1]
            self.assertEqual(found.outcome, "differs")
            self.assertIn("its inputs are none that can be compared", found.detail)

    def test_a_file_that_is_missing_is_named(self):
        out = io.BytesIO()
        path = next(iter(self.package.files))
        with zipfile.ZipFile(io.BytesIO(packed(self.package))) as old, zipfile.ZipFile(out, "w") as new:
            for name in old.namelist():
                if name != path:
                    new.writestr(name, old.read(name))
        found = list(verify(read_package(io.BytesIO(out.getvalue()))))
        self.assertEqual((found[0].what, found[0].detail), (path, "is missing"))
        self.assertEqual(found[1].outcome, "not checked")


class AnyPackageTest(TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.text(max_size=30))
    def test_any_text_survives(self, text):
        package = Package(About("?", "1", ""), {"logs": [{"sha256": "a", "name": text}]})
        read = read_package(io.BytesIO(packed(package))).package
        self.assertEqual(read.tables["logs"][0]["name"], text)

    @settings(max_examples=30, deadline=None)
    @given(st.floats(allow_nan=False, allow_infinity=False))
    def test_any_number_survives(self, number):
        package = Package(About("?", "1", ""), {"measures": [{"run": 1, "value": number}]})
        read = read_package(io.BytesIO(packed(package))).package
        self.assertEqual(read.tables["measures"][0]["value"], number)

    @settings(max_examples=40, deadline=None)
    @given(st.data())
    def test_any_damage_is_refused_or_told(self, data):
        whole = packed(Package(About("?", "1", ""), {"logs": [{"sha256": "a", "name": "b", "file": ""}]}))
        at = data.draw(st.integers(0, len(whole) - 1))
        damaged = bytearray(whole)
        damaged[at] ^= data.draw(st.integers(1, 255))
        for version in (bytes(damaged), whole[:at]):
            try:
                opened = read_package(io.BytesIO(version))
            except PackageError:
                continue
            list(verify(opened))
