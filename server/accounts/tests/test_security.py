"""What a stranger, a forged request or a reader gets: nothing."""

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import BrowserSession, Role
from comparisons.models import Comparison
from config import settings as written
from runs.models import Log, Run
from runs.tests.factories import PASSWORD, RunFactory, SetupFactory, UserFactory

BACKEND = "django.contrib.auth.backends.ModelBackend"


class ForgedRequestTest(TestCase):
    def setUp(self):
        self.client = APIClient(enforce_csrf_checks=True)
        self.client.force_login(UserFactory(), backend=BACKEND)

    def test_writing_without_the_token_is_refused(self):
        driven = RunFactory()
        for address, given in (
            (reverse("car-list"), {"name": "X"}),
            (reverse("run-void", args=[driven.pk]), {"revision": 1, "reason": "jumped"}),
            (reverse("comparison-preview"), {}),
        ):
            self.assertEqual(self.client.post(address, given).status_code, 403, address)
        self.assertEqual(Run.objects.get().validity, "valid")

    def test_an_upload_without_the_token_is_refused(self):
        form = {"file": SimpleUploadedFile("a.nmea", b"x"), "setup": SetupFactory().pk}
        self.assertEqual(self.client.post(reverse("log-list"), form, format="multipart").status_code, 403)


class ReaderTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(role=Role.READER), backend=BACKEND)
        self.driven = RunFactory()

    def test_a_reader_changes_no_run(self):
        address = reverse("run-detail", args=[self.driven.pk])
        self.assertEqual(self.client.patch(address, {"revision": 1, "notes": "x"}).status_code, 403)
        for name in ("run-void", "run-keep"):
            given = {"revision": 1, "reason": "jumped"}
            self.assertEqual(self.client.post(reverse(name, args=[self.driven.pk]), given).status_code, 403)
        self.assertEqual(Run.objects.get().revision, 1)

    def test_a_reader_imports_and_saves_nothing(self):
        form = {"file": SimpleUploadedFile("a.nmea", b"x"), "setup": self.driven.setup_id}
        self.assertEqual(self.client.post(reverse("log-list"), form, format="multipart").status_code, 403)
        asked = {"measure": "0-60 mph", "clock": "rollout", "before": [], "after": [], "title": "x"}
        self.assertEqual(self.client.post(reverse("comparison-list"), asked).status_code, 403)
        self.assertEqual((Log.objects.count(), Comparison.objects.count()), (1, 0))

    def test_a_reader_sees_runs_and_their_sheet(self):
        self.assertEqual(self.client.get(reverse("run-list")).data["count"], 1)
        self.assertEqual(self.client.get(reverse("run-detail", args=[self.driven.pk])).status_code, 200)


class SessionSafetyTest(TestCase):
    def test_logging_in_changes_the_session_and_hides_it_from_scripts(self):
        person = UserFactory()
        client = APIClient()
        planted = client.session
        planted["chosen by"] = "a stranger"
        planted.save()
        client.cookies[settings.SESSION_COOKIE_NAME] = planted.session_key
        client.post(reverse("session"), {"username": person.username, "password": PASSWORD})
        cookie = client.cookies[settings.SESSION_COOKIE_NAME]
        self.assertNotEqual(cookie.value, planted.session_key)
        self.assertFalse(BrowserSession.objects.filter(session_key=planted.session_key).exists())
        self.assertTrue(cookie["httponly"])
        self.assertEqual(cookie["samesite"], "Lax")

    def test_logging_out_ends_it(self):
        client = APIClient()
        client.force_login(UserFactory(), backend=BACKEND)
        self.assertEqual(client.delete(reverse("session")).status_code, 204)
        self.assertEqual(client.get(reverse("car-list")).status_code, 401)

    def test_an_inactive_person_is_not_let_in(self):
        person = UserFactory(is_active=False)
        answer = APIClient().post(reverse("session"), {"username": person.username, "password": PASSWORD})
        self.assertEqual(answer.status_code, 403)

    def test_passwords_are_never_stored_or_shown_as_they_are(self):
        person = UserFactory()
        self.assertNotIn(PASSWORD, person.password)
        client = APIClient()
        client.force_login(person, backend=BACKEND)
        self.assertNotIn("password", client.get(reverse("session")).content.decode())

    def test_debug_is_off_and_the_key_is_this_installation_s_own(self):
        self.assertIs(written.DEBUG, False)  # the test runner switches off what it finds
        self.assertGreaterEqual(len(settings.SECRET_KEY), 50)
        self.assertNotIn("insecure", settings.SECRET_KEY)

    def test_only_the_names_of_this_machine_are_answered(self):
        with self.settings(ALLOWED_HOSTS=["127.0.0.1"]):
            self.assertEqual(APIClient().get(reverse("session"), headers={"host": "elsewhere"}).status_code, 400)
