"""Where a person is logged in: shown to them, and ended by them."""

from __future__ import annotations

from datetime import timedelta
from unittest import mock

from django.db import OperationalError
from django.test import RequestFactory, TestCase
from django.urls import reverse
from django.utils import timezone
from rest_framework.test import APIClient

from accounts.models import BrowserSession
from accounts.sessions import SEEN_EVERY_S, SeenMiddleware, SessionStore
from runs.tests.factories import PASSWORD, UserFactory


class BrowsersTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.phone, self.laptop = self.logged_in("a phone", "192.0.2.7"), self.logged_in("a laptop", "192.0.2.8")

    def logged_in(self, browser: str, address: str) -> APIClient:
        client = APIClient(HTTP_USER_AGENT=browser, REMOTE_ADDR=address)
        client.post(reverse("session"), {"username": self.person.username, "password": PASSWORD})
        return client

    def listed(self, client: APIClient) -> list[dict]:
        return client.get(reverse("browsers")).json()

    def test_each_is_shown_with_where_from_and_which_is_this_one(self):
        rows = {(row["browser"], row["address"], row["here"]) for row in self.listed(self.laptop)}
        self.assertEqual(rows, {("a phone", "192.0.2.7", False), ("a laptop", "192.0.2.8", True)})

    def test_one_is_ended_from_another(self):
        mark = next(row["id"] for row in self.listed(self.laptop) if not row["here"])
        self.assertEqual(self.laptop.delete(reverse("browser", args=[mark])).status_code, 204)
        self.assertEqual(self.phone.get(reverse("car-list")).status_code, 401)
        self.assertEqual(len(self.listed(self.laptop)), 1)
        self.assertEqual(self.laptop.delete(reverse("browser", args=[mark])).status_code, 404)

    def test_nobody_sees_or_ends_those_of_others(self):
        other = APIClient()
        other.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        mark = self.listed(self.laptop)[0]["id"]
        self.assertEqual(other.delete(reverse("browser", args=[mark])).status_code, 404)
        self.assertEqual(len(self.listed(self.laptop)), 2)

    def test_what_is_shown_does_not_open_a_session(self):
        keys = set(BrowserSession.objects.values_list("session_key", flat=True))
        self.assertFalse(keys & {row["id"] for row in self.listed(self.laptop)})

    def test_a_new_password_ends_the_others_and_keeps_where_this_one_began(self):
        begun = next(row["begun_at"] for row in self.listed(self.laptop) if row["here"])
        self.laptop.post(reverse("password"), {"current": PASSWORD, "new": "another-long-one"})
        rows = self.listed(self.laptop)
        self.assertEqual([(row["browser"], row["here"]) for row in rows], [("a laptop", True)])
        self.assertEqual(rows[0]["begun_at"], begun)

    def test_one_that_has_run_out_is_not_shown_and_gone_at_the_next_log_in(self):
        BrowserSession.objects.filter(browser="a phone").update(expire_date=timezone.now() - timedelta(days=1))
        self.assertEqual([row["browser"] for row in self.listed(self.laptop)], ["a laptop"])
        self.logged_in("a tablet", "192.0.2.9")
        self.assertFalse(BrowserSession.objects.filter(browser="a phone").exists())

    def test_an_answer_does_not_fail_where_that_can_t_be_kept(self):
        away = OperationalError(1047, "WSREP has not yet prepared node for application use")
        for what in ("filter", "get"):  # keeping it, and reading the session for it
            request = RequestFactory().get("/")
            request.session = SessionStore(BrowserSession.objects.get(browser="a phone").session_key)
            request.session.accessed = True
            with mock.patch(f"accounts.sessions.BrowserSession.objects.{what}", side_effect=away):
                self.assertEqual(SeenMiddleware(lambda request: "the answer")(request), "the answer")

    def test_when_one_was_seen_is_kept_to_a_few_minutes(self):
        row = BrowserSession.objects.get(browser="a phone")
        seen = SeenMiddleware(lambda request: None)
        seen._keep(row.session_key)
        first = BrowserSession.objects.get(pk=row.pk).seen_at
        seen._keep(row.session_key)
        self.assertEqual(BrowserSession.objects.get(pk=row.pk).seen_at, first)
        seen._kept_at_s[row.session_key] -= SEEN_EVERY_S
        seen._keep(row.session_key)
        self.assertGreater(BrowserSession.objects.get(pk=row.pk).seen_at, first)
