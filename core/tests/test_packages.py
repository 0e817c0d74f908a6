"""Data packages: written, checked by the standard's own tool, worked out again, and doctored."""

from __future__ import annotations

import io
import json
import tempfile
import zipfile
from pathlib import Path
from unittest import TestCase

import numpy as np
from drives import analyzed, nmea

from coombe_core import __version__
from coombe_core.cli.command import main
from coombe_core.comparing.comparison import Asked, Known
from coombe_core.comparing.factors import CHARGE
from coombe_core.comparing.groups import group_of_runs
from coombe_core.comparing.sensitivity import Sensitivities, assumed
from coombe_core.comparing.statistics.scatter import Scatter
from coombe_core.comparing.verdict import compare
from coombe_core.packages.inputs import compared_again, inputs_of
from coombe_core.packages.package import About, Package, PackageError
from coombe_core.packages.reading import read_package
from coombe_core.packages.tables import TABLES
from coombe_core.packages.verifying import verify
from coombe_core.packages.writing import write_package
from coombe_core.timing.measures import parse_measure
from coombe_core.timing.results import QUANTITIES
from coombe_core.wording.package import readme

SIXTY = parse_measure("0-60 mph")


def season() -> Package:
    """Two logs of five runs, with everything that was measured of them and their comparison."""
    tables: dict[str, list] = {name: [] for name in TABLES}
    files, groups = {}, []
    for name in ("five-runs", "after-update"):
        found = analyzed(name)
        path = f"logs/{found.sha256}.nmea"
        files[path] = nmea(name)
        tables["logs"].append({"sha256": found.sha256, "name": f"=HYPERLINK({name})", "format": "nmea", "file": path})
        for run in found.runs:
            number = len(tables["runs"]) + 1
            row = {"run": number, "log": found.sha256, "kind": run.kind, "start_s": run.start_s, "validity": "valid"}
            tables["runs"].append(row)
            tables["measures"] += [
                {"run": number, "name": each.name, "clock": each.clock, "quantity": quantity}
                | {"value": value.value, "u95": value.u95}
                for each in run.measures
                for quantity in QUANTITIES
                if (value := getattr(each, quantity))
            ]
        groups.append(group_of_runs(found.runs, SIXTY, "rollout", "time_s"))
    made = compare(SIXTY, "rollout", groups[0], groups[1], "time", Known(), Asked())
    about = About("Did it get faster?", __version__, "2026-12-01T10:00:00Z", "tester", "CC-BY-4.0")
    return Package(about, tables, files, [inputs_of(made)])


class PackageTest(TestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.package = season()
        cls.data = cls.written(cls.package)

    @staticmethod
    def written(package) -> bytes:
        out = io.BytesIO()
        write_package(out, package, readme(package))
        return out.getvalue()

    def changed(self, change) -> bytes:
        """The package with `change` made of the path and bytes of each file; None leaves one out."""
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(self.data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
            for path in old.namelist():
                data = change(path, old.read(path))
                if data is not None:
                    new.writestr(path, data)
        return out.getvalue()

    def outcomes(self, data: bytes) -> list[tuple[str, str]]:
        return [(each.outcome, f"{each.what}: {each.detail}") for each in verify(read_package(io.BytesIO(data)))]

    def refused(self, data: bytes) -> str:
        with self.assertRaises(PackageError) as caught:
            read_package(io.BytesIO(data))
        return str(caught.exception)

    def test_the_same_content_gives_the_same_bytes(self):
        self.assertEqual(self.written(self.package), self.data)

    def test_the_standard_s_own_tool_finds_nothing_wrong(self):
        # frictionless, the reference implementation of Data Package and Table Schema.
        from frictionless import Package as StandardPackage

        with tempfile.TemporaryDirectory() as folder:
            zipfile.ZipFile(io.BytesIO(self.data)).extractall(folder)
            report = StandardPackage(str(Path(folder) / "datapackage.json")).validate()
        self.assertTrue(report.valid, report.flatten(["rowNumber", "fieldName", "message"])[:5])

    def test_all_of_it_comes_out_again(self):
        found = self.outcomes(self.data)
        self.assertEqual({outcome for outcome, _ in found}, {"agrees"}, found)
        self.assertEqual(len(found), 1 + len(self.package.tables["runs"]) + 1)

    def test_text_that_a_spreadsheet_would_calculate_is_defused_and_read_as_it_was(self):
        with zipfile.ZipFile(io.BytesIO(self.data)) as archive:
            self.assertIn(b"'=HYPERLINK", archive.read("tables/logs.csv"))
        read = read_package(io.BytesIO(self.data)).package
        self.assertEqual(read.tables["logs"][0]["name"], "=HYPERLINK(five-runs)")

    def test_one_octet_of_a_log_is_noticed(self):
        path = next(iter(self.package.files))

        def flip(name, data):
            return bytes([data[0] ^ 1]) + data[1:] if name == path else data

        wrong = [what for outcome, what in self.outcomes(self.changed(flip)) if outcome == "differs"]
        self.assertTrue(wrong[0].startswith(f"{path}: was changed"), wrong)

    def test_a_time_that_was_doctored_does_not_come_out(self):
        measures = [dict(row) for row in self.package.tables["measures"]]
        row = next(row for row in measures if row["name"] == "0-60 mph" and row["clock"] == "rollout")
        row["value"] -= 0.1
        doctored = Package(self.package.about, {**self.package.tables, "measures": measures}, self.package.files)
        wrong = [what for outcome, what in self.outcomes(self.written(doctored)) if outcome == "differs"]
        self.assertEqual(len(wrong), 1)
        self.assertIn(f"0-60 mph (rollout), time_s: published {row['value']:.4f}", wrong[0])

    def test_a_verdict_that_was_doctored_does_not_come_out(self):
        inputs = json.loads(json.dumps(self.package.inputs[0]))
        inputs["found"] |= {"value": 0.0, "verdict": "no clear difference"}
        doctored = Package(self.package.about, self.package.tables, self.package.files, [inputs])
        outcome, what = self.outcomes(self.written(doctored))[-1]
        self.assertEqual(outcome, "differs")
        self.assertIn("published no clear difference, +0.0000; came out leans faster, -0.1", what)

    def test_what_is_known_beside_the_runs_survives(self):
        inputs = self.package.inputs[0]
        made = compared_again(json.loads(json.dumps(inputs)))
        row = assumed(CHARGE, 4.0, SIXTY, "time")
        known = Known(Scatter(0.02, 0.03), Sensitivities((row,), np.array([[row.error**2]])))
        again = compare(SIXTY, "rollout", *made.groups, "time", known, Asked(difference_that_matters=0.05))
        twice = compared_again(json.loads(json.dumps(inputs_of(again))))
        self.assertEqual(twice.difference, again.difference)
        self.assertEqual(twice.known.scatter, known.scatter)

    def test_what_would_do_harm_is_refused(self):
        def added(name, data):
            out = io.BytesIO(self.data)
            with zipfile.ZipFile(out, "a", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr(name, data)
            return out.getvalue()

        self.assertIn("leads out", self.refused(added("../../etc/passwd", b"x")))
        self.assertIn("leads out", self.refused(added("/etc/passwd", b"x")))
        self.assertIn("would grow", self.refused(added("logs/bomb", b"\0" * 3_000_000)))

    def test_what_is_no_package_is_told(self):
        newer = self.changed(lambda path, data: data.replace(b"coombe.package/1", b"coombe.package/9"))
        self.assertIn("coombe.package/9", self.refused(newer))
        bare = self.changed(lambda path, data: None if path == "datapackage.json" else data)
        self.assertIn("no datapackage.json", self.refused(bare))
        lacking = self.changed(lambda path, data: None if path == "tables/runs.csv" else data)
        self.assertIn("the table runs is missing", self.refused(lacking))
        self.assertIn("no ZIP file", self.refused(self.data[: len(self.data) // 2]))
        self.assertIn("no ZIP file", self.refused(b"hello"))

    def test_a_cell_that_is_no_number_names_its_line(self):
        wrong = self.changed(lambda path, data: data.replace(b"\n1,", b"\none,") if path == "tables/runs.csv" else data)
        self.assertIn("line 2 of the table runs: 'one' is no run", self.refused(wrong))


class CommandTest(TestCase):
    def run_command(self, data: bytes, *options: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "season.zip"
            path.write_bytes(data)
            code = main(["verify", str(path), *options], out, err)
        return code, out.getvalue(), err.getvalue()

    def test_it_says_line_by_line_and_sums_up(self):
        package = season()
        code, out, _ = self.run_command(PackageTest.written(package))
        lines = out.splitlines()
        self.assertEqual((code, lines[-1]), (0, f"All {len(lines) - 1} agree."))
        older = Package(About("?", "0.0", ""), package.tables, {}, package.inputs)
        code, out, _ = self.run_command(PackageTest.written(older), "--json")
        self.assertEqual([json.loads(line)["outcome"] for line in out.splitlines()].count("not checked"), 2)

    def test_what_is_none_is_a_sentence(self):
        code, out, err = self.run_command(b"hello")
        self.assertEqual((code, out), (2, ""))
        self.assertIn("season.zip: this is no ZIP file", err)
