"""The demo's recorders: pointed at the simulated devices of this start, each with the car that its setup is."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, date, datetime, timedelta

from django.test import TestCase

from coombe_core.simulating.in_thread import running
from days.models import DayState
from days.services import lay_out
from demo.recording import listen_to
from demo.season import SETUPS
from plans.models import Group, Plan
from recording.models import Recorder
from runs.tests.factories import CarFactory, CourseFactory, SetupFactory, UserFactory


class DemoRecorderTest(TestCase):
    def setUp(self):
        person = UserFactory(username="tester")
        lumen, vireo = CarFactory(name="Lumen", power_kw=185), CarFactory(name="Vireo", power_kw=280)
        SetupFactory(car=lumen, name="Power unlock")
        SetupFactory(car=vireo, name="Delivered, 7.1", since=date(2026, 3, 2))
        self.latest = SetupFactory(car=vireo, name="Software 7.2", since=date(2026, 4, 20))
        plan = Plan.objects.create(question="?", car=vireo, course=CourseFactory(), created_by=person)
        Group.objects.create(plan=plan, name="before", position=0, setup=self.latest)
        now = datetime.now(UTC)
        state = {"charge_percent": 90, "battery_temp_c": 40, "outside_temp_c": 15}
        self.day = lay_out(plan, {"first_run_at": now, "known_at": now - timedelta(hours=2), **state})
        self.day.state = DayState.UNDER_WAY
        self.day.save()

    def test_each_car_has_a_recorder_and_the_day_is_that_of_its_car(self):
        with running() as one, running() as two:
            listen_to([asdict(one.ports), asdict(two.ports)])
            vireo, lumen = Recorder.objects.order_by("-name")
            self.assertEqual((vireo.day, vireo.setup, lumen.day), (self.day, self.latest, None))
            self.assertEqual(vireo.receiver.port, one.ports.receiver)
            known = next(made.simulated for made in SETUPS if made.name == "Software 7.2")
            self.assertEqual(one.made.car.car, known)
            self.assertAlmostEqual(one.order()["charge_percent"], 93.5, delta=0.1)

    def test_a_later_start_points_them_anew_and_leaves_what_was_chosen(self):
        with running() as one:
            listen_to([asdict(one.ports)])
        Recorder.objects.update(measure="1/4 mile", day=None)
        with running() as again:
            listen_to([asdict(again.ports)])
            recorder = Recorder.objects.get()
        self.assertEqual((recorder.receiver.port, recorder.measure), (again.ports.receiver, "1/4 mile"))
        self.assertIsNone(recorder.day)
