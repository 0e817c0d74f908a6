"""Who may do what, for every operation of the API: one table, and a test that knows none that it lacks."""

from __future__ import annotations

import json
from datetime import UTC, date, datetime

from django.conf import settings
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role, User
from comparisons.models import Comparison
from days.models import TestDay
from plans.models import Plan
from recording.models import Recorder, Recording
from runs.models import Attachment
from runs.tests.factories import CarFactory, CourseFactory, LogFactory, RunFactory, SetupFactory, UserFactory

ANYBODY, READER, TESTER, ADMINISTRATOR = range(4)
PEOPLE = {READER: Role.READER, TESTER: Role.TESTER, ADMINISTRATOR: Role.ADMINISTRATOR}
BY_METHOD = {"get": READER, "post": TESTER, "put": TESTER, "patch": TESTER, "delete": TESTER}
# What differs from its method: who it takes at least. What others made takes an administrator besides (below).
EXCEPTIONS = {
    "session_read": ANYBODY,
    "session_create": ANYBODY,
    "session_delete": ANYBODY,
    "password_change": READER,
    "own_browser_end": READER,
    "own_second_factor_begin": READER,
    "own_second_factor_confirm": READER,
    "own_second_factor_off": READER,
    "session_link_look": ANYBODY,
    "session_link_use": ANYBODY,
    "people_list": ADMINISTRATOR,
    "people_partial_update": ADMINISTRATOR,
    "people_password_link_create": ADMINISTRATOR,
    "people_end_sessions_create": ADMINISTRATOR,
    "people_second_factor_off_create": ADMINISTRATOR,
    "invitations_list": ADMINISTRATOR,
    "invitations_create": ADMINISTRATOR,
    "invitations_destroy": ADMINISTRATOR,
    "comparisons_preview_create": READER,
    "comparisons_details_create": READER,
    "plans_advice_create": READER,
    "tokens_create": READER,
    "tokens_destroy": READER,
    "sharing_update": ADMINISTRATOR,
    "webhooks_list": ADMINISTRATOR,
    "webhooks_create": ADMINISTRATOR,
    "webhooks_destroy": ADMINISTRATOR,
    "webhook_deliveries_again_create": ADMINISTRATOR,
    "devices_create": ADMINISTRATOR,
    "devices_update": ADMINISTRATOR,
    "devices_partial_update": ADMINISTRATOR,
    "devices_destroy": ADMINISTRATOR,
}


def operations() -> list[tuple[str, str, str]]:
    """Every operation of the schema: its name, method and path."""
    schema = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
    return [
        (operation["operationId"], method, path)
        for path, methods in schema["paths"].items()
        for method, operation in methods.items()
    ]


class RoleTableTest(TestCase):
    def client_of(self, who: int) -> APIClient:
        client = APIClient()
        if who != ANYBODY:
            client.force_login(UserFactory(role=PEOPLE[who]), backend="django.contrib.auth.backends.ModelBackend")
        return client

    def test_every_operation_takes_the_role_that_the_table_names_and_no_less(self):
        clients = {who: self.client_of(who) for who in range(4)}
        for name, method, path in operations():
            least = EXCEPTIONS.get(name, BY_METHOD[method])
            address = path.replace("{file_format}", "csv").replace("{kind}", "pdf").replace("{place}", "0")
            for field in ("{id}", "{run}", "{mark}"):
                address = address.replace(field, "999999")  # nothing is there, which shows only to whoever may look
            for who, client in clients.items():
                if name.startswith("session_"):
                    client = self.client_of(who)  # these change who is logged in
                answer = getattr(client, method)(address, {})
                refused = answer.status_code in (401, 403) and answer.json()["code"] != "authentication_failed"
                with self.subTest(name, who=who):
                    self.assertEqual(refused, who < least, answer.content[:200])
                    self.assertLess(answer.status_code, 500)

    def test_the_table_names_no_operation_that_is_gone(self):
        self.assertLessEqual(set(EXCEPTIONS), {name for name, _, _ in operations()})

    def test_the_live_stream_takes_a_log_in(self):
        self.assertEqual(APIClient().get(reverse("live", args=[1])).status_code, 401)


class DeletingTest(TestCase):
    """What a tester made they delete; what others made, or nobody in particular, takes an administrator."""

    @classmethod
    def setUpTestData(cls):
        cls.maker = UserFactory()
        cls.other, cls.admin = UserFactory(), UserFactory(role=Role.ADMINISTRATOR)

    def delete(self, person: User, kind: str, pk: int) -> int:
        client = APIClient()
        client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        return client.delete(reverse(f"{kind}-detail", args=[pk])).status_code

    def made(self) -> dict[str, int]:
        plan = Plan.objects.create(car=CarFactory(), course=CourseFactory(), question="?", created_by=self.maker)
        now = datetime.now(UTC)
        state = {"charge_percent": 90, "battery_temp_c": 30, "outside_temp_c": 10}
        day = TestDay.objects.create(plan=plan, part=0, first_run_at=now, known_at=now, **state)
        comparison = Comparison.objects.create(title="?", measure="0-60 mph", clock="rollout", created_by=self.maker)
        attachment = Attachment.objects.create(
            run=RunFactory(), name="a.png", sha256="a" * 64, size_bytes=1, media_type="image/png", added_by=self.maker
        )
        return {
            "test-day": day.pk,
            "plan": plan.pk,
            "comparison": comparison.pk,
            "log": LogFactory(imported_by=self.maker).pk,
            "attachment": attachment.pk,
        }

    def test_the_maker_deletes_what_they_made(self):
        for kind, pk in self.made().items():
            self.assertEqual(self.delete(self.other, kind, pk), 403, kind)
            self.assertEqual(self.delete(self.maker, kind, pk), 204, kind)

    def test_an_administrator_deletes_what_others_made(self):
        for kind, pk in self.made().items():
            self.assertEqual(self.delete(self.admin, kind, pk), 204, kind)

    def test_what_nobody_in_particular_made_takes_an_administrator(self):
        setup = SetupFactory()
        rows = {"setup": setup.pk, "car": CarFactory().pk, "course": CourseFactory().pk}
        for kind, pk in rows.items():
            self.assertEqual(self.delete(self.maker, kind, pk), 403, kind)
            self.assertEqual(self.delete(self.admin, kind, pk), 204, kind)

    def test_what_other_things_rest_on_is_not_deleted_and_the_answer_says_which(self):
        run = RunFactory()
        client = APIClient()
        client.force_login(self.admin, backend="django.contrib.auth.backends.ModelBackend")
        answer = client.delete(reverse("setup-detail", args=[run.setup_id]))
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "in_use"))
        self.assertIn("1 run", answer.json()["detail"])
        self.assertEqual(self.delete(self.admin, "car", run.setup.car_id), 409)

    def test_a_plan_whose_days_have_runs_is_deleted_with_its_days_or_says_why_not(self):
        from days.services import lay_out
        from plans.models import Group
        from plans.tests.asking import FIRST, STATE

        car = CarFactory(power_kw=250)
        plan = Plan.objects.create(car=car, course=CourseFactory(), question="?", created_by=self.maker)
        for position, name in enumerate(("a", "b")):
            Group.objects.create(plan=plan, name=name, position=position)
        lay_out(plan, {"first_run_at": FIRST, "known_at": FIRST, **STATE})
        self.assertEqual(self.delete(self.maker, "plan", plan.pk), 204)
        self.assertFalse(TestDay.objects.exists())

    def test_a_recording_is_given_up_by_who_started_it(self):
        recorder = Recorder.objects.create(name="One", setup=SetupFactory(since=date(2026, 1, 1)))
        facts = {"recorder": recorder, "began_at": datetime.now(UTC), "stopped_at": datetime.now(UTC)}
        recording = Recording.objects.create(started_by=self.maker, **facts)
        self.assertEqual(self.delete(self.other, "recording", recording.pk), 403)


class MarksTest(TestCase):
    def test_django_s_marks_follow_the_role_however_it_changes(self):
        person = UserFactory(role=Role.ADMINISTRATOR)
        self.assertTrue(person.is_staff and person.is_superuser)
        person.role = Role.READER
        person.save(update_fields=["role"])
        person.refresh_from_db()
        self.assertFalse(person.is_staff or person.is_superuser)

    def test_the_database_refuses_marks_without_the_role(self):
        from django.db import IntegrityError

        person = UserFactory()
        with self.assertRaises(IntegrityError):
            User.objects.filter(pk=person.pk).update(is_superuser=True)

    def test_an_administrator_who_became_a_reader_loses_the_admin_site(self):
        person = UserFactory(role=Role.ADMINISTRATOR)
        client = APIClient()
        client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(client.get("/admin/").status_code, 200)
        person.role = Role.READER
        person.save()
        self.assertEqual(client.get("/admin/").status_code, 302)

    def test_runs_and_recordings_are_read_only_in_the_admin_site(self):
        client = APIClient()
        client.force_login(UserFactory(role=Role.ADMINISTRATOR), backend="django.contrib.auth.backends.ModelBackend")
        run = RunFactory()
        page = f"/admin/runs/run/{run.pk}/change/"
        self.assertEqual(client.get(page).status_code, 200)
        self.assertEqual(client.post(page, {"notes": "x"}).status_code, 403)
        self.assertEqual(client.post(f"/admin/runs/run/{run.pk}/delete/", {"post": "yes"}).status_code, 403)
