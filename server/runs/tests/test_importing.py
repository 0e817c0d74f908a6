"""Imports in the background: answered at once, timed by a worker, followed, canceled, taken up again."""

from __future__ import annotations

from pathlib import Path
from unittest import mock

from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import OperationalError
from django.test import TransactionTestCase, override_settings
from django.urls import reverse
from rest_framework.test import APIClient

from config import again
from runs import importing, services
from runs.models import Import, Log, Run
from runs.tests.factories import SetupFactory, UserFactory
from runs.tests.test_import import log_bytes

DATABASE = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}


@override_settings(TASKS=DATABASE)
class BackgroundTest(TransactionTestCase):
    def setUp(self):
        self.client = APIClient()
        self.person = UserFactory()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def send(self, data: bytes, **more):
        form = {"file": SimpleUploadedFile("day.nmea", data), "setup": SetupFactory().pk, **more}
        return self.client.post(reverse("log-list"), form, format="multipart")

    def work(self) -> None:
        call_command("work", once=True)

    def read(self, number: int) -> dict:
        return self.client.get(reverse("import-detail", args=[number])).json()

    def waiting_bytes(self) -> list[Path]:
        folder = Path(default_storage.path(importing.FOLDER))
        return sorted(folder.glob("*")) if folder.exists() else []

    def test_it_is_answered_before_anything_is_timed(self):
        with mock.patch.object(services, "analyse_log") as timing:
            answer = self.send(log_bytes())
            timing.assert_not_called()
        self.assertEqual((answer.status_code, answer.json()["state"]), (202, "waiting"))
        self.assertEqual(Run.objects.count(), 0)
        self.work()
        made = self.client.get(answer["Location"]).json()
        self.assertEqual((made["state"], made["runs_found"], made["runs_timed"]), ("done", 2, 2))
        self.assertEqual(len(made["log"]["run_ids"]), 2)
        self.assertEqual(self.waiting_bytes(), [])

    def test_one_that_was_stored_without_an_answer_is_taken_once(self):
        save, calls = Import.save, []

        def losing(made: Import, *args, **kwargs) -> None:
            save(made, *args, **kwargs)
            calls.append(made)
            if len(calls) == 1:
                made.pk, made._state.adding = None, True
                raise OperationalError(2013, "Lost connection to server during query")

        with mock.patch.object(Import, "save", losing), mock.patch.object(again, "AWAY_PAUSE_S", 0.0):
            answer = self.send(log_bytes())
        self.assertEqual((answer.status_code, Import.objects.count()), (202, 1))
        self.work()
        self.assertEqual((self.client.get(answer["Location"]).json()["state"], Log.objects.count()), ("done", 1))

    def test_of_two_workers_that_take_the_same_import_one_does_it_and_the_other_leaves_it(self):
        number = self.send(log_bytes()).json()["id"]
        time_import, read = importing.time_import.func, importing._read

        def overtaken(made: Import):
            if not Log.objects.exists():
                with mock.patch.object(importing, "_read", read):
                    time_import(number)
            return read(made)  # whose bytes are gone by now

        with mock.patch.object(importing, "_read", overtaken):
            time_import(number)
        self.assertEqual((self.read(number)["state"], Log.objects.count()), ("done", 1))
        time_import(number)
        self.assertEqual(self.read(number)["state"], "done")

    def test_conditions_of_the_form_reach_the_runs(self):
        self.send(log_bytes(), charge_before_percent=92, drive_mode="Sport")
        self.work()
        run = Run.objects.first()
        self.assertEqual((run.charge_before_percent, run.drive_mode), (92, "Sport"))

    def test_known_bytes_are_answered_without_timing(self):
        self.send(log_bytes())
        self.work()
        with mock.patch.object(services, "analyse_log") as timing:
            answer = self.send(log_bytes())
            self.work()
            timing.assert_not_called()
        self.assertEqual((answer.status_code, answer.json()["already"]), (200, True))
        self.assertEqual(answer.json()["log"]["id"], Log.objects.get().pk)

    def test_a_file_that_can_t_be_read_is_refused_with_its_sentence(self):
        number = self.send(b"no log at all").json()["id"]
        self.work()
        made = self.read(number)
        self.assertEqual((made["state"], made["refusal"]["status"]), ("refused", 400))
        self.assertIn("day.nmea", made["refusal"]["errors"]["file"][0])
        self.assertEqual((Log.objects.count(), self.waiting_bytes()), (0, []))

    def test_what_nobody_foresaw_ends_one_import_and_not_the_worker(self):
        first, second = (self.send(log_bytes(seed=seed)).json()["id"] for seed in (21, 22))
        real = services.import_log

        def broken(name, data, *args, **kwargs):
            if data == log_bytes(seed=21):
                raise RuntimeError("never seen")
            return real(name, data, *args, **kwargs)

        with mock.patch.object(services, "import_log", broken), self.assertLogs("config.errors", "ERROR"):
            self.work()
        self.assertEqual(self.read(first)["refusal"]["code"], "failed")
        self.assertEqual(self.read(second)["state"], "done")

    def test_an_import_that_waits_can_be_canceled(self):
        page = reverse("import-detail", args=[self.send(log_bytes()).json()["id"]])
        self.assertEqual(self.client.delete(page).status_code, 204)
        self.work()
        self.assertEqual((Log.objects.count(), self.waiting_bytes()), (0, []))
        self.assertEqual(self.client.get(page).json()["state"], "canceled")
        self.assertEqual(self.client.delete(page).status_code, 409)

    def test_one_that_is_canceled_while_it_is_timed_stores_nothing(self):
        made = Import.objects.get(pk=self.send(log_bytes("five-runs")).json()["id"])
        real = importing._counting

        def canceling(number):
            each = real(number)

            def counted(act, things):
                for place, thing in enumerate(each(act, things)):
                    if place == 1:
                        importing.cancel(made)
                    yield thing

            return counted

        with mock.patch.object(importing, "_counting", canceling):
            self.work()
        made.refresh_from_db()
        self.assertEqual((made.state, Log.objects.count()), ("canceled", 0))

    def test_what_a_killed_worker_left_is_taken_up_by_the_next(self):
        number = self.send(log_bytes()).json()["id"]
        with mock.patch.object(services, "import_log", side_effect=SystemExit), self.assertRaises(SystemExit):
            importing.time_import.func(number)
        self.assertEqual(self.read(number)["state"], "timing")
        self.work()
        self.assertEqual(self.read(number)["state"], "done")
        self.assertEqual(Log.objects.count(), 1)

    def test_whoever_sent_it_cancels_it_and_nobody_else(self):
        page = reverse("import-detail", args=[self.send(log_bytes()).json()["id"]])
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.delete(page).status_code, 403)
