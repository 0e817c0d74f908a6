"""`coombe study`: logs of a run table, and the same numbers as the core's studies."""

from __future__ import annotations

import io
import json
import tempfile
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from unittest import TestCase

from drives import nmea

from coombe_core.cli.command import main
from coombe_core.formats import write_log
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.drive import Act
from coombe_core.simulating.receiver import Receiver
from coombe_core.simulating.scenarios import Scenario, simulate
from coombe_core.units import KMH_MPS, MPH_MPS

PULL = [Act("rest", 3), Act("launch", to_mps=62 * MPH_MPS), Act("coast", 0.8), Act("gentle", pace_mps2=1.8)]
STOP = [
    *(Act("rest", 3), Act("gentle", to_mps=106 * KMH_MPS, pace_mps2=1.7), Act("hold", 2), Act("brake")),
    Act("rest", 3),
]
ROLL_ON = [
    *(Act("rest", 2), Act("gentle", to_mps=27 * MPH_MPS), Act("hold", 3), Act("launch", to_mps=73 * MPH_MPS)),
    *(Act("coast", 0.8), Act("gentle", pace_mps2=1.8)),
]


class StudyTest(TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def log(self, name: str, acts: list[Act], seed: int, car: SimulatedCar | None = None, **conditions: float) -> str:
        """A log whose runs begin a quarter of an hour after those of the seed before."""
        begun = Receiver().start_utc + timedelta(minutes=15 * seed)
        receiver = replace(Receiver(), start_utc=begun)
        made = simulate(Scenario("", acts, car or SimulatedCar(), Conditions(**conditions), receiver), seed)
        (self.folder / name).write_bytes(write_log(made.trace, "nmea"))
        return name

    def study(self, kind: str, *lines: str, more: tuple[str, ...] = ()) -> dict:
        code, out, err = self.run_it(kind, *lines, more=("--json", *more))
        self.assertEqual((code, err), (0, ""))
        return json.loads(out)

    def run_it(self, kind: str, *lines: str, more: tuple[str, ...] = ()) -> tuple[int, str, str]:
        (self.folder / "runs.csv").write_text("\n".join(lines) + "\n")
        out, err = io.StringIO(), io.StringIO()
        code = main(["study", kind, "--runs", str(self.folder / "runs.csv"), *more], out, err)
        return code, out.getvalue(), err.getvalue()

    def test_a_sweep(self):
        charges = (90, 75, 60, 45, 30)
        rows = [f"{self.log(f'{n}.nmea', PULL, n, charge_percent=c)},{c}" for n, c in enumerate(charges)]
        found = self.study("sweep", "log,charge_before_percent", *rows)
        self.assertEqual((found["schema"], found["kind"], found["measure"]), ("coombe.study/1", "sweep", "0-60 mph"))
        (group,) = found["groups"]
        self.assertEqual([point["charge_percent"] for point in group["points"]], list(charges))
        self.assertAlmostEqual(group["points"][0]["normalized"], 1.0, delta=0.02)
        self.assertGreater(group["flatness"]["lowest_to_highest"]["value"], 1.01)
        self.assertGreater(group["flatness"]["slope_per_10"]["value"], 0.0)
        self.assertIn("From 90 to 30 % charge it changes by +", found["sentence"])
        _, said, _ = self.run_it("sweep", "log,charge_before_percent", *rows)
        self.assertEqual(said.strip(), found["sentence"])

    def test_a_braking_series_that_fades(self):
        grips = (1.0, 0.98, 0.96, 0.94, 0.92)
        rows = [self.log(f"{n}.nmea", STOP, n, SimulatedCar(brake_grip=grip)) for n, grip in enumerate(grips)]
        (group,) = self.study("braking", "log", *rows)["groups"]
        self.assertEqual([stop["number"] for stop in group["stops"]], [1, 2, 3, 4, 5])
        self.assertEqual(group["verdict"], "fades")
        self.assertAlmostEqual(group["fade_per_stop_m"]["value"], 0.021 * group["mean_m"], delta=0.3)
        self.assertEqual(group["best_m"], group["stops"][0]["distance_m"]["value"])

    def test_repeatability_of_the_passes_of_one_log(self):
        (self.folder / "five.nmea").write_bytes(nmea("five-runs"))
        (group,) = self.study("repeatability", "log", "five.nmea")["groups"]
        self.assertEqual(len(group["passes"]), 5)
        self.assertIn(group["first_quickest_p"], (0.2, 0.4, 0.6, 0.8, 1.0))
        self.assertLess(abs(group["per_pass"]["value"]), 0.05)

    def test_two_receivers_on_the_same_passes(self):
        for name, seed in (("a.nmea", 11), ("b.nmea", 12)):
            (self.folder / name).write_bytes(nmea("five-runs", seed))
        (group,) = self.study("receivers", "log,receiver", "a.nmea,roof", "b.nmea,dash")["groups"]
        self.assertEqual((group["name"], group["passes"]), ("roof, dash", 5))
        self.assertLess(abs(group["bias"]["value"]), max(group["bias"]["u95"], 0.01))
        self.assertLess(group["upper"]["value"] - group["lower"]["value"], 0.08)

    def test_roll_ons_of_two_cars(self):
        cars = {"weak": SimulatedCar(power_w=220_000), "strong": SimulatedCar(power_w=320_000)}
        rows = [
            f"{self.log(f'{name}{n}.nmea', ROLL_ON, 2 * n + (name == 'weak'), car)},{name}"
            for name, car in cars.items()
            for n in range(2)
        ]
        weak, strong = self.study("roll-ons", "log,group", *rows)["groups"]
        self.assertEqual((weak["name"], weak["runs"], strong["name"]), ("weak", 2, "strong"))
        self.assertGreater(weak["time_s"]["value"], strong["time_s"]["value"] + 0.3)
        for group in (weak, strong):
            self.assertGreater(group["from_full_power_s"]["value"], group["time_s"]["value"])

    def test_levels_against_the_first(self):
        for name, scenario in (("a.nmea", "five-runs"), ("b.nmea", "after-update")):
            (self.folder / name).write_bytes(nmea(scenario))
        slow, quick = self.study("levels", "log,group", "a.nmea,Comfort", "b.nmea,Sport")["groups"]
        self.assertEqual((slow["name"], slow["rank"], slow["difference"]), ("Comfort", 2, None))
        self.assertEqual((quick["rank"], quick["runs"]), (1, 5))
        self.assertAlmostEqual(quick["difference"]["value"], quick["mean"]["value"] - slow["mean"]["value"], delta=0.02)

    def test_what_can_not_be_studied_is_said(self):
        pull = self.log("pull.nmea", PULL, 1)
        stop = self.log("stop.nmea", STOP, 2)
        for kind, lines, words in (
            ("sweep", ("log,charge_before_percent", f"{pull},90"), "Sweep of 1 run: record at least 5."),
            ("sweep", ("log", pull), "Charge is missing for 1 of 1 runs"),
            ("braking", ("log,group", f"{stop},a", f"{pull},b"), "no run of group 'b' has 100-0 km/h"),
            ("receivers", ("log", pull), "Study of receivers of 0 runs: record at least 3."),
            ("sweep", ("log,charge", f"{pull},90"), "line 1: no heading 'charge'"),
            ("roll-ons", ("log", "gone.nmea"), "gone.nmea: No such file"),
        ):
            code, out, err = self.run_it(kind, *lines)
            self.assertEqual((code, out), (2, ""), (kind, lines))
            self.assertIn(words, err)
