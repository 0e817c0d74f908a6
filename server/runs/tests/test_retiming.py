"""Derived numbers never stay behind what they rest on: whatever is changed, its runs are timed again."""

from __future__ import annotations

import io
from unittest import mock

from django.core.management import call_command
from django.urls import reverse

from cars.models import Car, Setup
from courses.models import Course
from courses.serializers import set_profile
from days.services import lay_out, settle
from history.models import changes_of
from plans.models import Group, Plan
from plans.tests.asking import FIRST, STATE
from runs import resting, retiming
from runs.models import Log, Run, RunTrace, smoothing_of
from runs.retiming import retime_stale
from runs.services import change_run
from runs.tests.factories import CourseFactory, UserFactory
from runs.tests.test_can_logs import drive
from runs.tests.test_import import ImportTest, log_bytes

LEVEL = [{"distance_m": 0, "elevation_m": 100}, {"distance_m": 1400, "elevation_m": 100}]
DOWNHILL = [{"distance_m": 0, "elevation_m": 100}, {"distance_m": 1400, "elevation_m": 65}]


class RetimingCase(ImportTest):
    def setUp(self):
        super().setUp()
        self.person = UserFactory()
        self.course = CourseFactory(heading_deg=0)
        self.send(log_bytes(), course=self.course.pk)
        self.assertEqual(Run.objects.filter(stale=True).count(), 0)

    @property
    def pull(self) -> Run:
        return Run.objects.get(kind="standing")

    def stale(self) -> int:
        return Run.objects.filter(stale=True).count()

    def sixty(self, clock: str = "rollout"):
        return self.pull.measured.get(name="0-60 mph", clock=clock)


class WhatRestsOnWhatTest(RetimingCase):
    def test_a_surveyed_course_corrects_the_runs_that_were_driven_on_it(self):
        before = self.sixty()
        set_profile(self.course, DOWNHILL)
        self.assertEqual(self.stale(), 2)
        retime_stale()
        self.assertEqual(self.stale(), 0)
        self.assertAlmostEqual(self.pull.slope_percent, -2.5, 1)
        self.assertEqual(self.sixty().time_s, before.time_s)
        self.assertGreater(self.sixty().corrected_time_s, before.corrected_time_s + 0.1)
        self.assertIn("slope_beyond_limit", self.pull.flags.values_list("code", flat=True))
        set_profile(self.course, LEVEL)
        retime_stale()
        self.assertEqual(self.pull.slope_percent, 0.0)
        self.assertNotIn("slope_beyond_limit", self.pull.flags.values_list("code", flat=True))

    def test_a_run_moved_to_another_course_takes_its_slope(self):
        other = CourseFactory(slope_percent=-1.8, slope_u95_percent=0.05)
        change_run(self.pull, {"course": other}, self.pull.revision, self.person)
        self.assertEqual(self.stale(), 1)
        retime_stale()
        self.assertEqual(self.pull.slope_percent, -1.8)

    def test_mass_drag_and_power_of_the_car_and_the_wind_are_what_a_run_rests_on(self):
        car = self.pull.setup.car
        for field, value in (("test_mass_kg", 2500), ("cda_m2", 0.9), ("power_kw", 40), ("rolling_coefficient", 0.02)):
            Car.objects.filter(pk=car.pk).update(**{field: value})
            Car.objects.get(pk=car.pk).save()
            self.assertEqual(self.stale(), 2, field)
            retime_stale()
        self.assertIn("implausible", self.pull.flags.values_list("code", flat=True))  # 40 kW can't pull like that
        change_run(self.pull, {"wind_mps": 6.0, "wind_from_deg": 0.0}, self.pull.revision, self.person)
        retime_stale()
        self.assertIn("wind_beyond_limit", self.pull.flags.values_list("code", flat=True))

    def test_a_receiver_that_is_registered_as_smoothing_has_its_runs_timed_again(self):
        """A filter over 0.15 s: first movement was that much later; both again as it was once it is taken back."""
        before = self.sixty("first_movement").time_s
        change_run(self.pull, {"receiver": "Nail 3"}, self.pull.revision, self.person)
        self.assertEqual(self.stale(), 0)  # nothing is known of it yet
        at = reverse("receiver-list")
        made = self.client.post(at, {"name": "Nail 3", "smoothing_s": 0.15, "firmware": "2.1"}, "json")
        self.assertEqual((made.status_code, self.stale()), (201, 1), made.content)
        retime_stale()
        self.assertAlmostEqual(self.sixty("first_movement").time_s, before - 0.15, delta=0.02)
        self.assertIn("unsmoothed", self.pull.flags.values_list("code", flat=True))
        self.assertEqual(self.client.get(at).json()["results"][0]["run_count"], 1)
        one = reverse("receiver-detail", args=[made.json()["id"]])
        self.client.patch(one, {"smoothing_s": 0, "revision": made.json()["revision"]}, "json")
        self.assertEqual(self.stale(), 1)
        retime_stale()
        self.assertAlmostEqual(self.sixty("first_movement").time_s, before, delta=1e-6)
        self.assertFalse({"unsmoothed", "soft_start"} & set(self.pull.flags.values_list("code", flat=True)))

    def test_a_receiver_is_checked_and_its_name_taken_once(self):
        at = reverse("receiver-list")
        self.client.post(at, {"name": "Nail 3"}, "json")
        for wrong in ({"name": "Nail 3"}, {"name": "Nail 4", "smoothing_s": -0.1}, {"name": "", "smoothing_s": 0.1}):
            self.assertEqual(self.client.post(at, wrong, "json").status_code, 400, wrong)
        self.assertIsNone(smoothing_of("Nail 3"))
        self.assertIsNone(smoothing_of(""))

    def test_what_a_run_does_not_rest_on_leaves_it_alone(self):
        Car.objects.get().save()
        change_run(self.pull, {"driver": "R.", "notes": "dry"}, self.pull.revision, self.person)
        self.course.access = "key at the lodge"
        self.course.save()
        self.assertEqual(self.stale(), 0)

    def test_a_newer_core_has_all_runs_timed_again(self):
        with mock.patch("runs.resting.__version__", "99"):
            self.assertEqual(resting.look(Run.objects.all()), 2)

    def test_whatever_the_request_of_the_core_reads_is_in_the_digest(self):
        """Each column changed by itself, behind the application's back, makes another digest."""
        changes = {
            Run: {"wind_mps": 3.0, "wind_from_deg": 10.0, "charge_before_percent": 50, "battery_temp_before_c": 30},
            Car: {"test_mass_kg": 2000, "cda_m2": 0.7, "rolling_coefficient": 0.01, "power_kw": 99},
            Course: {"slope_percent": 0.4, "slope_u95_percent": 0.1, "heading_deg": 3},
            Setup: {"change": "software update", "confirmed_by": "menu"},
        }
        for model, fields in changes.items():
            for field, value in fields.items():
                before = resting.digests(Run.objects.filter(pk=self.pull.pk))
                model.objects.update(**{field: value})
                self.assertNotEqual(resting.digests(Run.objects.filter(pk=self.pull.pk)), before, field)


class NotedFlagsTest(RetimingCase):
    def codes(self) -> set[str]:
        return set(self.pull.flags.values_list("code", flat=True))

    def test_a_run_outside_of_its_plan_s_window_is_flagged_once_it_is_linked(self):
        change_run(
            self.pull, {"charge_before_percent": 60, "battery_temp_before_c": 20}, self.pull.revision, self.person
        )
        plan = Plan.objects.create(car=self.pull.setup.car, course=self.course, question="?", created_by=self.person)
        for position, name in enumerate(("a", "b")):
            Group.objects.create(plan=plan, name=name, position=position)
        step = lay_out(plan, {"first_run_at": FIRST, "known_at": FIRST, **STATE}).scheduled_runs.first()
        settle(step, {"state": "done", "run": self.pull})
        retime_stale()
        self.assertLessEqual({"charge_outside_window", "battery_temperature_outside_window"}, self.codes())
        settle(step, {"state": "open", "run": None})
        retime_stale()
        self.assertFalse({"charge_outside_window", "battery_temperature_outside_window"} & self.codes())

    def test_a_change_that_nobody_confirmed_is_flagged_until_somebody_does(self):
        setup = Setup.objects.get()
        setup.change = "software update"
        setup.save()
        retime_stale()
        self.assertIn("setup_not_confirmed", self.codes())
        setup.confirmed_by = "version screen"
        setup.save()
        retime_stale()
        self.assertNotIn("setup_not_confirmed", self.codes())

    def test_a_change_that_anybody_can_see_needs_no_confirmation(self):
        Setup.objects.update(change="wheels")
        retime_stale()
        self.assertNotIn("setup_not_confirmed", self.codes())

    def test_a_temperature_in_the_wrong_unit_is_flagged(self):
        change_run(self.pull, {"battery_temp_before_c": 86}, self.pull.revision, self.person)
        retime_stale()
        self.assertIn("implausible_temperature", self.codes())


class RetimeTest(RetimingCase):
    def test_timed_again_with_nothing_changed_every_number_is_the_same(self):
        rows = list(self.pull.measured.values_list("name", "clock", "time_s", "time_u95_s", "corrected_time_s"))
        Run.objects.update(stale=True)
        summary = retime_stale()
        self.assertEqual((summary.timed, summary.changes, summary.failed), (2, [], []))
        again = list(self.pull.measured.values_list("name", "clock", "time_s", "time_u95_s", "corrected_time_s"))
        for was, now in zip(rows, again, strict=True):
            self.assertEqual(was[:2], now[:2])
            for old, new in zip(was[2:], now[2:], strict=True):
                self.assertAlmostEqual(old or 0.0, new or 0.0, 4)

    def test_what_people_decided_and_wrote_down_stays(self):
        run = self.pull
        changes = {"validity": "void", "void_reason": "traffic", "decided": True, "charge_before_percent": 91}
        change_run(run, changes, run.revision, self.person)
        Run.objects.update(stale=True)
        retime_stale()
        run.refresh_from_db()
        self.assertEqual((run.validity, run.void_reason, run.charge_before_percent), ("void", "traffic", 91))
        self.assertEqual(set(changes_of(run).get(kind="changed").values), set(changes))

    def test_what_moved_by_more_than_its_u95_is_told(self):
        self.sixty()
        self.pull.measured.filter(name="0-60 mph", clock="rollout").update(time_s=3.0, time_u95_s=0.01)
        out = io.StringIO()
        call_command("retime", "--all", stdout=out)
        self.assertIn(f"run {self.pull.pk}, 0-60 mph (rollout), time_s: 3 ± 0.01 →", out.getvalue())
        self.assertIn("in 1 of them a value moved by more than its u95", out.getvalue())

    def test_it_goes_on_where_it_broke_off(self):
        Run.objects.update(stale=True)
        real = retiming.retime

        def breaks(pk: int):
            if pk == max(Run.objects.values_list("pk", flat=True)):
                raise KeyboardInterrupt
            return real(pk)

        with mock.patch.object(retiming, "retime", breaks), self.assertRaises(KeyboardInterrupt):
            retime_stale()
        self.assertEqual(self.stale(), 1)
        self.assertEqual(retime_stale().timed, 1)

    def test_a_run_that_cannot_be_timed_again_keeps_its_numbers_and_says_why(self):
        before = self.sixty().time_s
        RunTrace.objects.filter(run=self.pull).update(fixes=RunTrace.objects.get(run__kind="stop").fixes)
        Run.objects.filter(pk=self.pull.pk).update(stale=True)
        summary = retime_stale()
        self.assertEqual(len(summary.failed), 1)
        self.assertEqual((self.sixty().time_s, self.stale()), (before, 0))
        self.assertIn("no longer show this run", self.pull.retiming_trouble)

    def test_one_that_fails_unforeseen_holds_up_none_of_the_others(self):
        Run.objects.update(stale=True)
        real = retiming._timed

        def failing(run):
            if run.kind == "standing":
                raise ZeroDivisionError
            return real(run)

        with mock.patch.object(retiming, "_timed", failing), self.assertLogs("runs.retiming"):
            summary = retime_stale()
        self.assertEqual((summary.timed, len(summary.failed)), (1, 1))

    def test_how_many_wait_is_told(self):
        Run.objects.update(stale=True)
        self.assertEqual(self.client.get(reverse("run-retiming")).json(), {"waiting": 2, "failed": 0})

    def test_what_the_can_log_said_counts_again(self):
        Log.objects.all().delete()
        log, frames = drive()
        from django.core.files.uploadedfile import SimpleUploadedFile

        self.send(log, can_log=SimpleUploadedFile("drive.log", frames))
        onset = Run.objects.get(kind="stop").measured.get(name="60-0 mph").onset_distance_m
        Run.objects.update(stale=True)
        self.assertEqual(retime_stale().changes, [])
        again = Run.objects.get(kind="stop").measured.get(name="60-0 mph").onset_distance_m
        self.assertAlmostEqual(onset, again, 1)
