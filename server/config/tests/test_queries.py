"""Lists ask the database as often for many rows as for one."""

from __future__ import annotations

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from cars.models import BatteryInterval, ManufacturerClaim
from comparisons.models import Comparison
from plans.tests.asking import PlanTest
from recording.models import Device, HeadsUp, Recorder, Recording
from runs.models import Import
from runs.tests.factories import CarFactory, CourseFactory, LogFactory, RunFactory, SetupFactory

LISTS = (
    *("car", "setup", "manufacturer-claim", "battery-interval", "course", "plan", "test-day", "log", "import", "run"),
    *("device", "recorder", "recording", "heads-up-run", "comparison"),
)


class ListTest(PlanTest):
    def add(self, number: int) -> None:
        """One more row of everything, each with what belongs to it."""
        car = CarFactory()
        setup = SetupFactory(car=car)
        run = RunFactory(setup=setup, course=CourseFactory(name=f"Listed {number}"), log=LogFactory())
        run.flags.create(code="gap", severity="caution", message="2 fixes missing.")
        ManufacturerClaim.objects.create(car=car, measure="0-60 mph", value_s=4, source="ad")
        interval = BatteryInterval.objects.create(car=car, kind="resting", began_at=run.start_utc)
        interval.readings.create(minutes=1, battery_temp_c=30)
        car.charge_points.create(charge_percent=50, power_kw=100)
        self.day(self.plan(question=f"Number {number}?"))
        comparison = Comparison.objects.create(
            title="?", measure="0-60 mph", clock="rollout", created_by=run.log.imported_by
        )
        comparison.groups.create(name="before", position=0)
        device = Device.objects.create(name=f"GPS {number}", kind="receiver", connection="serial", path="/dev/ttyACM0")
        left, right = (
            Recorder.objects.create(name=f"{side} {number}", setup=setup, receiver=device) for side in ("Left", "Right")
        )
        HeadsUp.objects.create(left=left, right=right)
        person = run.log.imported_by
        Recording.objects.create(
            recorder=left,
            name=left.name,
            setup=setup,
            started_by=person,
            began_at=run.start_utc,
            stopped_at=run.start_utc,
        )
        Import.objects.create(
            name="a.nmea", setup=setup, asked={}, sha256="a" * 64, created_by=person, log=run.log, state="done"
        )

    def counted(self, name: str) -> tuple[int, int]:
        """How many rows a list has, and how many queries it took."""
        with CaptureQueriesContext(connection) as queries:
            answer = self.client.get(reverse(f"{name}-list"))
        self.assertEqual(answer.status_code, 200, name)
        return answer.json()["count"], len(queries)

    def test_a_list_takes_no_query_more_for_more_rows(self):
        self.add(1)
        before = {name: self.counted(name) for name in LISTS}
        for number in (2, 3, 4):
            self.add(number)
        for name in LISTS:
            with self.subTest(name):
                rows, queries = self.counted(name)
                self.assertGreaterEqual(rows, before[name][0] + 3)
                self.assertEqual(queries, before[name][1])
