"""Receivers of other rates and noises, and logs in which the car starts twice."""

from unittest import TestCase

import numpy as np
from drives import one_run, true_measures

from coombe_core.analysis import Request, analyse_log, time_runs
from coombe_core.formats import write_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.simulating.scenarios import Scenario, clean_run, simulate, truth

WANTED = (("0-60 mph", "rollout"), ("0-60 mph", "first_movement"), ("1/4 mile", "rollout"))


class RatesTest(TestCase):
    def misses(self, seeds: range, **receiver: float) -> dict[tuple[str, str], np.ndarray]:
        """Errors over their u95, by measure and clock."""
        shares: dict[tuple[str, str], list[float]] = {key: [] for key in WANTED}
        for seed in seeds:
            made = one_run(seed, SimulatedCar(ramp_s=0.1 + 0.02 * (seed % 5)), **receiver)
            run, real = time_runs(made.trace, Request())[0], true_measures(made)
            for key in WANTED:
                value = run.measured(*key).time_s
                shares[key].append((value.value - real[key]["time_s"]) / value.u95)
        return {key: np.array(values) for key, values in shares.items()}

    def test_intervals_are_honest_at_ten_fixes_a_second(self):
        for key, shares in self.misses(range(8100, 8112), rate_hz=10.0).items():
            self.assertGreaterEqual(int((np.abs(shares) <= 1.0).sum()), 9, key)

    def test_intervals_are_honest_when_the_receiver_is_twice_as_noisy(self):
        for key, shares in self.misses(range(8200, 8212), speed_noise_mps=0.1).items():
            self.assertGreaterEqual(int((np.abs(shares) <= 1.0).sum()), 9, key)

    def test_a_hundred_fixes_a_second_are_read_and_timed(self):
        made = one_run(8300, SimulatedCar(), rate_hz=100.0)
        analysis = analyse_log(write_log(made.trace, "nmea"))
        self.assertAlmostEqual(analysis.reading.trace.rate_hz, 100.0, 3)
        real = true_measures(made)[("0-60 mph", "rollout")]["time_s"]
        self.assertAlmostEqual(analysis.runs[0].measured("0-60 mph", "rollout").time_s.value, real, delta=0.02)


class SlowAndFastTest(TestCase):
    def test_one_fix_a_second_says_little_and_says_so(self):
        held, widths = 0, []
        for seed in range(8600, 8612):
            made = one_run(seed, SimulatedCar(), rate_hz=1.0)
            value = time_runs(made.trace, Request())[0].measured("0-60 mph", "rollout").time_s
            held += abs(value.value - true_measures(made)[("0-60 mph", "rollout")]["time_s"]) <= value.u95
            widths.append(value.u95)
        self.assertGreaterEqual(held, 9)
        self.assertGreater(np.median(widths), 0.05)  # at 25 Hz it is 0.008 s

    def test_a_hundred_correlated_fixes_a_second_are_not_taken_for_as_many_free_ones(self):
        # The noise of the receiver is one process in time: at 100 Hz neighbors are alike (0.3 at 25 Hz, 0.74 here).
        shares = []
        for seed in range(8700, 8710):
            made = one_run(seed, SimulatedCar(ramp_s=0.12), rate_hz=100.0)
            value = time_runs(made.trace, Request())[0].measured("1/4 mile", "rollout").time_s
            shares.append(abs(value.value - true_measures(made)[("1/4 mile", "rollout")]["time_s"]) / value.u95)
        self.assertGreaterEqual(sum(share <= 1.0 for share in shares), 8)
        self.assertLess(max(shares), 2.0)


class FormatsTest(TestCase):
    def test_nmea_and_csv_of_one_drive_give_the_same_times(self):
        trace = one_run(8400, SimulatedCar()).trace
        rows = [analyse_log(write_log(trace, name)).runs[0].measured("1/4 mile", "rollout") for name in ("nmea", "csv")]
        self.assertAlmostEqual(rows[0].time_s.value, rows[1].time_s.value, delta=0.001)

    def test_two_runs_in_one_log_are_timed_as_if_alone(self):
        made = simulate(Scenario("", clean_run() * 2), 8500)
        runs = [run for run in time_runs(made.trace, Request()) if run.kind == "standing"]
        real = [run for run in truth(made)["runs"] if run["kind"] == "standing"]
        self.assertEqual(len(runs), 2)
        for run, true in zip(runs, real, strict=True):
            self.assertAlmostEqual(run.rollout_s.value, true["rollout_s"], delta=2 * run.rollout_s.u95)
            self.assertAlmostEqual(run.start_s, true["start_s"], delta=0.08)
