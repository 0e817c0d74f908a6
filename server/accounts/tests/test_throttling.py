"""Guessing is held back, by name and by address, and nobody is kept out by somebody else's guesses."""

from __future__ import annotations

from datetime import timedelta
from unittest import mock

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from rest_framework.test import APIClient

from accounts import throttling
from accounts.models import SecurityEvent
from runs.tests.factories import PASSWORD, UserFactory


class ThrottlingCase(TestCase):
    """Time stands still but for what `later` lets pass."""

    def setUp(self):
        self.instant = timezone.now()
        self.enterContext(mock.patch("django.utils.timezone.now", lambda: self.instant))
        self.person = UserFactory(username="known")

    def attempt(
        self, client: APIClient, name: str = "known", password: str = "wrong", address: str = "192.0.2.7", **more
    ):
        given = {"username": name, "password": password}
        return client.post(reverse("session"), given, REMOTE_ADDR=address, **more)

    def later(self, seconds: float) -> None:
        """Let time pass."""
        self.instant += timedelta(seconds=seconds)


class ByNameTest(ThrottlingCase):
    def test_each_further_failure_makes_the_next_attempt_wait_longer(self):
        waits = []
        for _ in range(6):
            self.assertEqual(self.attempt(APIClient()).status_code, 403)
            answer = self.attempt(APIClient())
            waits.append(int(answer.headers["Retry-After"]) if answer.status_code == 429 else 0)
            if answer.status_code == 403:
                continue
            self.later(waits[-1])
        held = [wait for wait in waits if wait]
        self.assertEqual(held, sorted(held))
        self.assertGreater(held[-1], held[0])

    def test_the_right_password_counts_once_the_wait_is_over_and_not_before(self):
        for _ in range(throttling.FREE_FAILURES):
            self.attempt(APIClient())
        early = self.attempt(APIClient(), password=PASSWORD)
        self.assertEqual((early.status_code, early.json()["code"]), (429, "throttled"))
        self.later(int(early.headers["Retry-After"]))
        self.assertEqual(self.attempt(APIClient(), password=PASSWORD).status_code, 200)

    def test_the_wait_is_a_minute_at_most_and_attempts_that_are_held_back_do_not_lengthen_it(self):
        with mock.patch.object(throttling, "MOST_FAILURES_BY_ADDRESS", 1000):
            for number in range(30):
                self.attempt(APIClient(), address=f"192.0.2.{number}")
                self.later(61)
            self.attempt(APIClient())
            for _ in range(5):
                answer = self.attempt(APIClient())
                self.assertLessEqual(int(answer.headers["Retry-After"]), throttling.LONGEST_HOLD_S + 1)

    def test_a_browser_that_the_person_used_before_is_not_kept_out_by_a_stranger_s_guesses(self):
        own = APIClient()
        self.assertEqual(self.attempt(own, password=PASSWORD).status_code, 200)
        own.delete(reverse("session"))
        for _ in range(10):
            self.attempt(APIClient())  # from the same address
        self.assertEqual(self.attempt(APIClient(), password=PASSWORD).status_code, 429)
        self.assertEqual(self.attempt(own, password=PASSWORD).status_code, 200)

    def test_a_known_browser_does_not_help_with_another_name(self):
        own = APIClient()
        self.attempt(own, password=PASSWORD)
        UserFactory(username="other")
        for _ in range(throttling.FREE_FAILURES):
            self.attempt(own, name="other")
        self.assertEqual(self.attempt(own, name="other").status_code, 429)


class ByAddressTest(ThrottlingCase):
    def test_one_address_that_tries_many_names_is_held_back(self):
        codes = [self.attempt(APIClient(), name=f"name{number}").status_code for number in range(60)]
        self.assertEqual(codes[: throttling.MOST_FAILURES_BY_ADDRESS], [403] * throttling.MOST_FAILURES_BY_ADDRESS)
        self.assertEqual(set(codes[throttling.MOST_FAILURES_BY_ADDRESS :]), {429})
        self.assertEqual(self.attempt(APIClient(), password=PASSWORD, address="192.0.2.8").status_code, 200)

    def test_a_made_up_forwarding_header_is_no_address(self):
        for number in range(60):
            forged = {"HTTP_X_FORWARDED_FOR": f"198.51.100.{number}"}
            answer = self.attempt(APIClient(), name=f"name{number}", **forged)
        self.assertEqual(answer.status_code, 429)
        self.assertEqual(set(SecurityEvent.objects.values_list("address", flat=True)), {"192.0.2.7"})

    def test_failures_are_forgotten_after_a_while(self):
        for number in range(throttling.MOST_FAILURES_BY_ADDRESS):
            self.attempt(APIClient(), name=f"name{number}")
        self.later(throttling.WINDOW.total_seconds() + 1)
        self.assertEqual(self.attempt(APIClient(), password=PASSWORD).status_code, 200)
        self.assertLess(SecurityEvent.objects.earliest("at").at, timezone.now())
