"""The second factor: when it is asked for, which codes fit, and the way in without the phone."""

from __future__ import annotations

from unittest import mock

from django.test import TestCase
from django.urls import reverse
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice
from rest_framework.test import APIClient

from accounts import second_factor
from accounts.models import Role
from accounts.tests.test_links import client_of
from runs.tests.factories import PASSWORD, UserFactory

# RFC 6238, appendix B: the last six digits at these seconds, SHA-1.
RFC_KEY = b"12345678901234567890"
RFC_CODES = {59: "287082", 1111111109: "081804", 1234567890: "005924", 2000000000: "279037"}


class StandardTest(TestCase):
    def test_codes_are_those_of_the_standard(self):
        for second, code in RFC_CODES.items():
            device = TOTPDevice.objects.create(user=UserFactory(), key=RFC_KEY.hex(), confirmed=True)
            with mock.patch("django_otp.plugins.otp_totp.models.time.time", return_value=second):
                self.assertTrue(second_factor.fits(device.user, code), second)
                self.assertFalse(second_factor.fits(device.user, code), "a second time")

    def test_a_code_of_a_minute_ago_does_not_fit(self):
        device = TOTPDevice.objects.create(user=UserFactory(), key=RFC_KEY.hex(), confirmed=True)
        with mock.patch("django_otp.plugins.otp_totp.models.time.time", return_value=59 + 61):
            self.assertFalse(second_factor.fits(device.user, RFC_CODES[59]))


class SecondFactorTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.client = client_of(self.person)

    def turn_on(self) -> list[str]:
        begun = self.client.post(reverse("second-factor")).json()
        self.assertIn(begun["secret"], begun["address"])
        self.assertTrue(begun["picture"].startswith("data:image/svg+xml"))
        answer = self.client.post(reverse("second-factor-confirm"), {"code": self.code()})
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()["recovery_codes"]

    def code(self) -> str:
        """As the app shows it."""
        return f"{totp(TOTPDevice.objects.get(user=self.person).bin_key):06}"

    def log_in(self, code: str = "", password: str = PASSWORD):
        given = {"username": self.person.username, "password": password, "code": code}
        return APIClient().post(reverse("session"), given)

    def test_it_counts_only_once_a_code_has_confirmed_it(self):
        self.client.post(reverse("second-factor"))
        self.assertEqual(self.log_in().status_code, 200)
        wrong = self.client.post(reverse("second-factor-confirm"), {"code": "000000"})
        self.assertIn("code", wrong.json()["errors"])
        self.assertEqual(self.client.get(reverse("second-factor")).json()["on"], False)

    def test_then_the_password_is_not_enough(self):
        self.turn_on()
        asked = self.log_in()
        self.assertEqual((asked.status_code, asked.json()["code"]), (403, "second_factor"))
        self.assertEqual(self.log_in("000000").json()["code"], "authentication_failed")

    def test_a_wrong_password_does_not_tell_that_there_is_one(self):
        self.turn_on()
        self.assertEqual(self.log_in(password="wrong").json()["detail"], "Name or password is wrong.")

    def test_a_recovery_code_takes_the_app_s_place_once_however_it_is_typed(self):
        codes = self.turn_on()
        typed = f"{codes[0][:5]}-{codes[0][5:]}".upper()
        self.assertEqual(self.log_in(typed).status_code, 200)
        self.assertEqual(self.client.get(reverse("second-factor")).json()["recovery_codes_left"], 9)
        self.assertEqual(self.log_in(typed).status_code, 403)

    def test_wrong_codes_are_held_back_like_wrong_passwords(self):
        self.turn_on()
        for _ in range(4):
            self.log_in("000000")
        self.assertEqual(self.log_in(self.code()).status_code, 429)

    def test_it_is_turned_off_with_the_password(self):
        self.turn_on()
        self.assertEqual(self.client.post(reverse("second-factor-off"), {"current": "wrong"}).status_code, 400)
        self.assertEqual(self.client.post(reverse("second-factor-off"), {"current": PASSWORD}).status_code, 204)
        self.assertEqual(self.log_in().status_code, 200)

    def test_another_secret_can_t_replace_one_that_is_on(self):
        self.turn_on()
        self.assertEqual(self.client.post(reverse("second-factor")).status_code, 400)

    def test_an_administrator_helps_whoever_lost_the_phone(self):
        self.turn_on()
        admin = client_of(UserFactory(role=Role.ADMINISTRATOR))
        row = next(row for row in admin.get(reverse("person-list")).json()["results"] if row["id"] == self.person.pk)
        self.assertTrue(row["second_factor"])
        admin.post(reverse("person-second-factor-off", args=[self.person.pk]))
        self.assertEqual(self.log_in().status_code, 200)

    def test_the_admin_site_has_no_log_in_of_its_own_that_asks_for_less(self):
        answer = APIClient().get("/admin/login/")
        self.assertEqual((answer.status_code, answer.headers["Location"]), (302, "/"))
