"""Access tokens: made once, kept as a hash, never more than their owner, gone when revoked."""

from __future__ import annotations

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import AccessToken, Role, SecurityEvent, User
from cars.models import Car
from runs.tests.factories import CarFactory, UserFactory


class TokenTest(TestCase):
    def setUp(self):
        self.person: User = UserFactory(role=Role.TESTER)
        self.browser = APIClient()
        self.browser.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def made(self, role: str = Role.TESTER, status: int = 201) -> dict:
        answer = self.browser.post(reverse("token-list"), {"name": "bench script", "role": role})
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def program(self, token: str) -> APIClient:
        client = APIClient(enforce_csrf_checks=True)
        client.credentials(HTTP_AUTHORIZATION=f"Bearer {token}")
        return client

    def add_car(self, client: APIClient) -> int:
        return client.post(reverse("car-list"), {"name": "Vireo"}).status_code

    def test_a_program_writes_under_its_owners_name_without_a_session(self):
        self.assertEqual(self.add_car(self.program(self.made()["token"])), 201)
        self.assertTrue(Car.objects.filter(name="Vireo").exists())

    def test_the_secret_is_shown_once_and_only_its_hash_is_kept(self):
        token = self.made()["token"]
        row = AccessToken.objects.get()
        self.assertNotIn(token, str(row.__dict__))
        self.assertTrue(token.endswith(row.ending))
        (listed,) = self.browser.get(reverse("token-list")).json()["results"]
        self.assertNotIn("token", listed)

    def test_one_whose_role_is_not_named_reads(self):
        answer = self.browser.post(reverse("token-list"), {"name": "bench script"})
        self.assertEqual((answer.status_code, answer.json()["role"]), (201, "reader"))

    def test_a_readers_token_of_a_tester_reads_only(self):
        reader = self.program(self.made(Role.READER)["token"])
        self.assertEqual(reader.get(reverse("car-list")).status_code, 200)
        self.assertEqual(self.add_car(reader), 403)
        self.person.refresh_from_db()
        self.assertEqual(self.person.role, Role.TESTER)

    def test_it_has_never_more_than_its_owner(self):
        self.assertIn("role", self.made(Role.ADMINISTRATOR, 400)["errors"])
        token = self.made()["token"]
        User.objects.filter(pk=self.person.pk).update(role=Role.READER)
        self.assertEqual(self.add_car(self.program(token)), 403)

    def test_a_revoked_a_wrong_and_a_disabled_persons_token_are_refused(self):
        made = self.made()
        kept = self.program(self.made()["token"])
        self.assertEqual(self.browser.delete(reverse("token-detail", args=[made["id"]])).status_code, 204)
        for token in (made["token"], "coombe_guess", ""):
            answer = self.program(token).get(reverse("car-list"))
            self.assertEqual(answer.status_code, 401, token)
            self.assertEqual(answer.headers["WWW-Authenticate"], "Bearer")
        User.objects.filter(pk=self.person.pk).update(is_active=False)
        self.assertEqual(kept.get(reverse("car-list")).status_code, 401)

    def test_a_token_makes_no_token_and_sees_nobody_elses(self):
        program = self.program(self.made()["token"])
        self.assertEqual(program.post(reverse("token-list"), {"name": "x", "role": "reader"}).status_code, 403)
        other = APIClient()
        other.force_login(UserFactory(role=Role.ADMINISTRATOR), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(other.get(reverse("token-list")).json()["count"], 0)
        self.assertEqual(other.delete(reverse("token-detail", args=[AccessToken.objects.get().pk])).status_code, 404)

    def test_what_it_deletes_is_logged_under_its_owner(self):
        car = CarFactory()
        self.person = UserFactory(role=Role.ADMINISTRATOR)
        self.browser.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")
        program = self.program(self.made(Role.ADMINISTRATOR)["token"])
        self.assertEqual(program.delete(reverse("car-detail", args=[car.pk])).status_code, 204)
        event = SecurityEvent.objects.get(kind="deleted")
        self.assertEqual((event.username, event.detail), (self.person.username, f"/api/v1/cars/{car.pk}/"))
        self.assertEqual(SecurityEvent.objects.filter(kind="token").count(), 1)

    def test_when_it_was_used_is_kept(self):
        token = self.made()["token"]
        self.assertIsNone(AccessToken.objects.get().used_at)
        self.program(token).get(reverse("car-list"))
        self.assertIsNotNone(AccessToken.objects.get().used_at)


class DocsPageTest(TestCase):
    def test_the_docs_page_fetches_nothing_from_elsewhere(self):
        person = APIClient()
        person.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        answer = person.get(reverse("api-docs"))
        self.assertEqual(answer.status_code, 200)
        page = answer.content.decode()
        self.assertIn("/static/drf_spectacular_sidecar/", page)
        self.assertNotIn("//cdn", page)
        self.assertNotIn("<script>", page)  # the content security policy would refuse it
        self.assertEqual(person.get(reverse("schema"), HTTP_ACCEPT="application/vnd.oai.openapi+json").status_code, 200)

    def test_it_takes_a_log_in(self):
        self.assertEqual(APIClient().get(reverse("api-docs")).status_code, 401)
