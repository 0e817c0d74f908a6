"""Two people who edit the same thing: nobody's change is lost without a word."""

from __future__ import annotations

import threading

from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from cars.models import Car, ManufacturerClaim
from days.models import ChecklistItem, ScheduledRun
from days.services import append, lay_out, repeat
from plans.models import Group, Plan
from plans.tests.asking import FIRST, STATE, PlanTest
from recording.models import Device, Recorder
from runs.tests.factories import CarFactory, CourseFactory, RunFactory, SetupFactory, UserFactory


def client_of(person) -> APIClient:
    client = APIClient()
    client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
    return client


class StaleWriteTest(PlanTest):
    """Every kind of row that two people can edit."""

    def rows(self) -> dict[str, tuple[int, str, object]]:
        car, course = CarFactory(), CourseFactory()
        setup = SetupFactory(car=car)
        plan = self.plan()
        day = self.day(plan)
        return {
            "car": (car.pk, "notes", "mine"),
            "setup": (setup.pk, "change_note", "mine"),
            "manufacturer-claim": (
                ManufacturerClaim.objects.create(car=car, measure="0-60 mph", value_s=4, source="ad").pk,
                "source",
                "mine",
            ),
            "course": (course.pk, "access", "mine"),
            "plan": (plan["id"], "question", "mine?"),
            "test-day": (day["id"], "notes", "mine"),
            "scheduled-run": (ScheduledRun.objects.first().pk, "note", "mine"),
            "checklist-item": (ChecklistItem.objects.first().pk, "text", "mine"),
            "recorder": (Recorder.objects.create(name="One", setup=setup).pk, "name", "Mine"),
            "device": (
                Device.objects.create(name="One", kind="receiver", connection="serial", path="/dev/ttyACM0").pk,
                "name",
                "Mine",
            ),
        }

    def test_a_stale_write_is_refused_with_how_the_thing_stands_now(self):
        client = client_of(UserFactory(role=Role.ADMINISTRATOR))
        for kind, (pk, field, value) in self.rows().items():
            with self.subTest(kind):
                page = reverse(f"{kind}-detail", args=[pk])
                self.assertEqual(client.patch(page, {field: "theirs?", "revision": 1}).status_code, 200)
                refused = client.patch(page, {field: value, "revision": 1})
                self.assertEqual((refused.status_code, refused.json()["code"]), (409, "conflict"))
                self.assertEqual(refused.json()["current"][field], "theirs?")
                self.assertEqual(client.patch(page, {field: value, "revision": 2}).json()[field], value)

    def test_a_change_without_a_revision_is_refused(self):
        client = client_of(UserFactory(role=Role.ADMINISTRATOR))
        for kind, (pk, field, value) in self.rows().items():
            answer = client.patch(reverse(f"{kind}-detail", args=[pk]), {field: value})
            self.assertEqual((answer.status_code, list(answer.json()["errors"])), (400, ["revision"]), kind)


class RunStaleWriteTest(TestCase):
    def test_a_refused_change_of_a_run_says_what_somebody_else_wrote(self):
        run, client = RunFactory(), client_of(UserFactory())
        page = reverse("run-detail", args=[run.pk])
        client.patch(page, {"revision": 1, "charge_before_percent": 91})
        refused = client.patch(page, {"revision": 1, "charge_before_percent": 90})
        self.assertEqual(refused.status_code, 409)
        self.assertEqual(refused.json()["current"], {"revision": 2, "charge_before_percent": 91.0})


class AtOnceTest(TransactionTestCase):
    """Threads with connections of their own, as two people have."""

    def together(self, *acts) -> list:
        """Do things at the same moment; what each gave."""
        gate, given = threading.Barrier(len(acts)), [None] * len(acts)

        def act(place: int) -> None:
            try:
                gate.wait()
                given[place] = acts[place]()
            finally:
                connection.close()

        threads = [threading.Thread(target=act, args=(place,)) for place in range(len(acts))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return given

    def test_of_pairs_of_edits_of_different_fields_none_is_lost(self):
        people = [client_of(UserFactory()) for _ in range(2)]
        for number in range(20):
            car = Car.objects.create(name=f"Car {number}")
            page = reverse("car-detail", args=[car.pk])
            changes = ({"notes": "mine", "revision": 1}, {"maker": "Theirs", "revision": 1})
            acts = [
                lambda person=person, change=change, page=page: person.patch(page, change).status_code
                for person, change in zip(people, changes, strict=True)
            ]
            codes = self.together(*acts)
            self.assertEqual(sorted(codes), [200, 409])
            car.refresh_from_db()
            self.assertEqual((car.notes, car.maker), ("mine", "") if codes[0] == 200 else ("", "Theirs"))

    def test_runs_appended_and_repeated_at_once_have_places_of_their_own(self):
        plan = Plan.objects.create(
            car=CarFactory(power_kw=250),
            course=CourseFactory(),
            question="Which?",
            created_by=UserFactory(),
            runs_per_group=2,
        )
        group = Group.objects.create(plan=plan, name="before", position=0)
        Group.objects.create(plan=plan, name="after", position=1)
        day = lay_out(plan, {"first_run_at": FIRST, "known_at": FIRST, **STATE})
        first = day.scheduled_runs.first()

        def more() -> None:
            append(day, ScheduledRun(group=group))

        for _ in range(5):
            self.together(more, more, lambda: repeat(first), lambda: repeat(first))
        positions = list(day.scheduled_runs.values_list("position", flat=True))
        self.assertEqual((len(positions), positions), (24, sorted(set(positions))))


class NewTest(TestCase):
    def test_a_new_thing_is_at_its_first_revision_whatever_was_sent(self):
        made = client_of(UserFactory()).post(reverse("car-list"), {"name": "New", "revision": 99}).json()
        self.assertEqual(made["revision"], 1)
