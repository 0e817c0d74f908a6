"""Run tables: logs with their conditions, which replace what the log alone tells."""

import io
import json
import tempfile
from pathlib import Path
from unittest import TestCase

from drives import nmea

from coombe_core.cli.command import main
from coombe_core.cli.run_table import RunTableError, before_and_after, read_run_table
from coombe_core.comparing.state import State
from coombe_core.physics.air import air_density_kg_m3


class InFolder(TestCase):
    """A folder of its own, and tables in it."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def table(self, *lines: str) -> Path:
        path = self.folder / "runs.csv"
        path.write_text("\n".join(lines) + "\n")
        return path


class TableTest(InFolder):
    def test_only_the_log_is_needed_and_paths_are_relative_to_the_table(self):
        (row,) = read_run_table(self.table("log", "a/first.nmea"))
        self.assertEqual((row.log, row.numbers, row.words), (self.folder / "a/first.nmea", {}, {}))
        of_log = State(day="2026-05-09", hour=9.5, direction="out")
        self.assertEqual(row.state(of_log, 0.0), of_log)

    def test_what_a_row_says_takes_the_place_of_what_the_log_tells(self):
        (row,) = read_run_table(
            self.table(
                "log,group,date,order,charge_before_percent,battery_temp_before_c,outside_temp_c,direction,"
                "pressure_hpa,humidity_percent,wind_mps,wind_from_deg,slope_percent,tires,mode,receiver,mass_kg",
                "a.nmea,before,2026-05-10,3,88,41.5,21,back,1009,55,4,90,-0.4,summer,Sport,roof,2080",
            )
        )
        state = row.state(State(day="2026-05-09", hour=9.5, direction="out", rate_hz=25.0), 30.0)
        self.assertEqual((state.day, state.hour, state.direction, state.rate_hz), ("2026-05-10", 3.0, "back", 25.0))
        self.assertEqual((state.charge_percent, state.battery_temp_c, state.slope_percent), (88.0, 41.5, -0.4))
        self.assertEqual(
            (state.tires, state.drive_mode, state.receiver, state.load_kg), ("summer", "Sport", "roof", 2080)
        )
        self.assertAlmostEqual(state.head_wind_mps, 2.0)  # 4 m/s from 60 degrees off the heading
        self.assertEqual(state.density_kg_m3, air_density_kg_m3(1009, 21, 55))

    def test_bad_tables_name_the_line_and_what_to_do(self):
        for lines, words in (
            (("log,wheels", "a,4"), "line 1: no heading 'wheels'; there are log, group"),
            (("group,date", "before,2026-05-09"), "line 1: one heading must be 'log'"),
            (("log,log", "a,b"), "none may be there twice"),
            (
                ("log,charge_before_percent", "a,50", "b,140"),
                "line 3: charge_before_percent 140 is not between 0 and 100",
            ),
            (("log,battery_temp_before_c", "a,warm"), "line 2: battery_temp_before_c 'warm' is no number"),
            (("log,order", "a,nan"), "line 2: order nan is not between"),
            (("log,date", "a,9.5.2026"), "line 2: date '9.5.2026'; write it like 2026-05-09"),
            (("log,direction", "a,north"), "line 2: direction 'north' is neither out nor back"),
            (("log,group", "a,before,x"), "line 2: 3 cells under 2 headings"),
            (("log,group", ",before"), "line 2: no log"),
            (("log,order", "a,1", "b,"), "line 3: no order; give it for every row or for none"),
            (("log",), "no row names a log"),
        ):
            with self.assertRaises(RunTableError, msg=lines) as refused:
                read_run_table(self.table(*lines))
            self.assertIn(words, str(refused.exception))

    def test_groups_are_before_and_after_or_the_first_two(self):
        def pair(*names: str) -> list[list[str]]:
            path = self.table("log,group", *(f"{n}.nmea,{name}" for n, name in enumerate(names)))
            return [[row.log.stem for row in group] for group in before_and_after(path, read_run_table(path))]

        self.assertEqual(pair("stock", "after", "before", "after"), [["2"], ["1", "3"]])
        self.assertEqual(pair("stock", "tuned", "stock", "third"), [["0", "2"], ["1"]])
        for names in (("stock",), ("stock", "")):
            with self.assertRaises(RunTableError):
                pair(*names)


class CompareTest(InFolder):
    def setUp(self):
        super().setUp()
        for name, scenario in (("b.nmea", "five-runs"), ("a.nmea", "after-update")):
            (self.folder / name).write_bytes(nmea(scenario))

    def compare(self, *arguments: str, as_json: bool = True) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        command = [
            "compare",
            "--measure",
            "0-60 mph",
            "--clock",
            "rollout",
            *(["--json"] if as_json else []),
            *arguments,
        ]
        return main(command, out, err), out.getvalue(), err.getvalue()

    def test_a_table_is_compared_as_its_logs_are_with_what_it_notes(self):
        rows = ("log,group,charge_before_percent", "b.nmea,before,92", "a.nmea,after,91")
        code, noted, _ = self.compare("--runs", str(self.table(*rows)))
        _, plain, _ = self.compare("--before", str(self.folder / "b.nmea"), "--after", str(self.folder / "a.nmea"))
        noted, plain = json.loads(noted), json.loads(plain)
        self.assertEqual(code, 0)
        self.assertEqual(noted["difference"], plain["difference"])
        charge = next(row for row in noted["condition_differences"] if row["factor"] == "charge")
        self.assertEqual((charge["before"], charge["after"], charge["before_noted"]), (92.0, 91.0, 5))

    def test_dates_of_the_table_part_the_days(self):
        apart = ("log,group,date", "b.nmea,before,2026-05-09", "a.nmea,after,2026-05-16")
        _, out, _ = self.compare("--runs", str(self.table(*apart)))
        together = ("log,group,date", "b.nmea,before,2026-05-09", "a.nmea,after,2026-05-09")
        _, near, _ = self.compare("--runs", str(self.table(*together)))
        widths = [(found["high95"] - found["low95"]) for found in (json.loads(x)["difference"] for x in (out, near))]
        self.assertGreater(widths[0], 1.5 * widths[1])

    def test_what_is_noted_and_known_is_adjusted_for_beside_the_verdict(self):
        """A run from 0 to 60 mph that falls by 1 % of its way gains g / 100 of acceleration: about 1.3 % of 8 m/s2."""
        rows = ("log,group,slope_percent", "b.nmea,before,0", "a.nmea,after,-1.0")
        found = json.loads(self.compare("--runs", str(self.table(*rows)))[1])
        self.assertEqual(found["adjusted"]["for"], ["slope"])
        gained = found["difference"]["value"] - found["adjusted"]["difference"]["value"]
        self.assertAlmostEqual(gained, -0.013 * found["before"]["mean"], delta=0.02)
        self.assertAlmostEqual(found["unadjusted"]["value"], found["difference"]["value"], 9)
        said = self.compare("--runs", str(self.table(*rows)), as_json=False)[1]
        self.assertIn("\nAdjusted: 0-60 mph (rollout): ", said)
        typed = json.loads(self.compare("--before-values", "4,4.1", "--after-values", "3.9,3.8")[1])
        self.assertEqual((typed["adjusted"], typed["adjustments"]), (None, []))

    def test_peak_power_compares_in_kilowatts_and_needs_the_mass(self):
        """The second car of the scenario has six percent more power than 260 kW."""
        rows = ("log,group,mass_kg", "b.nmea,before,1900", "a.nmea,after,1900")
        code, out, _ = self.compare("--quantity", "peak_power", "--runs", str(self.table(*rows)))
        found = json.loads(out)
        self.assertEqual((code, found["unit"], found["better"]), (0, "kW", True))
        self.assertAlmostEqual(found["before"]["mean"], 260.0, delta=8.0)
        self.assertAlmostEqual(found["difference"]["value"], 0.06 * 260, delta=6.0)
        _, said, _ = self.compare("--quantity", "peak_power", "--runs", str(self.table(*rows)), as_json=False)
        self.assertRegex(said, r"^Peak power, 0-60 mph \(rollout\): After (has|leans to) [\d.]+ kW ± [\d.]+ kW more")
        lacking = self.table("log,group,mass_kg", "b.nmea,before,1900", "a.nmea,after,")
        code, _, err = self.compare("--quantity", "peak_power", "--runs", str(lacking))
        self.assertEqual((code, err), (2, "peak_power needs the car's mass: give mass_kg in line 3\n"))

    def test_one_way_to_say_the_groups(self):
        for arguments, words in (
            ((), "give --before or --before-values"),
            (("--before-values", "4,4.1"), "--after or --after-values"),
            (("--runs", str(self.table("log,group", "b.nmea,before")), "--before-values", "4"), "not both"),
            (("--runs", str(self.folder / "absent.csv")), "absent.csv: No such file"),
            (("--runs", str(self.table("log,group", "b.nmea,x", "gone.nmea,y"))), "gone.nmea: No such file"),
        ):
            code, _, err = self.compare(*arguments)
            self.assertEqual(code, 2, arguments)
            self.assertIn(words, err)
