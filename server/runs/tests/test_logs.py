"""Logs over the API after their import, and who may delete them."""

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from runs.models import Log, Run
from runs.services import import_log
from runs.tests.factories import SetUpFactory, UserFactory
from runs.tests.test_import import log_bytes


class LogTest(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.tester, cls.admin = UserFactory(), UserFactory(role=Role.ADMINISTRATOR)
        cls.log = import_log("day.nmea", log_bytes(), SetUpFactory(), cls.tester, {}).log

    def client_of(self, person):
        client = APIClient()
        client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        return client

    def test_a_log_tells_its_source_and_its_runs_in_the_order_of_time(self):
        data = self.client_of(self.tester).get(reverse("log-detail", args=[self.log.pk])).json()
        self.assertEqual((data["name"], data["format"]), ("day.nmea", "nmea"))
        self.assertAlmostEqual(data["rate_hz"], 25.0)
        self.assertEqual(data["imported_by"], self.tester.username)
        starts = [Run.objects.get(pk=pk).start_s for pk in data["run_ids"]]
        self.assertEqual(starts, sorted(starts))

    def test_deleting_a_log_takes_its_runs_and_needs_who_imported_it_or_an_administrator(self):
        address = reverse("log-detail", args=[self.log.pk])
        self.assertEqual(self.client_of(UserFactory()).delete(address).status_code, 403)
        self.assertEqual(self.client_of(self.admin).delete(address).status_code, 204)
        self.assertFalse(Log.objects.exists() or Run.objects.exists())

    def test_a_page_holds_at_most_five_hundred(self):
        data = self.client_of(self.tester).get(reverse("run-list"), {"page_size": 100_000}).json()
        self.assertEqual((data["count"], len(data["results"])), (2, 2))

    def test_a_run_keeps_what_the_core_said_of_it(self):
        run = Run.objects.get(kind="standing")
        row = run.measured.get(name="1/4 mile", clock="rollout")
        core = row.to_core()
        self.assertEqual((core.time_s.value, core.time_s.u95), (row.time_s, row.time_u95_s))
        self.assertIsNone(core.onset_distance_m)
        split = run.split_rows.filter(unit="mph", speed=60).get().to_core()
        sixty = run.measured.get(name="0-60 mph", clock="rollout")
        self.assertAlmostEqual(split.rollout_s.value, sixty.time_s, 9)
        self.assertAlmostEqual(run.heading_deg % 360, 0, delta=2)


class PagesTest(TestCase):
    def test_every_address_of_the_web_application_is_answered_with_it(self):
        for address in ("/", "/runs/7", "/compare/new?measure=0-60+mph"):
            answer = self.client.get(address)
            self.assertContains(answer, '<div id="root">')
            self.assertIn("script-src 'self'", answer.headers["Content-Security-Policy"])

    def test_an_unknown_address_of_the_api_is_not(self):
        self.assertEqual(self.client.get("/api/nothing/").status_code, 404)

    def test_the_page_itself_has_no_inline_script(self):
        text = self.client.get("/").content.decode()
        self.assertNotRegex(text, r"<script(?![^>]*\bsrc=)")
