"""What is changed is kept and can be taken back, unless it changed again since."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from django.db.models import Model
from django.urls import reverse
from django.utils import timezone
from rest_framework.test import APITestCase

from accounts.models import Role
from cars.models import Car, ChargePoint, Setup
from courses.models import Course, Station
from history import trash
from history.models import Action, Change, TrashedRow
from runs import resting
from runs.models import Log, Measured, Run, RunTrace
from runs.tests.factories import CourseFactory, RunFactory, SetupFactory, UserFactory


class HistoryTest(APITestCase):
    def setUp(self):
        self.person = UserFactory(username="rowan", role=Role.TESTER)
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def patch(self, row: Model, **values: Any):
        page = reverse(f"{type(row).__name__.lower()}-detail", args=[row.pk])
        row.refresh_from_db()
        return self.client.patch(page, {"revision": row.revision, **values}, format="json")

    def undo(self, action: Action | int | str):
        return self.client.post(reverse("action-undo", args=[getattr(action, "pk", action)]))

    def of(self, row: Model) -> list[dict]:
        return self.client.get(reverse("action-list"), {"of": f"{row._meta.label_lower}:{row.pk}"}).json()["results"]


class ChangeTest(HistoryTest):
    def test_a_change_says_who_what_from_and_what_to_and_can_be_taken_back_and_done_again(self):
        car = SetupFactory(car__test_mass_kg=1800.0, car__name="Larch").car
        answer = self.patch(car, test_mass_kg=1850.5)
        self.assertEqual(answer.status_code, 200)
        (action,) = self.of(car)
        self.assertEqual(answer["Coombe-Action"], str(action["id"]))
        self.assertEqual((action["title"], action["person"], action["may_undo"]), ("Changed car Larch", "rowan", True))
        (change,) = action["changes"]
        self.assertEqual(
            change["fields_changed"],
            [{"name": "test_mass_kg", "old": 1800.0, "new": 1850.5}],
        )
        undone = self.undo(action["id"])
        self.assertEqual((undone.status_code, undone.json()["title"]), (201, "Undo: Changed car Larch"))
        car.refresh_from_db()
        self.assertEqual((car.test_mass_kg, car.revision), (1800.0, 3))
        self.assertEqual(self.undo(undone.json()["id"]).status_code, 201)
        car.refresh_from_db()
        self.assertEqual(car.test_mass_kg, 1850.5)
        self.assertEqual([row["undone"] for row in self.of(car)], [False, True, True])

    def test_nothing_changed_is_no_action(self):
        car = SetupFactory().car
        answer = self.patch(car, name=car.name)
        self.assertNotIn("Coombe-Action", answer)
        self.assertFalse(Action.objects.exists())

    def test_an_action_is_taken_back_once(self):
        car = SetupFactory().car
        number = self.patch(car, notes="x")["Coombe-Action"]
        self.undo(number)
        again = self.undo(number)
        self.assertEqual((again.status_code, again.json()["code"]), (409, "conflict"))

    def test_what_changed_again_since_stays_and_other_fields_do_not_matter(self):
        car = SetupFactory(car__notes="old").car
        number = self.patch(car, notes="new")["Coombe-Action"]
        self.patch(car, maker="Fen")
        self.assertEqual(self.undo(number).status_code, 201)
        number = self.patch(car, notes="newer")["Coombe-Action"]
        self.patch(car, notes="newest")
        refused = self.undo(number)
        self.assertEqual(refused.status_code, 409)
        self.assertIn("was changed again since: notes", refused.json()["detail"])
        car.refresh_from_db()
        self.assertEqual((car.notes, car.maker), ("newest", "Fen"))

    def test_others_do_not_take_it_back_but_administrators_do(self):
        number = self.patch(SetupFactory().car, notes="x")["Coombe-Action"]
        for role, expected in ((Role.TESTER, 403), (Role.READER, 403), (Role.ADMINISTRATOR, 201)):
            self.client.force_login(UserFactory(role=role), backend="django.contrib.auth.backends.ModelBackend")
            self.assertEqual(self.undo(number).status_code, expected, role)

    def test_a_row_that_a_field_refers_to_is_named_as_it_was_called(self):
        run = RunFactory(setup__name="7.1")
        course = CourseFactory(name="Airfield")
        self.client.patch(reverse("run-detail", args=[run.pk]), {"course": course.pk, "revision": 1}, format="json")
        Course.objects.filter(pk=course.pk).update(name="Renamed")
        (action,) = self.of(run)
        (field,) = action["changes"][0]["fields_changed"]
        self.assertEqual((field["old"], field["new"]), ("", str(course)))

    def test_parts_that_are_replaced_come_back(self):
        car = SetupFactory().car
        points = [{"charge_percent": 10.0, "power_kw": 150.0}, {"charge_percent": 80.0, "power_kw": 40.0}]
        self.patch(car, charge_points=points)
        before = list(car.charge_points.values("pk", "charge_percent", "power_kw"))
        changed = self.patch(car, charge_points=[{"charge_percent": 5.0, "power_kw": 99.0}, points[1]])
        self.assertEqual(self.undo(changed["Coombe-Action"]).status_code, 201)
        self.assertEqual(list(car.charge_points.values("pk", "charge_percent", "power_kw")), before)
        self.assertEqual(ChargePoint.objects.count(), 2)

    def test_what_was_added_is_deleted(self):
        made = self.client.post(
            reverse("course-list"),
            {"name": "Airfield", "direction": "out", "heading_deg": 70, "length_m": 900, "runout_m": 300},
            format="json",
        )
        self.assertEqual(made.status_code, 201)
        self.assertEqual(Action.objects.get().title, "Added course Airfield, out")
        self.undo(made["Coombe-Action"])
        self.assertFalse(Course.objects.exists())
        self.undo(Action.objects.latest("pk"))
        self.assertEqual(str(Course.objects.get()), "Airfield, out")

    def test_what_was_added_and_is_used_since_is_not_deleted(self):
        made = self.client.post(reverse("car-list"), {"name": "Larch"}, format="json")
        SetupFactory(car=Car.objects.get())
        refused = self.undo(made["Coombe-Action"])
        self.assertEqual((refused.status_code, refused.json()["code"]), (409, "in_use"))
        self.assertTrue(Car.objects.exists())


class DeletionTest(HistoryTest):
    def rows(self) -> list[str]:
        """Every row of the log's tables, as text."""
        tables = (Log, Run, RunTrace, Measured)
        return [str(list(table.objects.order_by("pk").values())) for table in tables]

    def driven(self) -> Log:
        run = RunFactory(
            log__imported_by=self.person, sixty_s=4.0, start_utc=datetime(2026, 5, 9, 9, 0, 1, 123456, UTC)
        )
        RunTrace.objects.create(run=run, fixes=b"\x00\xff", curve=b"PAR1")
        return run.log

    def test_a_log_goes_with_its_runs_and_comes_back_as_it_was(self):
        log = self.driven()
        run = log.runs.get()
        resting.settle(run)
        before = self.rows()
        gone = self.client.delete(reverse("log-detail", args=[log.pk]))
        self.assertEqual(gone.status_code, 204)
        self.assertFalse(Run.objects.exists() or Measured.objects.exists() or RunTrace.objects.exists())
        (action,) = self.of(run)  # the history outlives the run
        self.assertEqual([change["kind"] for change in action["changes"]], ["deleted"])
        self.assertEqual(self.undo(gone["Coombe-Action"]).status_code, 201)
        self.assertEqual(self.rows(), before)
        self.assertFalse(TrashedRow.objects.exists())

    def test_the_trash_is_emptied_after_thirty_days(self):
        gone = self.client.delete(reverse("log-detail", args=[self.driven().pk]))
        self.assertEqual(trash.empty(), 0)
        Action.objects.update(done_at=timezone.now() - timedelta(days=31))
        self.assertGreater(trash.empty(), 3)
        refused = self.undo(gone["Coombe-Action"])
        self.assertIn("no longer in the trash", refused.json()["detail"])

    def test_what_stands_in_its_place_by_now_keeps_it_out(self):
        log = self.driven()
        gone = self.client.delete(reverse("log-detail", args=[log.pk]))
        RunFactory(log__sha256=log.sha256)
        refused = self.undo(gone["Coombe-Action"])
        self.assertEqual(refused.status_code, 409)
        self.assertIn("Something else stands in its place", refused.json()["detail"])
        self.assertEqual(Log.objects.count(), 1)
        self.assertTrue(TrashedRow.objects.exists())

    def test_what_others_use_is_not_deleted_and_nothing_is_in_the_trash(self):
        setup = RunFactory(setup__car__name="Larch").setup
        refused = self.client.delete(reverse("setup-detail", args=[setup.pk]))
        self.assertIn(refused.status_code, (403, 409))
        self.client.force_login(
            UserFactory(role=Role.ADMINISTRATOR), backend="django.contrib.auth.backends.ModelBackend"
        )
        refused = self.client.delete(reverse("setup-detail", args=[setup.pk]))
        self.assertEqual(refused.json()["code"], "in_use")
        self.assertTrue(Setup.objects.exists())
        self.assertFalse(TrashedRow.objects.exists() or Action.objects.exists())

    def test_a_course_comes_back_with_its_profile(self):
        self.client.force_login(
            UserFactory(role=Role.ADMINISTRATOR), backend="django.contrib.auth.backends.ModelBackend"
        )
        course = CourseFactory()
        Station.objects.bulk_create(Station(course=course, distance_m=at, elevation_m=at / 100) for at in (0, 50, 100))
        gone = self.client.delete(reverse("course-detail", args=[course.pk]))
        self.assertEqual(Change.objects.filter(kind="deleted").count(), 4)
        self.undo(gone["Coombe-Action"])
        self.assertEqual([row.distance_m for row in Course.objects.get().stations.all()], [0, 50, 100])
