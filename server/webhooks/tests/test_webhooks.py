"""Webhooks: sent in the order of things, signed so that a receiver can check it, again where it was not taken.

The signature is checked with OpenSSL, which is no part of Coombe.
"""

from __future__ import annotations

import http.server
import json
import subprocess
import threading

from django.db import transaction
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult
from rest_framework.test import APIClient

from accounts.models import Role, SecurityEvent
from comparisons.tests.test_comparisons import ASKED, Groups, asked_groups
from recording.finishing import in_trouble
from recording.models import Recording
from runs.importing import worker_began
from runs.models import Run
from runs.tests.factories import RunFactory, UserFactory
from runs.tests.test_importing import DATABASE
from webhooks.models import Delivery, Webhook
from webhooks.sending import PAUSES, send

EVERYTHING = ["run stored", "comparison saved", "recording in trouble"]


class Receiver(http.server.BaseHTTPRequestHandler):
    """Answers as it is bidden, and keeps what came."""

    def do_POST(self):
        body = self.rfile.read(int(self.headers["Content-Length"]))
        self.server.came.append((dict(self.headers), body))
        self.send_response(self.server.status)
        if self.server.status == 302:
            self.send_header("Location", f"http://127.0.0.1:{self.server.server_port}/elsewhere")
        self.end_headers()

    def log_message(self, *args):
        """Quiet."""


class Hooked:
    """An address on this machine that takes what it is sent."""

    def setUp(self):
        super().setUp()
        self.receiver = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Receiver)
        self.receiver.came, self.receiver.status = [], 204
        thread = threading.Thread(target=self.receiver.serve_forever)
        thread.start()
        self.addCleanup(thread.join)
        self.addCleanup(self.receiver.server_close)
        self.addCleanup(self.receiver.shutdown)
        self.boss = APIClient()
        self.boss.force_login(UserFactory(role=Role.ADMINISTRATOR), backend="django.contrib.auth.backends.ModelBackend")
        self.address = f"http://127.0.0.1:{self.receiver.server_port}/hook"

    def hook(self, *events: str, address: str = "", status: int = 201) -> dict:
        given = {"address": address or self.address, "events": list(events or EVERYTHING)}
        answer = self.boss.post(reverse("webhook-list"), given)
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def sent(self) -> list[dict]:
        """What came, once a worker has done what it is left with."""
        for delivery in Delivery.objects.order_by("pk"):
            send.call(delivery.pk)
        return [json.loads(body) for _, body in self.receiver.came]


@override_settings(TASKS=DATABASE)
class AnnouncedTest(Hooked, Groups, TestCase):
    def test_a_run_a_comparison_and_a_recording_in_trouble_are_sent(self):
        self.hook()
        run = RunFactory()
        groups = asked_groups(self.groups["before"], self.groups["after"])
        saved = self.client.post(reverse("comparison-list"), ASKED | groups | {"title": "Did it?"}).json()
        in_trouble.send(sender=Recording, name="Car one", trouble="The disk is full.")
        first, second, third = self.sent()
        self.assertEqual((first["event"], first["about"]["id"]), ("run stored", run.pk))
        self.assertEqual((second["event"], second["about"]["id"]), ("comparison saved", saved["id"]))
        self.assertEqual(second["about"]["sentences"], [pair["sentence"] for pair in saved["result"]["pairs"]])
        self.assertEqual(third["about"], {"name": "Car one", "trouble": "The disk is full.", "page": "/record"})
        self.assertEqual(set(Delivery.objects.values_list("answer", "tries")), {("204", 1)})

    def test_only_what_was_asked_for_and_once(self):
        self.hook("run stored")
        run = RunFactory()
        run.notes = "changed"
        run.save()
        in_trouble.send(sender=Recording, name="Car one", trouble="The disk is full.")
        self.assertEqual([each["event"] for each in self.sent()], ["run stored"])

    def test_what_is_taken_back_is_not_kept_for_sending(self):
        self.hook()
        with self.assertRaises(ValueError), transaction.atomic():
            RunFactory()
            raise ValueError
        self.assertFalse(Delivery.objects.exists() or DBTaskResult.objects.exists())


@override_settings(TASKS=DATABASE)
class SentTest(Hooked, TestCase):
    def test_the_signature_is_what_openssl_makes(self):
        secret = self.hook()["secret"]
        RunFactory()
        self.sent()
        ((headers, body),) = self.receiver.came
        asked = ["openssl", "dgst", "-sha256", "-hmac", secret]
        signed = f"{headers['Coombe-Time']}.".encode() + body
        found = subprocess.run(asked, input=signed, capture_output=True, check=True).stdout.decode()
        self.assertEqual(headers["Coombe-Signature"], found.rsplit("= ", 1)[1].strip())
        self.assertEqual(headers["Coombe-Delivery"], str(Delivery.objects.get().pk))
        self.assertLess(abs(int(headers["Coombe-Time"]) - timezone.now().timestamp()), 60)

    def test_what_is_not_taken_waits_longer_each_time_and_is_given_up_in_the_end(self):
        self.hook()
        self.receiver.status = 503
        RunFactory()
        delivery = Delivery.objects.get()
        send.call(delivery.pk)
        for tries, pause in enumerate(PAUSES, 1):
            delivery.refresh_from_db()
            left = DBTaskResult.objects.order_by("-enqueued_at").first()
            self.assertEqual((left.args_kwargs["args"], left.run_after), ([delivery.pk], delivery.due_at))
            self.assertEqual((delivery.tries, delivery.answer, delivery.given_up), (tries, "503", False))
            self.assertAlmostEqual((delivery.due_at - timezone.now()) / pause, 1, delta=0.5)
            send.call(delivery.pk)  # not due yet
            self.assertEqual(len(self.receiver.came), tries)
            Delivery.objects.update(due_at=timezone.now())
            send.call(delivery.pk)
        delivery.refresh_from_db()
        self.assertTrue(delivery.given_up)
        self.assertEqual(len({body for _, body in self.receiver.came}), 1)
        send.call(delivery.pk)
        self.assertEqual(len(self.receiver.came), len(PAUSES) + 1)
        self.receiver.status = 200
        self.assertEqual(self.boss.post(reverse("webhook-delivery-again", args=[delivery.pk])).json()["tries"], 0)
        self.sent()
        delivery.refresh_from_db()
        self.assertEqual((delivery.answer, delivery.given_up), ("200", False))
        self.assertIsNotNone(delivery.taken_at)

    def test_nobody_there_and_an_address_that_leads_elsewhere(self):
        self.receiver.status = 302
        self.hook()
        RunFactory()
        self.assertEqual(len(self.sent()), 1)  # it was not followed
        self.assertEqual(Delivery.objects.get().answer, "302")
        Webhook.objects.all().delete()
        self.hook(address="http://127.0.0.1:9/")
        RunFactory()
        self.sent()
        self.assertIn("does not answer", Delivery.objects.get().answer)

    def test_a_worker_that_begins_takes_up_what_one_before_it_left(self):
        self.hook()
        RunFactory()
        DBTaskResult.objects.all().delete()
        worker_began.send(sender=None)
        (left,) = DBTaskResult.objects.all()
        self.assertEqual(left.args_kwargs["args"], [Delivery.objects.get().pk])
        self.sent()
        DBTaskResult.objects.all().delete()
        worker_began.send(sender=None)
        self.assertFalse(DBTaskResult.objects.exists())


@override_settings(TASKS=DATABASE)
class AddressTest(Hooked, TestCase):
    def test_the_secret_is_shown_once(self):
        secret = self.hook()["secret"]
        self.assertGreater(len(secret), 40)
        self.assertNotIn(secret, self.boss.get(reverse("webhook-list")).content.decode())
        self.assertEqual(SecurityEvent.objects.filter(kind="webhook", detail=f"added {self.address}").count(), 1)

    def test_addresses_that_others_could_read_or_that_are_none(self):
        for address in ("http://example.org/", "ftp://example.org/", "https://a:b@example.org/", "words", "https://"):
            self.assertIn("address", self.hook(address=address, status=400)["errors"])
        self.assertIn("events.0", self.hook("run lost", status=400)["errors"])
        self.hook(address="https://example.org/hook")

    def test_a_removed_address_is_sent_nothing_more(self):
        number = self.hook()["id"]
        self.assertEqual(self.boss.delete(reverse("webhook-detail", args=[number])).status_code, 204)
        RunFactory()
        self.assertEqual((self.sent(), Run.objects.count()), ([], 1))
