"""Logs as they are kept: downloaded unchanged, deleted with what hangs on them, brought back, imported again."""

from __future__ import annotations

from django.core.management import call_command
from django.urls import reverse
from django.utils import timezone

from comparisons.models import Comparison, Group
from history.models import Action
from runs.models import Log, Run
from runs.originals import named
from runs.tests.factories import SetupFactory
from runs.tests.test_import import ImportTest, log_bytes


class LogsTest(ImportTest):
    def setUp(self):
        super().setUp()
        self.send(log_bytes(), "evening.nmea")
        self.log = Log.objects.get()

    def ask(self, name: str, **query):
        return self.client.get(reverse(f"log-{name}", args=[self.log.pk]), query)

    def delete(self):
        return self.client.delete(reverse("log-detail", args=[self.log.pk]))

    def undo(self):
        return self.client.post(reverse("action-undo", args=[Action.objects.first().pk]))

    def test_the_original_bytes_come_back_under_their_name(self):
        answer = self.ask("original")
        self.assertEqual(answer.content, log_bytes())
        self.assertIn('filename="evening.nmea"', answer["Content-Disposition"])

    def test_what_hangs_on_it_is_said_beforehand(self):
        comparison = Comparison.objects.create(title="Update", measure="0-60 mph", created_by=self.log.imported_by)
        group = Group.objects.create(comparison=comparison, position=0, name="before")
        group.runs.set(self.log.runs.all())
        sentence = self.ask("deletion").json()["sentence"]
        self.assertRegex(sentence, r"^With it go \d runs. Saved comparison with them: Update. You can undo this for 30")
        self.assertEqual(self.delete().status_code, 204)
        self.assertEqual(group.members.count(), 0)
        self.assertEqual(self.undo().status_code, 201)
        self.assertEqual(group.members.count(), self.log.runs.count())

    def test_a_deleted_log_keeps_its_bytes_while_it_can_come_back(self):
        self.delete()
        self.assertEqual(named(), {self.log.sha256: "deleted evening.nmea"})
        Action.objects.update(done_at=timezone.now() - timezone.timedelta(days=31))
        call_command("check_store", "--empty-trash")
        self.assertEqual(named(), {})

    def test_a_deleted_log_is_imported_under_another_setup_and_the_first_stays_away(self):
        self.delete()
        other = SetupFactory(name="7.2")
        self.assertEqual(self.send(log_bytes(), "evening.nmea", setup=other.pk).status_code, 201)
        self.assertEqual(set(Run.objects.values_list("setup", flat=True)), {other.pk})
        deletion = Action.objects.get(title__startswith="Deleted log")
        refused = self.client.post(reverse("action-undo", args=[deletion.pk]))
        self.assertEqual(refused.status_code, 409)
        self.assertIn("Something else stands in its place", refused.json()["detail"])
        self.assertEqual(Log.objects.count(), 1)

    def test_an_import_is_taken_back_and_the_list_finds_logs_by_setup(self):
        setup = Run.objects.first().setup_id
        for asked, found in ((setup, 1), (setup + 1000, 0)):
            self.assertEqual(self.client.get(reverse("log-list"), {"setup": asked}).json()["count"], found)
        self.assertEqual(self.undo().status_code, 201)
        self.assertFalse(Run.objects.exists() or Log.objects.exists())
