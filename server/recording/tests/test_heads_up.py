"""Two recorders side by side: each car's run is taken, the standing is from its own first movement, lanes swap."""

from __future__ import annotations

from datetime import timedelta

import numpy as np
from django.urls import reverse
from django.utils import timezone

from coombe_core.curve import Curve
from coombe_core.formats.parquet import write_columns
from plans.tests.asking import FIRST, PlanTest
from recording.models import HeadsUp, Recorder, Recording
from runs.models import Measured, Receiver, Run, RunTrace
from runs.tests.factories import LogFactory, RunFactory, SetupFactory


class HeadsUpTest(PlanTest):
    def setUp(self):
        super().setUp()
        self.recorders = [self.recorder(name) for name in ("Left car", "Right car")]
        given = {"left": self.recorders[0].pk, "right": self.recorders[1].pk}
        self.pair = self.post("heads-up-run-list", given).json()

    def recorder(self, name: str) -> Recorder:
        made = Recorder.objects.create(name=name, setup=SetupFactory(), started_by=self.person)
        Recording.objects.create(recorder=made, log=LogFactory(sha256=None), began_at=FIRST)
        return made

    def drive(self, recorder: Recorder, pace_mps2: float, start_utc=FIRST) -> Run:
        """A run at even acceleration: 60 ft and more as physics has it."""
        run = RunFactory(log=recorder.recordings.get().log, setup=recorder.setup, start_utc=start_utc)
        since_s = np.arange(0.0, 20.0, 0.05)
        curve = Curve(since_s, pace_mps2 * since_s, pace_mps2 * since_s**2 / 2, np.full(since_s.size, pace_mps2))
        RunTrace.objects.create(run=run, fixes=b"", curve=write_columns(vars(curve)))
        for name, distance_m in (("60 ft", 18.288), ("1/4 mile", 402.336)):
            time_s = float(np.sqrt(2 * distance_m / pace_mps2))
            Measured.objects.create(run=run, name=name, clock="first_movement", time_s=time_s, time_u95_s=0.05)
        return run

    def read(self, pair: dict | None = None) -> dict:
        return self.client.get(reverse("heads-up-run-detail", args=[(pair or self.pair)["id"]])).json()

    def test_reaction_plays_no_part_in_who_was_ahead(self):
        self.assertIsNone(self.read()["outcome"])
        self.drive(self.recorders[0], 5.0, FIRST + timedelta(seconds=0.8))
        self.assertIsNone(self.read()["outcome"])
        self.drive(self.recorders[1], 4.0)
        outcome = self.read()["outcome"]
        quarter = outcome["standings"][-1]
        self.assertAlmostEqual(quarter["gap_s"]["value"], np.sqrt(804.672 / 4) - np.sqrt(804.672 / 5), places=3)
        self.assertAlmostEqual(quarter["gap_m"], 402.336 * (1 - 4 / 5), delta=0.2)
        self.assertAlmostEqual(outcome["left_first_s"]["value"], -0.8)
        self.assertIsNone(outcome["left_reaction_s"])
        self.assertRegex(quarter["sentence"], r"^.+ ahead by \d\.\d\d s ± \d\.\d\d s$")
        (moved,) = outcome["sentences"]
        self.assertRegex(moved, rf"^{self.recorders[1].setup.car.name} moved first, by 0\.80 s ± ")

    def test_who_led_is_said_of_any_distance_and_in_car_lengths(self):
        self.drive(self.recorders[0], 5.0)
        self.drive(self.recorders[1], 4.0)
        address = reverse("heads-up-run-detail", args=[self.pair["id"]])
        standings = self.client.get(address, {"also_m": 200}).json()["outcome"]["standings"]
        self.assertEqual([each["name"] for each in standings], ["60 ft", "", "1/4 mile"])
        asked = standings[1]
        self.assertAlmostEqual(asked["gap_s"]["value"], np.sqrt(400 / 4) - np.sqrt(400 / 5), places=3)
        self.assertAlmostEqual(asked["gap_lengths"], 200 * (1 - 4 / 5) / 4.7, places=1)
        self.assertEqual(self.client.get(address, {"also_m": -5}).status_code, 400)

    def test_a_receiver_that_is_registered_as_late_is_put_right(self):
        Receiver.objects.create(name="Slow 1", latency_s=0.3)
        run = self.drive(self.recorders[0], 5.0, FIRST + timedelta(seconds=0.8))
        Run.objects.filter(pk=run.pk).update(receiver="Slow 1")
        self.drive(self.recorders[1], 4.0)
        self.assertAlmostEqual(self.read()["outcome"]["left_first_s"]["value"], -0.5)

    def test_reaction_is_told_apart_against_the_signal(self):
        signaled = self.post("heads-up-run-start-signal", {}, self.pair["id"]).json()
        self.assertGreater(signaled["signal_at"], timezone.now().isoformat())
        at = HeadsUp.objects.get().signal_at
        self.drive(self.recorders[0], 5.0, at + timedelta(seconds=0.3))
        self.drive(self.recorders[1], 5.0, at + timedelta(seconds=0.5))
        outcome = self.read()["outcome"]
        reactions = [outcome[f"{side}_reaction_s"]["value"] for side in ("left", "right")]
        self.assertEqual([" after the signal." in each for each in outcome["sentences"]], [False, True, True])
        self.assertAlmostEqual(reactions[0], 0.3, places=3)
        self.assertAlmostEqual(reactions[1], 0.5, places=3)

    def test_runs_from_before_are_not_taken_and_the_next_swaps_lanes(self):
        for recorder in self.recorders:
            self.drive(recorder, 5.0)
        again = self.post("heads-up-run-repeat", {}, self.pair["id"]).json()
        self.assertEqual((again["left_name"], again["right_name"]), ("Right car", "Left car"))
        self.assertIsNone(self.read(again)["outcome"])
        self.assertIsNotNone(self.read()["outcome"])

    def test_a_void_run_leaves_the_place_to_the_next(self):
        jumped = self.drive(self.recorders[0], 5.0)
        self.drive(self.recorders[1], 5.0)
        Run.objects.filter(pk=jumped.pk).update(validity="void", void_reason="jumped")
        self.assertIsNone(self.read()["outcome"])
        good = self.drive(self.recorders[0], 5.0)
        self.assertEqual(self.read()["outcome"]["left_run"], good.pk)

    def test_one_recorder_twice_is_refused(self):
        answer = self.post("heads-up-run-list", {"left": self.recorders[0].pk, "right": self.recorders[0].pk})
        self.assertEqual(
            (answer.status_code, answer.json()["errors"]["right"]), (400, ["A heads-up needs two recorders."])
        )
