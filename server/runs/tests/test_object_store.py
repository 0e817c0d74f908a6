"""The store in a bucket: all that the folder does, against a simulated object store, and how it fails."""

from __future__ import annotations

import hashlib
import logging
import os
from datetime import timedelta
from unittest import mock

import boto3
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone
from moto.server import ThreadedMotoServer
from rest_framework.test import APIClient

from accounts.models import Role
from coombe_launcher.database import free_port
from runs import store
from runs.tests.factories import SetupFactory, UserFactory
from runs.tests.test_import import log_bytes, settled

DATA = b"$GPRMC,a log"
HASH = hashlib.sha256(DATA).hexdigest()
KEYS = {"AWS_ACCESS_KEY_ID": "simulated", "AWS_SECRET_ACCESS_KEY": "simulated"}


class ObjectStoreTest(TestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.server = ThreadedMotoServer(ip_address="127.0.0.1", port=free_port(), verbose=False)
        cls.server.start()
        logging.getLogger("werkzeug").setLevel(logging.ERROR)
        cls.addClassCleanup(cls.server.stop)
        cls.endpoint = "http://{}:{}".format(*cls.server.get_host_and_port())

    def setUp(self):
        self.enterContext(mock.patch.dict(os.environ, KEYS))
        self.bucket = boto3.resource("s3", endpoint_url=self.endpoint, region_name="us-east-1").Bucket("tests")
        self.bucket.create()
        self.addCleanup(self.empty)
        self.use("tests", self.endpoint)

    def empty(self) -> None:
        self.bucket.objects.all().delete()
        self.bucket.delete()

    def use(self, bucket: str, endpoint: str) -> None:
        options = {"bucket_name": bucket, "endpoint_url": endpoint, "region_name": "us-east-1", "file_overwrite": True}
        static = {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}
        made = {"BACKEND": "runs.object_store.ObjectStorage", "OPTIONS": {**options, "default_acl": None}}
        self.enterContext(override_settings(STORAGES={"default": made, "staticfiles": static}))

    def keys(self) -> list[str]:
        return sorted(each.key for each in self.bucket.objects.all())

    def test_bytes_are_kept_once_under_their_hash_and_read_back(self):
        store.keep(DATA, HASH)
        store.keep(DATA, HASH)
        self.assertEqual(self.keys(), [store.address(HASH)])
        self.assertEqual(store.read(HASH), DATA)

    def test_damaged_bytes_are_found_and_give_way_to_the_right_ones(self):
        self.bucket.put_object(Key=store.address(HASH), Body=b"damaged")
        with self.assertRaisesRegex(store.MissingBytesError, "is damaged"):
            store.read(HASH)
        self.assertEqual(store.check({HASH}).damaged, [HASH])
        store.keep(DATA, HASH)
        self.assertTrue(store.check({HASH}).sound)

    def test_what_is_missing_or_unknown_is_named_and_goes_to_the_trash_and_back(self):
        store.keep(DATA, HASH)
        found = store.check({"f" * 64})
        self.assertEqual((found.missing, found.unknown), (["f" * 64], [HASH]))
        self.assertEqual(store.to_trash(set()), [HASH])
        self.assertEqual((store.in_trash(), self.keys()), ([HASH], [f"trash/{HASH}"]))
        self.assertEqual(store.take_back(HASH), DATA)
        self.assertEqual(store.in_trash(), [])

    def test_the_trash_is_emptied_after_thirty_days(self):
        store.keep(DATA, HASH)
        store.to_trash(set())
        self.assertEqual(store.empty_trash(), [])
        with mock.patch.object(store.timezone, "now", return_value=timezone.now() + timedelta(days=31)):
            self.assertEqual(store.empty_trash(), [HASH])
        self.assertEqual(self.keys(), [])

    def test_a_log_is_imported_into_it_and_sent_back_as_it_came(self):
        client = APIClient()
        client.force_login(UserFactory(role=Role.TESTER), backend="django.contrib.auth.backends.ModelBackend")
        data = log_bytes()
        given = {"file": SimpleUploadedFile("a.nmea", data), "setup": SetupFactory().pk}
        answer = settled(client, client.post(reverse("log-list"), given, format="multipart"))
        self.assertEqual(answer.status_code, 201)
        self.assertEqual(self.keys(), [store.address(hashlib.sha256(data).hexdigest())])
        back = client.get(reverse("log-original", args=[answer.data["log"]["id"]]))
        self.assertEqual(b"".join(back.streaming_content) if back.streaming else back.content, data)

    def test_a_bucket_without_rights_or_that_is_not_there_is_said_and_nothing_is_stored(self):
        self.use("elsewhere", self.endpoint)
        with self.assertRaisesRegex(store.StoreError, "The store can't be written: .*Nothing was stored"):
            store.keep(DATA, HASH)
        self.assertEqual(self.keys(), [])
        self.assertIn("can't be written", APIClient().get(reverse("health-ready")).json()["store"])

    def test_one_that_does_not_answer_is_said(self):
        self.use("tests", f"http://127.0.0.1:{free_port()}")
        with self.assertRaisesRegex(store.StoreError, "does not answer"):
            store.keep(DATA, HASH)
