"""Mean acceleration with its interval, runs that could not be timed, and wheels that were not heard."""

from __future__ import annotations

import io
import json
from dataclasses import replace
from unittest import TestCase, mock

import numpy as np
from drives import nmea, one_run, simulated

from coombe_core.analysis import Request, analyse_log, time_runs
from coombe_core.cli.command import main
from coombe_core.cli.output import analysis_json, analysis_table
from coombe_core.detection.can_data import align
from coombe_core.formats.can_log import Channel, read_can_log
from coombe_core.live.timing import LiveTiming
from coombe_core.simulating.can import frames, write_can_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.units import STANDARD_GRAVITY_MPS2
from coombe_core.wording.untimed import untimed_reason


class MeanAccelerationTest(TestCase):
    """Against the simulated motion: speed gained over time, from its true first movement, or to its true rest."""

    def test_its_interval_holds_the_truth(self):
        draw = np.random.default_rng(51_188)
        inside: dict[str, list[bool]] = {"standing": [], "stop": []}
        for _ in range(24):
            car = SimulatedCar(power_w=draw.uniform(150e3, 400e3), grip=draw.uniform(0.75, 1.05))
            made = one_run(int(draw.integers(1 << 30)), car)
            motion = made.motion
            for run in time_runs(made.trace, Request()):
                speed = np.interp([run.start_s, run.end_s], motion.elapsed_s, motion.speed_mps)
                if run.kind == "standing":
                    near = (motion.elapsed_s > run.start_s - 1.0) & (motion.elapsed_s < run.start_s + 1.0)
                    moving = motion.elapsed_s[near][motion.speed_mps[near] > 0.0]
                    true = speed[1] / (run.end_s - moving[0])
                elif run.kind == "stop":
                    near = (motion.elapsed_s > run.end_s - 1.0) & (motion.elapsed_s < run.end_s + 2.0)
                    rest = motion.elapsed_s[near][motion.speed_mps[near] <= 0.0][0]
                    true = -np.interp(run.start_s, motion.elapsed_s, motion.speed_mps) / (rest - run.start_s)
                else:
                    continue
                found = run.mean_acceleration_g
                inside[run.kind].append(abs(found.value - true / STANDARD_GRAVITY_MPS2) <= found.u95)
        for kind, held in inside.items():
            self.assertGreaterEqual(len(held), 22)
            self.assertGreaterEqual(np.mean(held), 0.86, kind)  # of 24: 95 % less two standard errors


class UntimedTest(TestCase):
    def failing(self, error: Exception):
        return mock.patch("coombe_core.analysis.time_standing", side_effect=error)

    def test_a_run_whose_fit_fails_is_listed_with_the_reason(self):
        with self.failing(np.linalg.LinAlgError("singular")):
            analysis = analyse_log(nmea("clean-run"))
        self.assertEqual([run.kind for run in analysis.runs], ["stop"])
        (untimed,) = analysis.untimed
        self.assertEqual(untimed.kind, "standing")
        self.assertIn("failed", untimed.reason)
        listed = json.loads(json.dumps(analysis_json("x", analysis)))["untimed"]
        self.assertEqual((listed[0]["kind"], listed[0]["reason"]), ("standing", untimed_reason(untimed)))
        self.assertIn("found, not timed: standing start", analysis_table("x", analysis))

    def test_a_log_without_such_a_run_says_so_too(self):
        self.assertEqual(analysis_json("x", analyse_log(nmea("clean-run")))["untimed"], [])

    def test_a_fit_that_gives_no_number_is_no_result(self):
        real = time_runs(simulated("clean-run").trace, Request())[0]
        with mock.patch("coombe_core.analysis.time_standing", return_value=replace(real, start_s=float("nan"))):
            self.assertEqual(len(analyse_log(nmea("clean-run")).untimed), 1)

    def test_live_timing_remembers_it_too(self):
        live = LiveTiming()
        with self.failing(np.linalg.LinAlgError("singular")):
            timed = [*live.feed(simulated("clean-run").trace), *live.finish()]
        self.assertEqual(([run.kind for run in timed], [run.kind for run in live.untimed]), (["stop"], ["standing"]))


class CorrectedTest(TestCase):
    def test_a_corrected_time_is_named_after_what_it_was_corrected_to(self):
        import tempfile
        from pathlib import Path

        with tempfile.TemporaryDirectory() as folder:
            log = Path(folder) / "a.nmea"
            log.write_bytes(nmea("clean-run"))
            asked = ["--correct-to", "standard-air", "--correct-to", "calm", "--mass", "1900"]
            report = ["--metar", "METAR XXXX 091250Z 24010KT 9999 18/12 Q1009"]
            out = io.StringIO()
            main(["analyse", *asked, *report, str(log)], out, io.StringIO())
        self.assertIn("s corrected to standard air, calm", out.getvalue())
        self.assertNotIn("level", out.getvalue())


class WheelsTest(TestCase):
    def test_wheels_that_were_not_heard_during_the_launch_say_nothing_of_it(self):
        """A recorder that was killed in a pull hears the wheels again at speed: that is no spin."""
        made = simulated("clean-run")
        can_data = align(
            read_can_log(io.BytesIO(write_can_log("candump", frames(made.motion, SimulatedCar(), 0.0, 90.0, 40.0)))),
            made.trace,
        )
        start_s = time_runs(made.trace, Request())[0].start_s
        self.assertLess(can_data.wheel_slip(made.trace, start_s), 0.1)
        late = {
            name: Channel(channel.time_s[kept], channel.value[kept])
            for name, channel in can_data.log.channels.items()
            if (kept := channel.time_s + can_data.offset_s.value > start_s + 2.5).any()
        }
        cut = replace(can_data, log=replace(can_data.log, channels=late))
        self.assertIsNone(cut.wheel_slip(made.trace, start_s))

    def test_a_state_that_was_last_heard_minutes_ago_is_not_taken(self):
        made = simulated("clean-run")
        can_data = align(
            read_can_log(io.BytesIO(write_can_log("candump", frames(made.motion, SimulatedCar(), 0.0, 90.0, 40.0)))),
            made.trace,
        )
        self.assertIsNotNone(can_data.value_at("charge_percent", 10.0))
        self.assertIsNone(can_data.value_at("charge_percent", made.trace.elapsed_s[-1] + 500.0))
