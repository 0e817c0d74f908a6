"""Links that work once: who makes them, what they open, and when they open nothing."""

from __future__ import annotations

from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from rest_framework.test import APIClient

from accounts.models import AccountLink, BrowserSession, Role, SecurityEvent, User
from runs.tests.factories import PASSWORD, UserFactory

BACKEND = "django.contrib.auth.backends.ModelBackend"
CHOSEN = "another-long-one"


def client_of(person: User) -> APIClient:
    client = APIClient()
    client.force_login(person, backend=BACKEND)
    return client


def logs_in(username: str, password: str) -> bool:
    given = {"username": username, "password": password}
    return APIClient().post(reverse("session"), given).status_code == 200


class InvitationTest(TestCase):
    def setUp(self):
        self.admin = client_of(UserFactory(role=Role.ADMINISTRATOR))
        self.stranger = APIClient()

    def invited(self, **values) -> str:
        answer = self.admin.post(reverse("invitation-list"), {"role": "tester"} | values)
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()["secret"]

    def use(self, secret: str, **values):
        return self.stranger.post(
            reverse("link-use"), {"secret": secret, "username": "ada", "password": CHOSEN} | values
        )

    def test_an_invited_person_makes_an_account_in_the_role_and_logs_in(self):
        secret = self.invited()
        look = self.stranger.post(reverse("link"), {"secret": secret}).json()
        self.assertEqual((look["role"], look["person"]), ("tester", None))
        self.assertEqual(self.use(secret).status_code, 204)
        self.assertEqual(User.objects.get(username="ada").role, Role.TESTER)
        self.assertTrue(logs_in("ada", CHOSEN))

    def test_it_works_once(self):
        secret = self.invited()
        self.use(secret)
        again = self.use(secret, username="ben")
        self.assertEqual(again.status_code, 400)
        self.assertIn("Ask an administrator for another one", again.json()["detail"])
        self.assertFalse(User.objects.filter(username="ben").exists())

    def test_a_role_can_t_be_chosen_by_whoever_is_invited(self):
        self.use(self.invited(), role="administrator")
        self.assertEqual(User.objects.get(username="ada").role, Role.TESTER)

    def test_one_that_ran_out_or_was_taken_back_or_guessed_opens_nothing(self):
        old, back = self.invited(), self.invited()
        AccountLink.objects.order_by("pk").update(ends_at=timezone.now() - timedelta(seconds=1))
        row = self.admin.get(reverse("invitation-list")).json()
        self.assertEqual(row["results"], [])
        fresh = self.invited()
        self.admin.delete(reverse("invitation-detail", args=[AccountLink.objects.latest("pk").pk]))
        for secret in (old, back, fresh, "guessed", ""):
            self.assertEqual(self.use(secret).status_code, 400, secret)
        self.assertFalse(User.objects.filter(username="ada").exists())

    def test_a_weak_password_or_a_taken_name_leaves_the_link_as_it_is(self):
        UserFactory(username="Ada")
        secret = self.invited()
        self.assertIn("password", self.use(secret, username="ben", password="short").json()["errors"])
        self.assertIn("username", self.use(secret).json()["errors"])
        self.assertIn("username", self.use(secret, username="").json()["errors"])
        self.assertIn("username", self.use(secret, username="a b").json()["errors"])
        self.assertEqual(self.use(secret, username="ben").status_code, 204)

    def test_the_secret_is_kept_nowhere(self):
        secret = self.invited()
        self.assertNotIn(secret, str(list(AccountLink.objects.values())) + str(list(SecurityEvent.objects.values())))

    def test_forged_requests_are_refused(self):
        secret = self.invited()
        strict = APIClient(enforce_csrf_checks=True)
        self.assertEqual(strict.post(reverse("link-use"), {"secret": secret}).status_code, 403)


class PasswordLinkTest(TestCase):
    def setUp(self):
        self.boss = UserFactory(role=Role.ADMINISTRATOR)
        self.admin, self.person = client_of(self.boss), UserFactory(username="ada")

    def renewed(self) -> str:
        return self.admin.post(reverse("person-password-link", args=[self.person.pk])).json()["secret"]

    def test_it_sets_the_password_and_logs_the_person_out_everywhere(self):
        before = client_of(self.person)
        given = {"secret": self.renewed(), "password": CHOSEN, "username": "somebody else"}
        self.assertEqual(APIClient().post(reverse("link-use"), given).status_code, 204)
        self.assertTrue(logs_in("ada", CHOSEN))
        self.assertFalse(logs_in("ada", PASSWORD))
        self.assertEqual(before.get(reverse("car-list")).status_code, 401)

    def test_a_newer_one_takes_the_place_of_the_older(self):
        older = self.renewed()
        self.renewed()
        self.assertEqual(APIClient().post(reverse("link"), {"secret": older}).status_code, 400)

    def test_it_opens_nothing_where_the_account_was_closed_meanwhile(self):
        secret = self.renewed()
        self.admin.patch(reverse("person-detail", args=[self.person.pk]), {"is_active": False})
        self.assertEqual(APIClient().post(reverse("link"), {"secret": secret}).status_code, 400)


class PeopleTest(TestCase):
    def setUp(self):
        self.boss = UserFactory(role=Role.ADMINISTRATOR)
        self.admin, self.person = client_of(self.boss), UserFactory(username="ada")

    def change(self, person: User, **values):
        return self.admin.patch(reverse("person-detail", args=[person.pk]), values)

    def test_a_role_is_changed_and_noted(self):
        self.assertEqual(self.change(self.person, role="administrator").status_code, 200)
        self.person.refresh_from_db()
        self.assertTrue(self.person.is_superuser)
        self.assertEqual(SecurityEvent.objects.latest("pk").detail, "ada: role administrator")

    def test_closing_an_account_ends_its_sessions(self):
        client = client_of(self.person)
        self.change(self.person, is_active=False)
        self.assertEqual(client.get(reverse("car-list")).status_code, 401)
        self.assertFalse(BrowserSession.objects.filter(person=self.person).exists())

    def test_nobody_takes_their_own_role_or_account_away(self):
        for values in ({"role": "reader"}, {"is_active": False}):
            self.assertEqual(self.change(self.boss, **values).status_code, 400)
        self.assertEqual(self.change(self.boss, email="boss@example.org").status_code, 200)

    def test_names_stay_as_they_are(self):
        self.change(self.person, username="eve")
        self.person.refresh_from_db()
        self.assertEqual(self.person.username, "ada")

    def test_the_list_says_how_each_logs_in(self):
        client_of(self.person), client_of(self.person)
        row = next(row for row in self.admin.get(reverse("person-list")).json()["results"] if row["username"] == "ada")
        self.assertEqual((row["browsers"], row["second_factor"], row["elsewhere"]), (2, False, False))

    def test_somebody_is_logged_out_everywhere(self):
        client = client_of(self.person)
        self.admin.post(reverse("person-end-sessions", args=[self.person.pk]))
        self.assertEqual(client.get(reverse("car-list")).status_code, 401)
